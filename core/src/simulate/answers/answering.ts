import { type Action, type ActionOf, type Answer, startsOf } from "../../action/answer";
import type { Who } from "../../action/cueSources";
import type { By, Take } from "../../document/take/take";
import { TAPE_UNIT, type UnitTimes } from "../../document/take/units";
import { hashed } from "../../dsp/maths/hash";
import { CAMERA_VIEW, changedBy } from "../../evaluate/changed";
import type { ObjectPlan, ScenePlan } from "../../evaluate/plan";
import type { Tracks, ValueSource } from "../../evaluate/values";
import { settingOf, solidityOf } from "../../kinds/table";
import { platform } from "../../platform";
import type { ColourStop } from "../../setting/descriptor";
import { type Track, trackMeanAt } from "../../strand/track";
import type { Bodies, Hold, Holder, Point, Presence } from "../bodies/bodies";
import { CurrentStep, type Firing } from "../currentStep";
import { StepPlaces } from "../stepPlaces";
import { STEP_S } from "../stepper";
import { AnsweredSounds, SILENT_DB, type SoundsState, type UnitLength } from "./answeredSounds";
import { CueCopies, type CueCopiesState } from "./cueCopies";
import { CueFinder, type CueFinderState } from "./cueFinder";
import { RestChanges, type RestState } from "./restChanges";
import { ZoneStrands } from "./zoneStrands";

/** An answer that happened, for lists, ticks and clicks. */
export interface Fired {
  answerId: string;
  timeS: number;
  strength: number;
}

/** A haptic pulse, for devices that can give it. */
export interface HapticPulse {
  timeS: number;
  by: By | null;
  strength: number;
  forMs: number;
}

interface Pending {
  atS: number;
  answer: number;
  action: number;
  firing: Firing;
}

/** Everything that is remembered from step to step: plain data, to be kept and brought back. */
interface State {
  rest: RestState;
  /** By answer: how often it has fired, and when last. */
  fired: number[];
  lastS: number[];
  /** By answer and action: which of a list comes next. */
  next: Record<string, number>;
  pending: Pending[];
  /** Properties that are as they are for as long as a unit plays. */
  whilePlaying: { key: string; unitId: string; hasBegun: boolean; sinceS: number }[];
  holds: Partial<Record<Holder, Hold>>;
}

/** Saved state of answers, to continue from later. */
export interface AnsweringState {
  state: State;
  sounds: SoundsState;
  cues: CueFinderState;
  copies: CueCopiesState;
  fired: number;
  frames: number;
}

/** A thing that is to show for as long as a sound plays waits this long for it to begin, s. */
const WAITS_S = 1;
const BEFORE_VISITOR_M = 1.2;

/**
 * The answers of a scene: cues and what happens on them, in steps of 1/120 s. With the bodies it is the part of a scene that
 * remembers without end; everything it remembers can be kept and brought back.
 */
export class Answering {
  readonly places: StepPlaces;
  readonly changes: RestChanges;
  readonly zones: ZoneStrands;
  readonly sounds: AnsweredSounds;
  /**
   * Every cue that an answer has taken, on every way so far: after going back, the first {@link fired} of them count. What
   * comes after is written again as it happens, the same unless something has changed.
   */
  private readonly log: Fired[] = [];
  private fired = 0;
  private told: readonly Fired[] | undefined;
  /** Pulses since they were last taken away. */
  pulses: HapticPulse[] = [];
  bodies: Bodies | undefined;
  private readonly plan: ScenePlan;
  private readonly now: CurrentStep;
  private readonly cues: CueFinder;
  private readonly copies: CueCopies;
  private readonly tracks: () => Tracks;
  private readonly answers: readonly Answer[];
  private state: State;
  private bursts = new Map<string, number>();

  constructor(
    source: ValueSource,
    take: () => Take | undefined,
    tracks: () => Tracks,
    lengths: () => ReadonlyMap<string, UnitLength>,
    trackOf: (strandId: string) => Track | undefined,
  ) {
    const { plan } = source;
    const { scene } = plan;
    this.plan = plan;
    this.tracks = tracks;
    this.places = new StepPlaces(source);
    this.sounds = new AnsweredSounds(scene, take, lengths);
    this.now = new CurrentStep(plan, this.places, take, () => this.bodies);
    this.cues = new CueFinder(this.now, this.sounds, tracks);
    this.copies = new CueCopies(plan, this.places);
    this.answers = scene.answers.filter(({ on }) => on);
    this.zones = new ZoneStrands(scene, trackOf);
    this.changes = new RestChanges(
      plan,
      this.answers.flatMap(({ actions }) => actions.flatMap(changedBy)),
    );
    this.state = this.newState();
    this.reads = this.findReads();
  }

  /** Every cue an answer has taken so far. */
  get history(): readonly Fired[] {
    this.told ??= this.log.slice(0, this.fired);
    return this.told;
  }

  private goBackTo(fired: number): void {
    this.fired = fired;
    this.told = undefined;
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
      next: {},
      pending: [],
      whilePlaying: [],
      holds: {},
    };
  }

  /** Everything on the stage that it depends on. */
  readonly reads: ReadonlySet<ObjectPlan>;

  /** True if any answer is about bodies that meet. */
  get asksForMeetings(): boolean {
    return this.answers.some(({ cue }) => cue.kind === "meet");
  }

  /** Positions of the tape and the units, from the take and from answers. */
  get units(): UnitTimes {
    return this.sounds.units;
  }

  /** Goes back to before the first step. */
  begin(): void {
    this.state = this.newState();
    this.changes.state = this.state.rest;
    this.goBackTo(0);
    this.sounds.begin();
    this.cues.begin();
    this.zones.restore(0);
    this.now.begin();
    this.bursts.clear();
    this.places.moveTo(0);
    this.copies.begin();
    this.changes.follow();
    this.changes.write(0);
    this.bodies?.begin();
  }

  save(): AnsweringState {
    return {
      state: platform.structuredClone(this.state),
      sounds: this.sounds.save(),
      cues: this.cues.save(),
      copies: this.copies.save(),
      fired: this.fired,
      frames: this.zones.count,
    };
  }

  restore({ state, sounds, cues, copies, fired, frames }: AnsweringState, step: number): void {
    const timeS = step * STEP_S;
    this.state = platform.structuredClone(state);
    this.changes.state = this.state.rest;
    this.goBackTo(fired);
    this.sounds.restore(sounds, timeS);
    this.cues.restore(cues);
    this.copies.restore(copies);
    this.zones.restore(frames);
    this.now.moveTo(step, timeS);
    this.bursts.clear();
    this.now.readVisitor();
    this.places.moveTo(timeS);
    this.copies.layOut();
    this.changes.follow();
    this.changes.write(timeS);
  }

  /** Takes the step that ends at a time: cues first, then bodies. */
  advance(step: number, timeS: number): void {
    this.now.moveTo(step, timeS);
    this.bursts.clear();
    this.changes.write(timeS);
    this.places.moveTo(timeS);
    this.sounds.moveTo(timeS);
    this.now.readVisitor();
    this.copies.endOld(timeS, (objectId, copy) => this.bodies?.setCopy(objectId, copy, undefined));
    this.readZones();
    this.runPending();
    this.holdAndRelease();
    this.answers.forEach((answer, i) => {
      for (const firing of this.cues.cuesOf(answer)) this.answer(answer, i, firing);
    });
    this.endWhilePlaying();
    this.sounds.endStep();
    this.changes.write(timeS);
    const { bodies } = this;
    if (!bodies) return;
    this.places.moveTo(timeS);
    bodies.setHeld(Object.values(this.state.holds));
    bodies.step(this.now.present, this.state.holds);
  }

  /** Particles that actions have an emitter give off in this step. */
  burstOf(objectId: string): number {
    return this.bursts.get(objectId) ?? 0;
  }

  /** Position of a visitor in the last step. */
  get presence(): Presence {
    return this.now.present;
  }

  /** Looks again at what the take says of units since the last step: it has been changed. */
  rereadUnits(): void {
    this.sounds.continueAfter(this.now.toS);
  }

  /** Brings what is continuous to a time after the last step, before the next. */
  showAt(timeS: number): void {
    this.sounds.takeUpTo(timeS);
    this.changes.write(timeS);
  }

  /** Does what an answer says, unless something holds it back. */
  private answer({ id, only, actions }: Answer, index: number, firing: Firing): void {
    const { state } = this;
    if (firing.leaves) {
      this.undo(index, firing);
      return;
    }
    if (firing.timeS - state.lastS[index] < only.gapMs / 1000 - 1e-9) return;
    if (only.times > 0 && state.fired[index] >= only.times) return;
    if (
      only.whilePlayingId !== null &&
      !this.sounds.units.isRunning(this.sounds.unitOf(only.whilePlayingId), this.now.toS)
    ) {
      return;
    }
    if (
      only.whileSilentId !== null &&
      this.sounds.units.isRunning(this.sounds.unitOf(only.whileSilentId), this.now.toS)
    ) {
      return;
    }
    const thing = only.whileVisibleId === null ? undefined : this.plan.of(only.whileVisibleId);
    if (thing && !this.places.isShown(thing)) return;
    if (only.whileAboveId !== null) {
      const track = this.tracks().get(only.whileAboveId);
      if (!track || trackMeanAt(track, this.now.toS) <= only.aboveMark) return;
    }
    const tries = (state.next[`chance ${id}`] ?? 0) + 1;
    state.next[`chance ${id}`] = tries;
    if (only.chance < 1 && hashed(only.seed, tries) >= only.chance) return;
    state.fired[index]++;
    state.lastS[index] = firing.timeS;
    this.log[this.fired++] = { answerId: id, timeS: firing.timeS, strength: firing.strength };
    this.told = undefined;
    this.cancelExit(index);
    const starts = startsOf(actions);
    actions.forEach((action, k) => {
      const atS = firing.timeS + starts[k] / 1000;
      if (atS <= this.now.toS) this.act(action, firing, atS, `${id} ${k}`);
      else this.putOff({ atS, answer: index, action: k, firing });
    });
  }

  /** Coming in again cancels the actions that going out had still to do. */
  private cancelExit(index: number): void {
    const { cue } = this.answers[index];
    if (cue.kind !== "enter" && cue.kind !== "inside") return;
    this.state.pending = this.state.pending.filter(({ answer }) => {
      const other = this.answers[answer]?.cue;
      return other?.kind !== "leave" || other.zoneId !== cue.zoneId;
    });
  }

  /** Takes back what an answer did as somebody came in, and what it had still to do. */
  private undo(index: number, { timeS: atS }: Firing): void {
    const { actions } = this.answers[index];
    this.state.pending = this.state.pending.filter(({ answer }) => answer !== index);
    for (const action of actions) {
      switch (action.kind) {
        case "play":
        case "playTurns": {
          // If the answer fades it as well, fade out before pausing.
          const fade = actions.find((one) => one.kind === "fade" && one.soundId === action.soundId);
          const overMs = fade?.kind === "fade" ? fade.overMs : 0;
          this.sounds.halt(this.sounds.unitOf(action.soundId), atS + overMs / 1000);
          break;
        }
        case "fade": {
          const plays = actions.some(
            (one) => (one.kind === "play" || one.kind === "playTurns") && one.soundId === action.soundId,
          );
          this.sounds.fade({ ...action, levelDb: plays ? SILENT_DB : 0 }, atS);
          break;
        }
        case "show":
          if (action.objectId !== null) this.changes.takeBack(action.objectId, "visibility", atS, 0);
          break;
        case "glide":
        case "stepColours":
          if (action.objectId !== null)
            this.changes.takeBack(action.objectId, action.property, atS, action.overMs / 1000);
          break;
        case "pause":
          this.sounds.play({ soundId: action.soundId, from: "where", markId: null, when: "now" }, atS);
          break;
      }
    }
  }

  private putOff(one: Pending): void {
    const { pending } = this.state;
    let at = pending.length;
    while (at > 0 && pending[at - 1].atS > one.atS) at--;
    pending.splice(at, 0, one);
  }

  private runPending(): void {
    const { pending } = this.state;
    while (pending.length > 0 && pending[0].atS <= this.now.toS) {
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
        this.sounds.play(action, atS);
        return;
      case "playTurns":
        this.sounds.playTurns(action, atS);
        return;
      case "pause":
        this.sounds.halt(this.sounds.unitOf(action.soundId), atS);
        return;
      case "stop":
        this.sounds.halt(this.sounds.unitOf(action.soundId), atS, 0);
        return;
      case "fade":
        this.sounds.fade(action, atS);
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
        if (action.objectId === null) return;
        const heightM = action.heightM * firing.strength;
        bodies?.jump(action.objectId, this.copyMeant(action.objectId, firing), heightM);
        return;
      }
      case "copy":
        this.putCopy(action, firing, atS);
        return;
      case "goTo": {
        const mark = this.plan.scene.marks.find(({ id }) => id === action.markId);
        const running = this.units.isRunning(TAPE_UNIT, atS);
        this.sounds.record(TAPE_UNIT, atS, mark?.timeS ?? 0, running);
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
      this.state.whilePlaying.push({
        key,
        unitId: this.sounds.unitOf(whileId),
        hasBegun: false,
        sinceS: atS,
      });
    }
  }

  /** Takes back what lasts for as long as a unit plays, once it does not any more. */
  private endWhilePlaying(): void {
    const { state } = this;
    const { toS } = this.now;
    state.whilePlaying = state.whilePlaying.filter((one) => {
      const isRunning = this.sounds.units.isRunning(one.unitId, toS);
      one.hasBegun ||= isRunning;
      if (isRunning || (!one.hasBegun && toS - one.sinceS < WAITS_S)) return true;
      const glide = state.rest.glides[one.key];
      if (glide) state.rest.glides[one.key] = { ...glide, backAtS: toS, backS: 0 };
      return false;
    });
  }
  private putCopy({ objectId, where, velocity }: ActionOf<"copy">, firing: Firing, atS: number): void {
    if (objectId === null) return;
    const { head, present } = this.now;
    const placeOf = (middle: Point): Point => {
      if (where === "there" && firing.point) return firing.point;
      if (where !== "visitor" || !present.standing) return middle;
      const turn = (head.yaw * Math.PI) / 180;
      const [aside, ahead] = [Math.sin(turn) * BEFORE_VISITOR_M, Math.cos(turn) * BEFORE_VISITOR_M];
      return [head.x - aside, head.y - 0.2, head.z - ahead];
    };
    const put = this.copies.put(objectId, placeOf, atS);
    if (!put) return;
    this.places.moveTo(this.now.toS);
    this.bodies?.setCopy(objectId, put.copy, put.point, velocity);
  }

  private holdAndRelease(): void {
    const { bodies, state } = this;
    for (const event of this.now.events) {
      if (event.kind !== "grab" || !bodies) continue;
      const hand = event.by === "pointer" ? undefined : this.now.present.hands[event.by];
      const held = state.holds[event.by];
      if (event.holds && hand && event.objectId !== null) {
        const hold = bodies.holdOf(event.objectId, event.copy, hand);
        if (hold) state.holds[event.by] = hold;
      } else if (held) {
        delete state.holds[event.by];
        bodies.release(held, event.by === "pointer" ? [0, 0, 0] : this.now.handSpeed(event.by));
      }
    }
  }

  /** Place of the visitor's feet at the last step, metres, and the direction they faced, degrees; `undefined` without a visitor. */
  get feet(): { place: Point; yaw: number } | undefined {
    const { standing } = this.now.present;
    return standing && { place: [standing.x, standing.y, standing.z], yaw: this.now.head.yaw };
  }

  /** Everybody inside a zone at the last step: `visitor`, `left` and `right` for hands, ids of moving things. */
  insideOf(zoneId: string): string[] {
    const zone = this.plan.of(zoneId);
    if (zone?.object.kind !== "zone") return [];
    // Keys of moving things also say which copy.
    return [...this.now.insideOf(zone, "anyone")].map(({ key }) => key.split(" ")[0]);
  }

  private readZones(): void {
    if (this.zones.isEmpty) return;
    this.zones.readUpTo(this.now.toS, (zoneId) => {
      const zone = this.plan.of(zoneId);
      if (zone?.object.kind !== "zone") return 0;
      let most = 0;
      for (const { key, point } of this.now.everyone(settingOf(zone.object, "counts") as Who)) {
        most = Math.max(most, this.now.nearnessTo(zone, key, point));
      }
      return most;
    });
  }
}

const atOnce = (startS: number) => ({ startS, overS: 0, easing: "even" }) as const;
const byPlace = (a: ColourStop, b: ColourStop) => a.at - b.at;
