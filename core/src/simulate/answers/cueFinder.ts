import type { Answer, CueSourceOf } from "../../action/answer";
import type { Pose } from "../../document/take/poses";
import type { By, VisitorEvent } from "../../document/take/take";
import { TAPE_UNIT } from "../../document/take/units";
import { cuesUpTo } from "../../evaluate/activeBinding";
import type { ObjectPlan } from "../../evaluate/plan";
import type { Tracks } from "../../evaluate/values";
import { platform } from "../../platform";
import { trackTimeAt } from "../../strand/track";
import type { BodyRef, Point } from "../bodies/bodies";
import type { CurrentStep, Firing } from "../currentStep";
import { composeTurned, decompose, toLocal } from "../matrix";
import type { AnsweredSounds } from "./answeredSounds";

/** State from step to step: plain data. */
export interface CueFinderState {
  /** By answer: who is inside, near or touching. */
  inside: Record<string, string[]>;
  /** By live strand: how many of its cues are known. */
  known: Record<string, number>;
}

/** A hand as fast as this strikes at full strength, m/s. */
const FULL_STRIKE = 2.5;
/** Bodies that meet this hard do so at full strength, N·s. */
const FULL_IMPULSE = 5;
const HAND_REACH_M = 0.07;
/** A tape that goes further than this within a step was moved. */
const JUMP_S = 0.05;
const HOLD_EVERY_MS = 100;

/** Finds the cues that answers wait for. */
export class CueFinder {
  private state: CueFinderState = { inside: {}, known: {} };

  constructor(
    private readonly now: CurrentStep,
    private readonly sounds: AnsweredSounds,
    private readonly tracks: () => Tracks,
  ) {}

  begin(): void {
    this.state = { inside: {}, known: {} };
  }

  save(): CueFinderState {
    return platform.structuredClone(this.state);
  }

  restore(state: CueFinderState): void {
    this.state = platform.structuredClone(state);
  }

  /** The cues of an answer's source within this step. */
  cuesOf(answer: Answer): Firing[] {
    const { cue, id } = answer;
    const trials = this.now.events.some((event) => event.kind === "trial" && event.answerId === id);
    const cues = this.sourceCues(answer);
    if (trials) cues.push(this.now.firing({}));
    return cues.length > 0 && cue.kind === "start" ? cues.slice(0, 1) : cues;
  }

  private sourceCues({ cue, id }: Answer): Firing[] {
    switch (cue.kind) {
      case "start":
        return this.now.step === 1 ? [this.now.firing({ timeS: 0 })] : [];
      case "strand":
        return cue.strandId === null ? [] : this.strandCues(cue.strandId);
      case "tap":
        return this.now.events.flatMap((event) =>
          event.kind === "tap" && this.now.isOn(event.objectId, cue.objectId)
            ? [this.now.firing(hitOf(event))]
            : [],
        );
      case "press":
        return this.now.events.flatMap((event) => {
          const isIt = event.kind === "hold" && this.now.isOn(event.objectId, cue.objectId);
          if (!isIt || event.heldMs < cue.holdMs || event.heldMs - HOLD_EVERY_MS >= cue.holdMs) return [];
          return [this.now.firing(hitOf(event))];
        });
      case "key":
        return this.now.events.flatMap((event) =>
          event.kind === "key" && event.key.toLowerCase() === cue.key.toLowerCase()
            ? [this.now.firing({})]
            : [],
        );
      case "enter":
      case "leave":
        return this.crossings(id, cue);
      case "inside":
        return this.stays(id, cue);
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

  private strandCues(strandId: string): Firing[] {
    const track = this.tracks().get(strandId);
    if (!track) return [];
    if (track.newest && !this.isOfZone(strandId)) {
      return this.now.events.flatMap((event) =>
        event.kind === "cue" && event.strandId === strandId
          ? [this.now.firing({ strength: event.strength })]
          : [],
      );
    }
    const cues = track.cues ?? [];
    if (track.newest) {
      // It becomes known some frames after it happened.
      const known = this.state.known[strandId] ?? 0;
      this.state.known[strandId] = cues.length;
      return cues.slice(known).map(({ strength }) => this.now.firing({ strength }));
    }
    const before = trackTimeAt(track, this.now.fromS);
    const now = trackTimeAt(track, this.now.toS);
    const found = (fromS: number, toS: number) =>
      cues.slice(cuesUpTo(cues, fromS), cuesUpTo(cues, toS)).map(({ timeS, strength }) =>
        this.now.firing({
          strength,
          timeS: Math.min(this.now.toS, Math.max(this.now.fromS, this.now.toS - (now - timeS))),
        }),
      );
    if (now >= before) return now - before < JUMP_S ? found(before, now) : [];
    const { loopS } = track;
    if (!loopS || loopS - before + now > JUMP_S) return [];
    return [...found(before, loopS), ...found(-1, now)];
  }

  private isOfZone(strandId: string): boolean {
    return this.now.plan.scene.strands.some(
      ({ id, listensTo }) => id === strandId && listensTo.kind === "zone",
    );
  }
  private crossings(answerId: string, cue: CueSourceOf<"enter"> | CueSourceOf<"leave">): Firing[] {
    const inside = this.insideOf(cue);
    return inside ? this.changesOf(answerId, inside, cue.kind === "enter") : [];
  }

  /** A cue as the first one comes in, and one as the last goes out. */
  private stays(answerId: string, cue: CueSourceOf<"inside">): Firing[] {
    const inside = this.insideOf(cue);
    if (!inside) return [];
    const wasEmpty = (this.state.inside[answerId] ?? []).length === 0;
    const [first] = this.changesOf(answerId, inside, true);
    if (wasEmpty) return first ? [first] : [];
    return inside.size === 0 ? [{ ...this.now.firing({}), leaves: true }] : [];
  }

  private insideOf({ zoneId, who }: Pick<CueSourceOf<"enter">, "zoneId" | "who">) {
    const zone = zoneId === null ? undefined : this.now.plan.of(zoneId);
    if (!zone) return undefined;
    const inside = new Map<string, { point: Point; by: By | null }>();
    for (const { key, point, by } of this.now.insideOf(zone, who)) inside.set(key, { point, by });
    return inside;
  }

  /** Cues for those who are in now and were not before, or the other way round. */
  private changesOf(
    answerId: string,
    now: ReadonlyMap<string, { point: Point; by: By | null; strength?: number }>,
    comesIn: boolean,
  ): Firing[] {
    const before = this.state.inside[answerId] ?? [];
    this.state.inside[answerId] = [...now.keys()];
    if (!comesIn) return before.filter((key) => !now.has(key)).map(() => this.now.firing({}));
    return [...now].filter(([key]) => !before.includes(key)).map(([, found]) => this.now.firing(found));
  }

  private approaches(answerId: string, { who, objectId, distanceM }: CueSourceOf<"near">): Firing[] {
    const plan = objectId === null ? undefined : this.now.plan.of(objectId);
    if (!plan) return [];
    const near = new Map<string, { point: Point; by: By | null }>();
    for (const middle of this.middlesOf(plan)) {
      for (const { key, point, by } of this.now.everyone(who)) {
        const rise = key === "visitor" ? Math.min(Math.max(middle[1] - point[1], 0), this.now.eyeHeight) : 0;
        const away = Math.hypot(middle[0] - point[0], middle[1] - point[1] - rise, middle[2] - point[2]);
        if (away < distanceM && key.split(" ")[0] !== objectId) near.set(key, { point, by });
      }
    }
    return this.changesOf(answerId, near, true);
  }

  /** The middles of an object's copies. */
  private middlesOf(plan: ObjectPlan): Point[] {
    const { count, matrices } = this.now.places.copiesOf(plan);
    return Array.from({ length: count }, (_none, copy): Point => {
      const body = this.now.bodies()?.placeOf(plan.object.id, copy);
      if (body) return [body[0], body[1], body[2]];
      return [matrices[copy * 16 + 12], matrices[copy * 16 + 13], matrices[copy * 16 + 14]];
    });
  }

  private touches(answerId: string, { objectId, speed: least }: CueSourceOf<"touch">): Firing[] {
    const plan = objectId === null ? undefined : this.now.plan.of(objectId);
    if (!plan) return [];
    const over = this.now.events.flatMap((event) =>
      event.kind === "over" && this.now.isOn(event.objectId, objectId) ? [this.now.firing(hitOf(event))] : [],
    );
    const touching = new Map<string, { point: Point; by: By; strength: number; copy: number }>();
    const before = this.state.inside[answerId] ?? [];
    for (const hand of ["left", "right"] as const) {
      const pose = this.now.present.hands[hand];
      if (!pose) continue;
      const copy = this.copyAt(plan, pose);
      if (copy < 0) continue;
      const speed = Math.hypot(...this.now.handSpeed(hand));
      const key = `${hand} ${copy}`;
      // A hand that comes too slowly has not touched yet; one that has stays so until it goes.
      if (speed < least && !before.includes(key)) continue;
      const strength = Math.min(1, speed / FULL_STRIKE);
      touching.set(key, { point: [pose.x, pose.y, pose.z], by: hand, strength, copy });
    }
    return [
      ...over,
      ...this.changesOf(answerId, touching, true).map((firing) => ({ ...firing, objectId: plan.object.id })),
    ];
  }

  /** The copy of an object that a hand reaches; −1 for none. */
  private copyAt(plan: ObjectPlan, { x, y, z }: Pose): number {
    const { count, matrices } = this.now.places.copiesOf(plan);
    for (let copy = 0; copy < count; copy++) {
      decompose(matrices, copy * 16, PLACE, TURN, SIZES);
      let [m, at] = [matrices, copy * 16];
      const body = this.now.bodies()?.placeOf(plan.object.id, copy);
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

  private meetings({ objectId, otherId, impulse: least }: CueSourceOf<"meet">): Firing[] {
    return (this.now.bodies()?.meetings ?? []).flatMap(({ a, b, impulse, point }) => {
      if (impulse < least || objectId === null) return [];
      const is = ({ objectId: id }: BodyRef, meant: string | null) =>
        meant === null || id === meant || this.now.isOn(id, meant);
      const own = is(a, objectId) && is(b, otherId) ? a : is(b, objectId) && is(a, otherId) ? b : undefined;
      if (!own) return [];
      const strength = Math.min(1, impulse / FULL_IMPULSE);
      return [this.now.firing({ strength, point, objectId: own.objectId, copy: own.copy })];
    });
  }

  private soundCues({ kind, soundId }: CueSourceOf<"soundStarts"> | CueSourceOf<"soundEnds">): Firing[] {
    const unit = this.sounds.unitOf(soundId);
    const was = this.sounds.ranBefore(unit);
    const is = this.sounds.units.isRunning(unit, this.now.toS);
    if (kind === "soundStarts") return is && !was ? [this.now.firing({})] : [];
    const lengthS = this.sounds.lengths().get(unit)?.lengthS ?? 0;
    if (unit === TAPE_UNIT && !this.sounds.units.lastOf(unit, this.now.toS)) {
      const hasEnded = lengthS > 0 && this.now.fromS < lengthS && this.now.toS >= lengthS;
      return hasEnded ? [this.now.firing({})] : [];
    }
    const ended = was && !is && this.sounds.units.lastOf(unit, this.now.toS)?.running === true;
    return ended ? [this.now.firing({})] : [];
  }

  private tapeCues(cue: CueSourceOf<"mark"> | CueSourceOf<"section">): Firing[] {
    const { units } = this.sounds;
    const { fromS, toS } = this.now;
    if (!units.isRunning(TAPE_UNIT, Math.max(fromS, 0)) || !units.isRunning(TAPE_UNIT, toS)) return [];
    const before = fromS < 0 ? units.positionS(TAPE_UNIT, 0) - 1e-9 : units.positionS(TAPE_UNIT, fromS);
    const now = units.positionS(TAPE_UNIT, toS);
    const last = units.lastOf(TAPE_UNIT, toS);
    const passes = (atS: number): boolean => {
      if (now >= before) return now - before < JUMP_S && atS > before && atS <= now;
      if (!last?.loops) return false;
      return (atS > before && atS < last.lengthS) || (atS >= (last.fromS ?? 0) && atS <= now);
    };
    return this.now.plan.scene.marks
      .filter((mark) => (cue.kind === "mark" ? mark.id === cue.markId : mark.beginsSection))
      .filter(({ timeS }) => passes(timeS))
      .map(() => this.now.firing({}));
  }
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
