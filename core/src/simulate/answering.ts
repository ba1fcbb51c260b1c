import type { Action, ActionOf, Answer, CueSourceOf } from "../action/answer";
import type { Who } from "../action/cueSources";
import { type Pose, restingPose } from "../document/poses";
import { runningOf } from "../document/running";
import type { Scene } from "../document/scene";
import type { By, Take, VisitorEvent } from "../document/take";
import { TAPE_UNIT, type UnitEvent, UnitTimes } from "../document/units";
import { hashed } from "../dsp/hash";
import { cuesUpTo } from "../evaluate/activeBinding";
import { CAMERA_VIEW, changedBy } from "../evaluate/changed";
import { bpmOf, type ObjectPlan, type ScenePlan } from "../evaluate/plan";
import type { Tracks, ValueSource } from "../evaluate/values";
import { hasMovingBodies, settingOf, solidityOf } from "../kinds/table";
import { platform } from "../platform";
import type { ColourStop } from "../setting/descriptor";
import { clockBeats } from "../sound/clock";
import { trackMeanAt, trackTimeAt } from "../strand/track";
import type { Bodies, BodyRef, Hold, Holder, Point, Presence } from "./bodies";
import { composeTurned, decompose, toLocal } from "./matrix";
import { RestChanges, type RestState } from "./restChanges";
import { StepPlaces } from "./stepPlaces";
import { STEP_S } from "./stepper";
import { ZoneStrands } from "./zoneStrands";
import { nearness, nearnessOfStanding } from "./zones";

/** One cue that an answer has taken. */
export interface Firing {
  timeS: number;
  /** 0..1 */
  strength: number;
  /** Where it happened, if that can be said. */
  point: Point | null;
  objectId: string | null;
  copy: number;
  by: By | null;
}

/** What happened, for lists, ticks and clicks. */
export interface Fired {
  answerId: string;
  timeS: number;
  strength: number;
}

/** What is felt, not seen: for devices that can do so. */
export interface HapticPulse {
  timeS: number;
  by: By | null;
  strength: number;
  forMs: number;
}

/** How long a unit is and whether it goes round. */
export interface UnitLength {
  lengthS: number;
  loops: boolean;
  fromS?: number;
}

interface Pending {
  atS: number;
  answer: number;
  action: number;
  firing: Firing;
}

interface Fade {
  fromDb: number;
  toDb: number;
  startS: number;
  overS: number;
}

/** Copies that actions have put somewhere: when each was born, and its place about the object's middle. */
interface CueCopies {
  /** −1 for a copy that is not there. */
  bornS: number[];
  places: number[];
}

/** Everything that is remembered from step to step: plain data, to be kept and brought back. */
interface State {
  rest: RestState;
  /** By answer: how often it has fired, and when last. */
  fired: number[];
  lastS: number[];
  /** By answer: who is inside, near or touching. */
  inside: Record<string, string[]>;
  /** By answer and action: which of a list comes next. */
  next: Record<string, number>;
  pending: Pending[];
  pendingUnits: UnitEvent[];
  /** Properties that are as they are for as long as a unit plays. */
  whilePlaying: { key: string; unitId: string; hasBegun: boolean; sinceS: number }[];
  fades: Record<string, Fade>;
  copies: Record<string, CueCopies>;
  holds: Partial<Record<Holder, Hold>>;
  running: Record<string, boolean>;
}

/** What is kept of answers, to continue from later. */
export interface AnsweringState {
  state: State;
  fired: number;
  frames: number;
}

/** A thing that is to show for as long as a sound plays waits this long for it to begin, s. */
const WAITS_S = 1;
/** Time over which the speed of a hand is taken, in steps. */
const SPEED_STEPS = 6;
/** A hand as fast as this strikes at full strength, m/s. */
const FULL_STRIKE = 2.5;
/** Bodies that meet this hard do so at full strength, N·s. */
const FULL_IMPULSE = 5;
const HAND_REACH_M = 0.07;
/** A tape that goes further than this within a step was moved. */
const JUMP_S = 0.05;
const BEFORE_VISITOR_M = 1.2;
const HOLD_EVERY_MS = 100;
/** The lowest level of a fade is silence. */
const SILENT_DB = -60;

/**
 * The answers of a scene: cues and what happens on them, in steps of 1/120 s. With the bodies it is the part of a scene that
 * remembers without end; everything it remembers can be kept and brought back.
 */
export class Answering {
  readonly places: StepPlaces;
  readonly changes: RestChanges;
  readonly zones: ZoneStrands;
  /** Where the tape and the units are: what the take says, and what answers did. */
  readonly units = new UnitTimes();
  /** Every cue an answer has taken so far. */
  readonly history: Fired[] = [];
  /** Pulses since they were last taken away. */
  pulses: HapticPulse[] = [];
  bodies: Bodies | undefined;
  private readonly plan: ScenePlan;
  private readonly take: () => Take | undefined;
  private readonly tracks: () => Tracks;
  private readonly lengths: () => ReadonlyMap<string, UnitLength>;
  private readonly answers: readonly Answer[];
  private readonly sentUnits: readonly string[];
  private state: State;
  private bursts = new Map<string, number>();
  private readonly head = restingPose();
  private readonly hands = { left: restingPose(), right: restingPose() };
  private present: Presence = { standing: undefined, hands: {} };
  private step = 0;
  private fromS = 0;
  private toS = 0;
  private nextUnit = 0;

  constructor(
    source: ValueSource,
    take: () => Take | undefined,
    tracks: () => Tracks,
    lengths: () => ReadonlyMap<string, UnitLength>,
  ) {
    this.plan = source.plan;
    this.take = take;
    this.tracks = tracks;
    this.lengths = lengths;
    this.places = new StepPlaces(source);
    const { scene } = source.plan;
    this.answers = scene.answers.filter(({ on }) => on);
    this.zones = new ZoneStrands(scene);
    this.changes = new RestChanges(
      source.plan,
      this.answers.flatMap(({ actions }) => actions.flatMap(changedBy)),
    );
    const alone = scene.sounds.flatMap((sound) => {
      const { runs, unitId } = runningOf(scene, sound);
      return runs === "alone" ? [unitId] : [];
    });
    this.sentUnits = [TAPE_UNIT, ...new Set(alone)];
    this.state = this.newState();
    this.reads = this.findReads();
  }

  private findReads(): ReadonlySet<ObjectPlan> {
    const ids = new Set<string>(["world"]);
    for (const { cue, only, actions } of this.answers) {
      for (const one of [cue, only, ...actions]) {
        for (const value of Object.values(one).flat()) if (typeof value === "string") ids.add(value);
      }
      if (actions.some(({ kind }) => kind === "stepViews")) ids.add("camera");
    }
    const reads = new Set<ObjectPlan>();
    for (const plan of this.plan.plans) {
      const { object, copies } = plan;
      const isRead =
        ids.has(object.id) ||
        object.kind === "zone" ||
        solidityOf(object) !== "none" ||
        (copies !== undefined && settingOf(object, "formation") === "cues");
      if (isRead) for (const one of this.places.placing.chainOf(plan)) reads.add(one);
    }
    return reads;
  }

  private newState(): State {
    return {
      rest: { glides: {}, kicks: [] },
      fired: this.answers.map(() => 0),
      lastS: this.answers.map(() => -1e9),
      inside: {},
      next: {},
      pending: [],
      pendingUnits: [],
      whilePlaying: [],
      fades: {},
      copies: {},
      holds: {},
      running: {},
    };
  }

  /** Everything on the stage that it depends on. */
  readonly reads: ReadonlySet<ObjectPlan>;

  /** Whether any answer is about bodies that meet. */
  get asksForMeetings(): boolean {
    return this.answers.some(({ cue }) => cue.kind === "meet");
  }

  /** Goes back to before the first step. */
  begin(): void {
    this.state = this.newState();
    this.changes.state = this.state.rest;
    this.history.length = 0;
    this.units.dropAfter(Number.NEGATIVE_INFINITY);
    this.nextUnit = 0;
    this.zones.restore(0);
    this.step = 0;
    this.fromS = -1e-9;
    this.toS = 0;
    this.bursts.clear();
    this.takeUnits(0);
    for (const unit of this.sentUnits) this.state.running[unit] = false;
    this.places.moveTo(0);
    this.placeCopies();
    this.changes.follow();
    this.changes.write(0);
    this.bodies?.begin();
  }

  save(): AnsweringState {
    return {
      state: platform.structuredClone(this.state),
      fired: this.history.length,
      frames: this.zones.count,
    };
  }

  restore({ state, fired, frames }: AnsweringState, step: number): void {
    const timeS = step * STEP_S;
    this.state = platform.structuredClone(state);
    this.changes.state = this.state.rest;
    this.history.length = fired;
    this.zones.restore(frames);
    this.units.dropAfter(timeS);
    this.nextUnit = 0;
    const events = this.take()?.units.events ?? [];
    while (this.nextUnit < events.length && events[this.nextUnit].timeS <= timeS) this.nextUnit++;
    this.step = step;
    this.toS = timeS;
    this.fromS = timeS - STEP_S;
    this.bursts.clear();
    this.readVisitor();
    this.places.moveTo(timeS);
    this.placeCopies();
    this.changes.follow();
    this.changes.write(timeS);
  }

  /** Takes the step that ends at a time: cues first, then bodies. */
  advance(step: number, timeS: number): void {
    this.step = step;
    this.fromS = step === 1 ? -1e-9 : this.toS;
    this.toS = timeS;
    this.bursts.clear();
    this.changes.write(timeS);
    this.places.moveTo(timeS);
    this.takeUnits(timeS);
    this.readVisitor();
    this.endCopies();
    this.readZones();
    this.runPending();
    this.holdAndRelease();
    this.answers.forEach((answer, i) => {
      for (const firing of this.cuesOf(answer)) this.answer(answer, i, firing);
    });
    this.endWhilePlaying();
    for (const unit of this.sentUnits) this.state.running[unit] = this.units.isRunning(unit, timeS);
    this.changes.write(timeS);
    const { bodies } = this;
    if (!bodies) return;
    this.places.moveTo(timeS);
    bodies.setHeld(Object.values(this.state.holds));
    bodies.step(this.present, this.state.holds);
  }

  /** Particles that actions have an emitter give off in this step. */
  burstOf(objectId: string): number {
    return this.bursts.get(objectId) ?? 0;
  }

  /** Level of a sound on top of its fader, as a factor: what fades have come to. */
  gainOf(soundId: string, timeS: number): number {
    let gain = 1;
    for (const id of [soundId, TAPE_UNIT]) {
      const fade = this.state.fades[id];
      if (!fade || (id === TAPE_UNIT && !this.isOnTape(soundId))) continue;
      const db = levelOf(fade, timeS);
      gain *= db <= SILENT_DB ? 0 : 10 ** (db / 20);
    }
    return gain;
  }

  /** Whether answers have changed a level. */
  get hasFades(): boolean {
    return Object.keys(this.state.fades).length > 0;
  }

  /** Where a visitor is, as of the last step. */
  get presence(): Presence {
    return this.present;
  }

  private isOnTape(soundId: string): boolean {
    const sound = this.plan.scene.sounds.find(({ id }) => id === soundId);
    return sound !== undefined && runningOf(this.plan.scene, sound).runs === "tape";
  }

  /** Looks again at what the take says of units since the last step: it has been changed. */
  rereadUnits(): void {
    this.units.dropAfter(this.toS);
    const events = this.take()?.units.events ?? [];
    this.nextUnit = 0;
    while (this.nextUnit < events.length && events[this.nextUnit].timeS <= this.toS) this.nextUnit++;
  }

  /** Brings what is continuous to a time after the last step, before the next. */
  showAt(timeS: number): void {
    this.takeUnits(timeS);
    this.changes.write(timeS);
  }

  /** Takes over what the take says of units up to a time, and what answers have put off until then. */
  private takeUnits(timeS: number): void {
    const { pendingUnits } = this.state;
    const events = this.take()?.units.events ?? [];
    for (;;) {
      const taken = events[this.nextUnit]?.timeS <= timeS ? events[this.nextUnit] : undefined;
      const due = pendingUnits[0]?.timeS <= timeS ? pendingUnits[0] : undefined;
      if (!taken && !due) return;
      if (taken && (!due || taken.timeS < due.timeS)) {
        this.nextUnit++;
        this.units.record(taken);
      } else if (due) {
        pendingUnits.shift();
        this.units.record(due);
      }
    }
  }

  private readVisitor(): void {
    const take = this.take();
    this.present = { standing: undefined, hands: {} };
    if (!take) return;
    const { step } = this;
    if (take.poses.head.at(step, this.head)) {
      const { x, y, z } = this.head;
      const height = this.eyeHeight;
      this.present.standing = { x, y: y - height, z, height: height + 0.1 };
    }
    for (const hand of ["left", "right"] as const) {
      if (take.poses[hand].at(step, this.hands[hand])) this.present.hands[hand] = this.hands[hand];
    }
  }

  private get eyeHeight(): number {
    const world = this.plan.of("world");
    return world ? (settingOf(world.object, "eyeHeight") as number) : 1.6;
  }

  private eventsNow(): VisitorEvent[] {
    const take = this.take();
    if (!take) return [];
    const events: VisitorEvent[] = [];
    for (let i = take.firstFrom(this.step === 1 ? 0 : this.step); i < take.events.length; i++) {
      if (take.events[i].step > this.step) break;
      events.push(take.events[i]);
    }
    return events;
  }

  /** The cues of an answer's source within this step. */
  private cuesOf(answer: Answer): Firing[] {
    const { cue, id } = answer;
    const trials = this.eventsNow().some((event) => event.kind === "trial" && event.answerId === id);
    const cues = this.sourceCues(answer);
    if (trials) cues.push(this.firing({}));
    return cues.length > 0 && cue.kind === "start" ? cues.slice(0, 1) : cues;
  }

  private sourceCues({ cue, id }: Answer): Firing[] {
    switch (cue.kind) {
      case "start":
        return this.step === 1 ? [this.firing({ timeS: 0 })] : [];
      case "strand":
        return cue.strandId === null ? [] : this.strandCues(cue.strandId);
      case "tap":
        return this.eventsNow().flatMap((event) =>
          event.kind === "tap" && this.isOn(event.objectId, cue.objectId) ? [this.firing(hitOf(event))] : [],
        );
      case "press":
        return this.eventsNow().flatMap((event) => {
          const isIt = event.kind === "hold" && this.isOn(event.objectId, cue.objectId);
          if (!isIt || event.heldMs < cue.holdMs || event.heldMs - HOLD_EVERY_MS >= cue.holdMs) return [];
          return [this.firing(hitOf(event))];
        });
      case "key":
        return this.eventsNow().flatMap((event) =>
          event.kind === "key" && event.key.toLowerCase() === cue.key.toLowerCase() ? [this.firing({})] : [],
        );
      case "enter":
      case "leave":
        return this.crossings(id, cue);
      case "near":
        return this.approaches(id, cue);
      case "touch":
        return this.touches(id, cue);
      case "meet":
        return this.meetings(cue);
      case "soundStarts":
      case "soundEnds":
        return this.soundCues(cue);
      case "mark":
      case "section":
        return this.tapeCues(cue);
    }
  }

  private firing(of: Partial<Firing>): Firing {
    return { timeS: this.toS, strength: 1, point: null, objectId: null, copy: 0, by: null, ...of };
  }

  /** Whether an object is the one that is meant, or in a group that is. */
  private isOn(objectId: string | null, meant: string | null): boolean {
    if (meant === null) return true;
    const plan = objectId === null ? undefined : this.plan.of(objectId);
    return plan !== undefined && this.places.placing.chainOf(plan).some(({ object }) => object.id === meant);
  }

  private strandCues(strandId: string): Firing[] {
    const track = this.tracks().get(strandId);
    if (!track) return [];
    if (track.newest && !this.isOfZone(strandId)) {
      return this.eventsNow().flatMap((event) =>
        event.kind === "cue" && event.strandId === strandId
          ? [this.firing({ strength: event.strength })]
          : [],
      );
    }
    const cues = track.cues ?? [];
    if (track.newest) {
      // It becomes known some frames after it happened.
      const known = this.state.next[`cues ${strandId}`] ?? 0;
      this.state.next[`cues ${strandId}`] = cues.length;
      return cues.slice(known).map(({ strength }) => this.firing({ strength }));
    }
    const before = trackTimeAt(track, this.fromS);
    const now = trackTimeAt(track, this.toS);
    const found = (fromS: number, toS: number) =>
      cues.slice(cuesUpTo(cues, fromS), cuesUpTo(cues, toS)).map(({ timeS, strength }) =>
        this.firing({
          strength,
          timeS: Math.min(this.toS, Math.max(this.fromS, this.toS - (now - timeS))),
        }),
      );
    if (now >= before) return now - before < JUMP_S ? found(before, now) : [];
    const { loopS } = track;
    if (!loopS || loopS - before + now > JUMP_S) return [];
    return [...found(before, loopS), ...found(-1, now)];
  }

  private isOfZone(strandId: string): boolean {
    return this.plan.scene.strands.some(({ id, listensTo }) => id === strandId && listensTo.kind === "zone");
  }

  /** Everybody that is meant, by a name each, and where they are. */
  private *everyone(who: Who): Iterable<{ key: string; point: Point; by: By | null }> {
    const { standing, hands } = this.present;
    if (standing && (who === "visitor" || who === "anyone")) {
      yield { key: "visitor", point: [standing.x, standing.y, standing.z], by: null };
    }
    if (who === "hand" || who === "anyone") {
      for (const [hand, pose] of Object.entries(hands)) {
        yield { key: hand, point: [pose.x, pose.y, pose.z], by: hand as By };
      }
    }
    if ((who === "thing" || who === "anyone") && this.bodies) {
      for (const { ref, place } of this.bodies.moving()) {
        yield { key: `${ref.objectId} ${ref.copy}`, point: [place[0], place[1], place[2]], by: null };
      }
    }
  }

  private nearnessTo(zone: ObjectPlan, key: string, point: Point): number {
    if (key === "visitor") return nearnessOfStanding(zone, this.places, point, this.eyeHeight);
    return nearness(zone, this.places, ...point);
  }

  private crossings(answerId: string, cue: CueSourceOf<"enter"> | CueSourceOf<"leave">): Firing[] {
    const zone = cue.zoneId === null ? undefined : this.plan.of(cue.zoneId);
    if (!zone) return [];
    const inside = new Map<string, { point: Point; by: By | null }>();
    for (const { key, point, by } of this.everyone(cue.who)) {
      if (this.nearnessTo(zone, key, point) > 0) inside.set(key, { point, by });
    }
    return this.changesOf(answerId, inside, cue.kind === "enter");
  }

  /** Cues for those who are in now and were not before, or the other way round. */
  private changesOf(
    answerId: string,
    now: ReadonlyMap<string, { point: Point; by: By | null; strength?: number }>,
    comesIn: boolean,
  ): Firing[] {
    const before = this.state.inside[answerId] ?? [];
    this.state.inside[answerId] = [...now.keys()];
    if (!comesIn) return before.filter((key) => !now.has(key)).map(() => this.firing({}));
    return [...now].filter(([key]) => !before.includes(key)).map(([, found]) => this.firing(found));
  }

  private approaches(answerId: string, { who, objectId, distanceM }: CueSourceOf<"near">): Firing[] {
    const plan = objectId === null ? undefined : this.plan.of(objectId);
    if (!plan) return [];
    const near = new Map<string, { point: Point; by: By | null }>();
    for (const middle of this.middlesOf(plan)) {
      for (const { key, point, by } of this.everyone(who)) {
        const rise = key === "visitor" ? Math.min(Math.max(middle[1] - point[1], 0), this.eyeHeight) : 0;
        const away = Math.hypot(middle[0] - point[0], middle[1] - point[1] - rise, middle[2] - point[2]);
        if (away < distanceM && key.split(" ")[0] !== objectId) near.set(key, { point, by });
      }
    }
    return this.changesOf(answerId, near, true);
  }

  /** The middles of an object's copies. */
  private middlesOf(plan: ObjectPlan): Point[] {
    const { count, matrices } = plan.at.growth ? this.places.instancesOf(plan) : this.places.rootsOf(plan);
    return Array.from({ length: count }, (_none, copy): Point => {
      const body = this.bodies?.placeOf(plan.object.id, copy);
      if (body) return [body[0], body[1], body[2]];
      return [matrices[copy * 16 + 12], matrices[copy * 16 + 13], matrices[copy * 16 + 14]];
    });
  }

  private touches(answerId: string, { objectId }: CueSourceOf<"touch">): Firing[] {
    const plan = objectId === null ? undefined : this.plan.of(objectId);
    if (!plan) return [];
    const over = this.eventsNow().flatMap((event) =>
      event.kind === "over" && this.isOn(event.objectId, objectId) ? [this.firing(hitOf(event))] : [],
    );
    const touching = new Map<string, { point: Point; by: By; strength: number; copy: number }>();
    for (const hand of ["left", "right"] as const) {
      const pose = this.present.hands[hand];
      if (!pose) continue;
      const copy = this.copyAt(plan, pose);
      if (copy < 0) continue;
      const strength = Math.min(1, Math.hypot(...this.handSpeed(hand)) / FULL_STRIKE);
      touching.set(`${hand} ${copy}`, { point: [pose.x, pose.y, pose.z], by: hand, strength, copy });
    }
    return [
      ...over,
      ...this.changesOf(answerId, touching, true).map((firing) => ({ ...firing, objectId: plan.object.id })),
    ];
  }

  /** The copy of an object that a hand reaches; −1 for none. */
  private copyAt(plan: ObjectPlan, { x, y, z }: Pose): number {
    const { count, matrices } = plan.at.growth ? this.places.instancesOf(plan) : this.places.rootsOf(plan);
    for (let copy = 0; copy < count; copy++) {
      decompose(matrices, copy * 16, PLACE, TURN, SIZES);
      let [m, at] = [matrices, copy * 16];
      const body = this.bodies?.placeOf(plan.object.id, copy);
      if (body) {
        composeTurned(LOOSE, 0, body, 3, body[0], body[1], body[2], SIZES[0], SIZES[1], SIZES[2]);
        [m, at] = [LOOSE, 0];
      }
      if (!toLocal(m, at, x, y, z, LOCAL)) continue;
      if (LOCAL.every((one, axis) => Math.abs(one) <= 0.5 + HAND_REACH_M / Math.max(1e-6, SIZES[axis]))) {
        return copy;
      }
    }
    return -1;
  }

  /** Speed of a hand, m/s. */
  private handSpeed(hand: "left" | "right"): Point {
    const track = this.take()?.poses[hand];
    const [before, now] = [restingPose(), restingPose()];
    if (!track?.at(this.step, now) || !track.at(this.step - SPEED_STEPS, before)) return [0, 0, 0];
    const passedS = SPEED_STEPS * STEP_S;
    return [(now.x - before.x) / passedS, (now.y - before.y) / passedS, (now.z - before.z) / passedS];
  }

  private meetings({ objectId, otherId, impulse: least }: CueSourceOf<"meet">): Firing[] {
    return (this.bodies?.meetings ?? []).flatMap(({ a, b, impulse, point }) => {
      if (impulse < least || objectId === null) return [];
      const is = ({ objectId: id }: BodyRef, meant: string | null) =>
        meant === null || id === meant || this.isOn(id, meant);
      const own = is(a, objectId) && is(b, otherId) ? a : is(b, objectId) && is(a, otherId) ? b : undefined;
      if (!own) return [];
      const strength = Math.min(1, impulse / FULL_IMPULSE);
      return [this.firing({ strength, point, objectId: own.objectId, copy: own.copy })];
    });
  }

  private unitOf(soundId: string | null): string {
    const { scene } = this.plan;
    const sound = scene.sounds.find(({ id }) => id === soundId);
    if (!sound) return TAPE_UNIT;
    const { runs, unitId } = runningOf(scene, sound);
    return runs === "alone" ? unitId : TAPE_UNIT;
  }

  private soundCues({ kind, soundId }: CueSourceOf<"soundStarts"> | CueSourceOf<"soundEnds">): Firing[] {
    const unit = this.unitOf(soundId);
    const was = this.state.running[unit] ?? false;
    const is = this.units.isRunning(unit, this.toS);
    if (kind === "soundStarts") return is && !was ? [this.firing({})] : [];
    const lengthS = this.lengths().get(unit)?.lengthS ?? 0;
    if (unit === TAPE_UNIT && !this.units.lastOf(unit, this.toS)) {
      const hasEnded = lengthS > 0 && this.fromS < lengthS && this.toS >= lengthS;
      return hasEnded ? [this.firing({})] : [];
    }
    const ended = was && !is && this.units.lastOf(unit, this.toS)?.running === true;
    return ended ? [this.firing({})] : [];
  }

  private tapeCues(cue: CueSourceOf<"mark"> | CueSourceOf<"section">): Firing[] {
    const { units, fromS, toS } = this;
    if (!units.isRunning(TAPE_UNIT, Math.max(fromS, 0)) || !units.isRunning(TAPE_UNIT, toS)) return [];
    const before = fromS < 0 ? units.positionS(TAPE_UNIT, 0) - 1e-9 : units.positionS(TAPE_UNIT, fromS);
    const now = units.positionS(TAPE_UNIT, toS);
    const last = units.lastOf(TAPE_UNIT, toS);
    const passes = (atS: number): boolean => {
      if (now >= before) return now - before < JUMP_S && atS > before && atS <= now;
      if (!last?.loops) return false;
      return (atS > before && atS < last.lengthS) || (atS >= (last.fromS ?? 0) && atS <= now);
    };
    return this.plan.scene.marks
      .filter((mark) => (cue.kind === "mark" ? mark.id === cue.markId : mark.beginsSection))
      .filter(({ timeS }) => passes(timeS))
      .map(() => this.firing({}));
  }

  /** Does what an answer says, unless something holds it back. */
  private answer({ id, only, actions }: Answer, index: number, firing: Firing): void {
    const { state } = this;
    if (firing.timeS - state.lastS[index] < only.gapMs / 1000 - 1e-9) return;
    if (only.times > 0 && state.fired[index] >= only.times) return;
    if (only.whilePlayingId !== null && !this.units.isRunning(this.unitOf(only.whilePlayingId), this.toS)) {
      return;
    }
    const thing = only.whileVisibleId === null ? undefined : this.plan.of(only.whileVisibleId);
    if (thing && !this.places.isShown(thing)) return;
    if (only.whileAboveId !== null) {
      const track = this.tracks().get(only.whileAboveId);
      if (!track || trackMeanAt(track, this.toS) <= only.aboveMark) return;
    }
    const tries = (state.next[`chance ${id}`] ?? 0) + 1;
    state.next[`chance ${id}`] = tries;
    if (only.chance < 1 && hashed(only.seed, tries) >= only.chance) return;
    state.fired[index]++;
    state.lastS[index] = firing.timeS;
    this.history.push({ answerId: id, timeS: firing.timeS, strength: firing.strength });
    actions.forEach((action, k) => {
      const atS = firing.timeS + action.delayMs / 1000;
      if (atS <= this.toS) this.act(action, firing, atS, `${id} ${k}`);
      else this.putOff({ atS, answer: index, action: k, firing });
    });
  }

  private putOff(one: Pending): void {
    const { pending } = this.state;
    let at = pending.length;
    while (at > 0 && pending[at - 1].atS > one.atS) at--;
    pending.splice(at, 0, one);
  }

  private runPending(): void {
    const { pending } = this.state;
    while (pending.length > 0 && pending[0].atS <= this.toS) {
      const { atS, answer, action, firing } = pending.shift()!;
      const of = this.answers[answer];
      const what = of?.actions[action];
      if (what) this.act(what, firing, atS, `${of.id} ${action}`);
    }
  }

  private act(action: Action, firing: Firing, atS: number, key: string): void {
    const { changes, bodies } = this;
    switch (action.kind) {
      case "play":
        this.play(action, atS);
        return;
      case "pause":
        this.halt(this.unitOf(action.soundId), atS);
        return;
      case "stop":
        this.halt(this.unitOf(action.soundId), atS, 0);
        return;
      case "fade":
        this.fade(action, atS);
        return;
      case "show":
        this.show(action, atS);
        return;
      case "glide": {
        const { objectId, property, to, overMs, easing, back, holdMs, backMs } = action;
        if (objectId === null) return;
        const overS = overMs / 1000;
        changes.glide(objectId, property, to, {
          startS: atS,
          overS,
          easing,
          ...(back && { backAtS: atS + overS + holdMs / 1000, backS: backMs / 1000 }),
        });
        return;
      }
      case "stepColours": {
        const { objectId, property, stops, overMs } = action;
        const stop = this.nextOf(key, [...stops].sort(byPlace));
        if (objectId === null || !stop) return;
        changes.glide(objectId, property, stop.colour, {
          startS: atS,
          overS: overMs / 1000,
          easing: "smooth",
        });
        return;
      }
      case "stepThings": {
        const shown = this.nextOf(key, action.objectIds);
        for (const objectId of action.objectIds) {
          changes.glide(objectId, "visibility", objectId === shown ? 1 : 0, atOnce(atS));
        }
        return;
      }
      case "stepViews": {
        const id = this.nextOf(key, action.viewIds);
        const view = id === undefined ? undefined : this.plan.of(id);
        if (!view) return;
        for (const property of CAMERA_VIEW) {
          const to =
            property === "fieldOfView"
              ? this.places.number(view, property)
              : ([0, 1, 2].map((axis) => this.places.number(view, property, axis)) as Point);
          changes.glide("camera", property, to, {
            startS: atS,
            overS: action.overMs / 1000,
            easing: action.easing,
          });
        }
        return;
      }
      case "kick":
        if (action.objectId === null) return;
        changes.kick(action.objectId, action.property, action.amount * firing.strength, atS, action.decayMs);
        return;
      case "burst": {
        const { objectId, count } = action;
        if (objectId !== null) this.bursts.set(objectId, (this.bursts.get(objectId) ?? 0) + count);
        return;
      }
      case "push": {
        if (action.objectId === null) return;
        const by = action.velocity.map((one) => one * firing.strength) as Point;
        bodies?.push(action.objectId, this.copyMeant(action.objectId, firing), by);
        return;
      }
      case "jump": {
        if (action.objectId === null || !bodies) return;
        const by = bodies.jumpSpeed(action.heightM * firing.strength);
        bodies.push(action.objectId, this.copyMeant(action.objectId, firing), by);
        return;
      }
      case "copy":
        this.putCopy(action, firing, atS);
        return;
      case "goTo": {
        const mark = this.plan.scene.marks.find(({ id }) => id === action.markId);
        const running = this.units.isRunning(TAPE_UNIT, atS);
        this.record(TAPE_UNIT, atS, mark?.timeS ?? 0, running);
        return;
      }
      case "pulse":
        this.pulses.push({ timeS: atS, by: firing.by, strength: action.strength, forMs: action.forMs });
        return;
    }
  }

  /** The copy that a cue is about, if it is about this object; −1 for all. */
  private copyMeant(objectId: string, firing: Firing): number {
    return firing.objectId === objectId ? firing.copy : -1;
  }

  private nextOf<T>(key: string, list: readonly T[]): T | undefined {
    const at = this.state.next[key] ?? 0;
    this.state.next[key] = at + 1;
    return list[at % Math.max(1, list.length)];
  }

  private record(unitId: string, timeS: number, positionS: number, running: boolean): void {
    const { lengthS, loops, fromS } = this.lengths().get(unitId) ?? { lengthS: 0, loops: false };
    const event: UnitEvent = { kind: "unit", timeS, unitId, positionS, running, lengthS, loops };
    if (fromS) event.fromS = fromS;
    if (timeS <= this.toS) {
      // What is known of this step already stays in order.
      this.units.record({ ...event, timeS: Math.max(timeS, this.units.events.at(-1)?.timeS ?? timeS) });
      return;
    }
    const { pendingUnits } = this.state;
    let at = pendingUnits.length;
    while (at > 0 && pendingUnits[at - 1].timeS > timeS) at--;
    pendingUnits.splice(at, 0, event);
  }

  private play({ soundId, from, markId, when }: ActionOf<"play">, atS: number): void {
    const unit = this.unitOf(soundId);
    const isRunning = this.units.isRunning(unit, atS);
    const mark = this.plan.scene.marks.find(({ id }) => id === markId);
    const { lengthS = 0 } = this.lengths().get(unit) ?? {};
    const at = this.units.positionS(unit, atS);
    // From where it was; from the start again once it has come to its end.
    const where = lengthS > 0 && at >= lengthS - 1e-6 ? 0 : at;
    if (from === "where" && isRunning) return;
    const positionS = from === "start" ? 0 : from === "mark" ? (mark?.timeS ?? 0) : where;
    const delayS = this.take()?.soundDelayS ?? 0;
    this.record(unit, Math.max(atS + delayS, atS + this.untilBeatS(when, atS)), positionS, true);
  }

  /** Seconds until the tape's next beat or bar; 0 when nothing can be waited for. */
  private untilBeatS(when: "now" | "beat" | "bar", atS: number): number {
    if (when === "now" || !this.units.isRunning(TAPE_UNIT, atS)) return 0;
    const { scene } = this.plan;
    const clock = scene.sounds.find(({ kind }) => kind === "clock");
    const tapeS = this.units.positionS(TAPE_UNIT, atS);
    const beatS = 60 / bpmOf(scene);
    if (clock?.kind !== "clock") return 0;
    const beat = clockBeats(clock).beatAt(tapeS);
    const every = when === "bar" ? clock.beatsPerBar : 1;
    const next = Math.ceil(beat / every - 1e-9) * every;
    return Math.max(0, (next - beat) * beatS);
  }

  private halt(unit: string, atS: number, positionS = this.units.positionS(unit, atS)): void {
    this.state.pendingUnits = this.state.pendingUnits.filter(({ unitId }) => unitId !== unit);
    this.record(unit, atS, positionS, false);
  }

  private fade({ soundId, levelDb, overMs }: ActionOf<"fade">, atS: number): void {
    const { fades } = this.state;
    const key = soundId ?? TAPE_UNIT;
    const fromDb = fades[key] ? levelOf(fades[key], atS) : 0;
    fades[key] = { fromDb, toDb: levelDb, startS: atS, overS: overMs / 1000 };
  }

  private show({ does, objectId, lasts, forMs, whileId }: ActionOf<"show">, atS: number): void {
    if (objectId === null) return;
    const { changes } = this;
    const isShown = (changes.numberAt(objectId, "visibility", atS) ?? 1) >= 0.5;
    const to = does === "turns" ? (isShown ? 0 : 1) : does === "show" ? 1 : 0;
    changes.glide(objectId, "visibility", to, {
      ...atOnce(atS),
      ...(lasts === "time" && { backAtS: atS + forMs / 1000, backS: 0 }),
    });
    const key = `${objectId} visibility`;
    this.state.whilePlaying = this.state.whilePlaying.filter((one) => one.key !== key);
    if (lasts === "sound") {
      this.state.whilePlaying.push({ key, unitId: this.unitOf(whileId), hasBegun: false, sinceS: atS });
    }
  }

  /** Takes back what lasts for as long as a unit plays, once it does not any more. */
  private endWhilePlaying(): void {
    const { state, toS } = this;
    state.whilePlaying = state.whilePlaying.filter((one) => {
      const isRunning = this.units.isRunning(one.unitId, toS);
      one.hasBegun ||= isRunning;
      if (isRunning || (!one.hasBegun && toS - one.sinceS < WAITS_S)) return true;
      const glide = state.rest.glides[one.key];
      if (glide) state.rest.glides[one.key] = { ...glide, backAtS: toS, backS: 0 };
      return false;
    });
  }

  private putCopy({ objectId, where, velocity }: ActionOf<"copy">, firing: Firing, atS: number): void {
    const plan = objectId === null ? undefined : this.plan.of(objectId);
    const copies = plan?.copies;
    if (!plan || !copies || settingOf(plan.object, "formation") !== "cues") return;
    const { head, present } = this;
    const own = this.places.rootsOf(plan).matrices;
    let point: Point = [own[12], own[13], own[14]];
    if (where === "there" && firing.point) point = firing.point;
    if (where === "visitor" && present.standing) {
      const turn = (head.yaw * Math.PI) / 180;
      point = [
        head.x - Math.sin(turn) * BEFORE_VISITOR_M,
        head.y - 0.2,
        head.z - Math.cos(turn) * BEFORE_VISITOR_M,
      ];
    }
    const list = this.copiesOf(plan.object.id, copies.most);
    // A free place, else that of the oldest.
    let slot = list.bornS.indexOf(-1);
    if (slot < 0) slot = list.bornS.indexOf(Math.min(...list.bornS));
    toLocal(own, 0, ...point, LOCAL);
    list.bornS[slot] = atS;
    list.places[slot * 3] = LOCAL[0];
    list.places[slot * 3 + 1] = LOCAL[1];
    list.places[slot * 3 + 2] = LOCAL[2];
    this.placeCopies();
    this.places.moveTo(this.toS);
    this.bodies?.setCopy(plan.object.id, slot, point, velocity);
  }

  private copiesOf(objectId: string, most: number): CueCopies {
    this.state.copies[objectId] ??= {
      bornS: Array.from({ length: most }, () => -1),
      places: Array.from({ length: most * 3 }, () => 0),
    };
    return this.state.copies[objectId];
  }

  /** Takes away copies whose time is over. */
  private endCopies(): void {
    let isChanged = false;
    for (const [objectId, { bornS }] of Object.entries(this.state.copies)) {
      const plan = this.plan.of(objectId);
      const lifeS = plan ? (settingOf(plan.object, "copyLife") as number) : 0;
      bornS.forEach((born, slot) => {
        if (born < 0 || this.toS - born < lifeS) return;
        bornS[slot] = -1;
        this.bodies?.setCopy(objectId, slot, undefined);
        isChanged = true;
      });
    }
    if (isChanged) this.placeCopies();
  }

  /** Hands the copies that are there to whatever lays copies out. */
  private placeCopies(): void {
    for (const { object, copies } of this.plan.plans) {
      if (!copies || settingOf(object, "formation") !== "cues") continue;
      const { bornS, places } = this.copiesOf(object.id, copies.most);
      copies.setCued(
        Float32Array.from(places),
        Float32Array.from(bornS, (born) => (born < 0 ? 0 : 1)),
      );
    }
  }

  private holdAndRelease(): void {
    const { bodies, state } = this;
    for (const event of this.eventsNow()) {
      if (event.kind !== "grab" || !bodies) continue;
      const hand = event.by === "pointer" ? undefined : this.present.hands[event.by];
      const held = state.holds[event.by];
      if (event.holds && hand && event.objectId !== null) {
        const hold = bodies.holdOf(event.objectId, event.copy, hand);
        if (hold) state.holds[event.by] = hold;
      } else if (held) {
        delete state.holds[event.by];
        bodies.release(held, event.by === "pointer" ? [0, 0, 0] : this.handSpeed(event.by));
      }
    }
  }

  private readZones(): void {
    if (this.zones.isEmpty) return;
    this.zones.readUpTo(this.toS, (zoneId) => {
      const zone = this.plan.of(zoneId);
      if (zone?.object.kind !== "zone") return 0;
      let most = 0;
      for (const { key, point } of this.everyone(settingOf(zone.object, "counts") as Who)) {
        most = Math.max(most, this.nearnessTo(zone, key, point));
      }
      return most;
    });
  }
}

const atOnce = (startS: number) => ({ startS, overS: 0, easing: "even" }) as const;
const byPlace = (a: ColourStop, b: ColourStop) => a.at - b.at;

function levelOf({ fromDb, toDb, startS, overS }: Fade, timeS: number): number {
  const share = overS > 0 ? Math.min(1, Math.max(0, (timeS - startS) / overS)) : 1;
  return fromDb + (toDb - fromDb) * share;
}

function hitOf(event: Extract<VisitorEvent, { point: unknown }>): Partial<Firing> {
  const { point, objectId, copy, by } = event;
  return { point: [...point] as Point, objectId, copy, by };
}

const PLACE = new Float64Array(3);
const TURN = new Float64Array(4);
const SIZES = new Float64Array(3);
const LOCAL = new Float64Array(3);
const LOOSE = new Float32Array(16);

/** What a scene's answers, zones and bodies need to be stepped for at all. */
export function needsAnswering(scene: Scene): boolean {
  return (
    scene.answers.some(({ on }) => on) ||
    scene.strands.some(({ listensTo }) => listensTo.kind === "zone") ||
    hasMovingBodies(scene)
  );
}

/** Sounds that answers start: they wait to be started. */
export function startedByAnswers(scene: Scene): ReadonlySet<string> {
  const ids = new Set<string>();
  for (const { on, actions } of scene.answers) {
    for (const action of on ? actions : []) {
      if (action.kind === "play" && action.soundId !== null) ids.add(action.soundId);
    }
  }
  return ids;
}
