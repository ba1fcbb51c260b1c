import { type Static, Type } from "@sinclair/typebox";
import { closed, Id, oneOf, Share, tagged } from "../../setting/schema";
import { PoseTrack } from "./poses";
import type { TryOut } from "./tryOuts";
import { UnitTimes } from "./units";

/** Steps of a take, as of everything with a memory. */
export const TAKE_STEPS_A_SECOND = 120;

export const Step = Type.Integer({ minimum: 0, maximum: 24 * 3600 * TAKE_STEPS_A_SECOND });
const Finite = Type.Number({ minimum: -1e6, maximum: 1e6 });
const Point = Type.Unsafe<readonly [number, number, number]>(
  Type.Array(Finite, { minItems: 3, maxItems: 3 }),
);
const OrNone = Type.Unsafe<string | null>({ ...Id, type: ["string", "null"] });

/** Source of a touch: the pointer or a finger, or one of the hands. */
export const BY = ["pointer", "left", "right"] as const;
export type By = (typeof BY)[number];
const by = oneOf(BY);
/** A hit: an object, which of its copies, and where on the stage. */
const hit = { objectId: OrNone, copy: Type.Integer({ minimum: 0, maximum: 1e6 }), point: Point };
const at = { step: Step };

export const VisitorEventSchema = tagged([
  /** A tap, with the ray it was made along: from, and the way it points. */
  Type.Object({ kind: Type.Literal("tap"), ...at, by, ...hit, from: Point, way: Point }, closed),
  /** A tap that has been held for so long; given again and again while it is. */
  Type.Object({ kind: Type.Literal("hold"), ...at, by, ...hit, heldMs: Finite }, closed),
  Type.Object(
    { kind: Type.Literal("key"), ...at, key: Type.String({ minLength: 1, maxLength: 24 }) },
    closed,
  ),
  /** The pointer has come over an object. */
  Type.Object({ kind: Type.Literal("over"), ...at, by, ...hit }, closed),
  /** A hand has taken hold of a body, or let it go. */
  Type.Object({ kind: Type.Literal("grab"), ...at, by, ...hit, holds: Type.Boolean() }, closed),
  /** A strand that is heard live gave a cue. */
  Type.Object({ kind: Type.Literal("cue"), ...at, strandId: Id, strength: Share }, closed),
  /** Somebody who builds the scene tried an answer. */
  Type.Object({ kind: Type.Literal("trial"), ...at, answerId: Id }, closed),
]);
export type VisitorEvent = Static<typeof VisitorEventSchema>;

/** Parts of a visitor whose poses are remembered; `tilt` is that of a phone in the hand. */
export const POSED = ["head", "left", "right", "tilt"] as const;
export type Posed = (typeof POSED)[number];
/**
 * Events of one run of a scene: with the document, the numbers and the time they determine the scene's state.
 *
 * Everything is on the grid of 1/120 s. What is recorded while a scene runs belongs to a step that has not been taken yet, so
 * that a replay does exactly the same.
 */
export class Take {
  name = "Take";
  tryOut: TryOut = "window";
  soundDelayS = 0;
  /** True if its time is that of a run, in which the tape is one of the units; otherwise it is the tape's own. */
  isRun = false;
  readonly units = new UnitTimes();
  poses: Record<Posed, PoseTrack> = {
    head: new PoseTrack(),
    left: new PoseTrack(),
    right: new PoseTrack(),
    tilt: new PoseTrack(),
  };
  /** Increases with everything that is recorded beside units and poses. */
  version = 0;
  private list: VisitorEvent[] = [];
  private length = 0;

  /** Events of visitors, in order. */
  get events(): readonly VisitorEvent[] {
    return this.list;
  }

  /** How long it is, in steps. */
  get lengthSteps(): number {
    return this.length;
  }

  get lengthS(): number {
    return this.length / TAKE_STEPS_A_SECOND;
  }

  /** Says that it lasts until a step at least. */
  lastUntil(step: number): void {
    this.length = Math.max(this.length, step);
  }

  /** Adds an event; events of later steps no longer hold. */
  record(event: VisitorEvent): void {
    while (this.list.length > 0 && this.list[this.list.length - 1].step > event.step) this.list.pop();
    this.list.push(event);
    this.version++;
    this.lastUntil(event.step);
  }

  /** Index of the first event of a step or a later one. */
  firstFrom(step: number): number {
    let low = 0;
    let high = this.list.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.list[middle].step < step) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** The part of it between two steps, as a take of its own. */
  trimmed(fromStep: number, toStep: number): Take {
    const out = new Take();
    out.isRun = this.isRun;
    out.name = this.name;
    out.tryOut = this.tryOut;
    out.soundDelayS = this.soundDelayS;
    const fromS = fromStep / TAKE_STEPS_A_SECOND;
    for (const event of this.units.startingAt(fromS)) {
      if (event.timeS <= (toStep - fromStep) / TAKE_STEPS_A_SECOND) out.units.record(event);
    }
    for (const event of this.list) {
      if (event.step > fromStep && event.step <= toStep)
        out.record({ ...event, step: event.step - fromStep });
    }
    for (const part of POSED) out.poses[part] = this.poses[part].trimmed(fromStep, toStep);
    out.lastUntil(toStep - fromStep);
    return out;
  }
}
