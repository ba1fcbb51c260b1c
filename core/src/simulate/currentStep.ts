import type { Who } from "../action/cueSources";
import { type Pose, restingPose } from "../document/take/poses";
import type { By, Take, VisitorEvent } from "../document/take/take";
import type { ObjectPlan, ScenePlan } from "../evaluate/plan";
import { settingOf } from "../kinds/table";
import { nearness, nearnessOfStanding } from "./answers/zones";
import type { Bodies, Point, Presence } from "./bodies/bodies";
import type { StepPlaces } from "./stepPlaces";
import { STEP_S } from "./stepper";

/** One cue that an answer has taken. */
export interface Firing {
  timeS: number;
  /** 0..1 */
  strength: number;
  /** Position at which it happened, if known. */
  point: Point | null;
  objectId: string | null;
  copy: number;
  by: By | null;
  /** Somebody has gone out: what was done as they came in is taken back. */
  leaves?: true;
}

/** Time over which the speed of a hand is taken, in steps. */
const SPEED_STEPS = 6;

/** The step that is being taken: its time, who is there, and what they did. */
export class CurrentStep {
  /** Its number, from 1; 0 before the first. */
  step = 0;
  fromS = 0;
  toS = 0;
  present: Presence = { standing: undefined, hands: {} };
  /** Actions of the visitor within the step. */
  events: readonly VisitorEvent[] = [];
  readonly head: Pose = restingPose();
  private readonly hands = { left: restingPose(), right: restingPose() };

  constructor(
    readonly plan: ScenePlan,
    readonly places: StepPlaces,
    readonly take: () => Take | undefined,
    readonly bodies: () => Bodies | undefined,
  ) {}

  /** Goes to before the first step. */
  begin(): void {
    this.step = 0;
    this.fromS = -1e-9;
    this.toS = 0;
  }

  /** Goes to a step that ends at a time, s. */
  moveTo(step: number, timeS: number): void {
    this.step = step;
    this.fromS = step === 1 ? -1e-9 : (step - 1) * STEP_S;
    this.toS = timeS;
  }

  /** Looks where the visitor is and what they do: once a step. */
  readVisitor(): void {
    const take = this.take();
    this.present = { standing: undefined, hands: {} };
    this.events = take ? this.eventsOf(take) : [];
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

  /** Height of the visitor's eyes over their feet, m. */
  get eyeHeight(): number {
    const world = this.plan.of("world");
    return world ? (settingOf(world.object, "eyeHeight") as number) : 1.6;
  }

  private eventsOf(take: Take): VisitorEvent[] {
    const events: VisitorEvent[] = [];
    for (let i = take.firstFrom(this.step === 1 ? 0 : this.step); i < take.events.length; i++) {
      if (take.events[i].step > this.step) break;
      events.push(take.events[i]);
    }
    return events;
  }

  /** A cue at the end of the step. */
  firing(of: Partial<Firing>): Firing {
    return { timeS: this.toS, strength: 1, point: null, objectId: null, copy: 0, by: null, ...of };
  }

  /** True if an object is the one that is meant, or is in a group that is. */
  isOn(objectId: string | null, meant: string | null): boolean {
    if (meant === null) return true;
    const plan = objectId === null ? undefined : this.plan.of(objectId);
    return plan !== undefined && this.places.placing.chainOf(plan).some(({ object }) => object.id === meant);
  }
  /** Everybody that is meant, by a name each, and where they are. */
  *everyone(who: Who): Iterable<{ key: string; point: Point; by: By | null }> {
    const { standing, hands } = this.present;
    const bodies = this.bodies();
    if (standing && (who === "visitor" || who === "anyone")) {
      yield { key: "visitor", point: [standing.x, standing.y, standing.z], by: null };
    }
    if (who === "hand" || who === "anyone") {
      for (const [hand, pose] of Object.entries(hands)) {
        yield { key: hand, point: [pose.x, pose.y, pose.z], by: hand as By };
      }
    }
    if ((who === "thing" || who === "anyone") && bodies) {
      for (const { ref, place } of bodies.moving()) {
        yield { key: `${ref.objectId} ${ref.copy}`, point: [place[0], place[1], place[2]], by: null };
      }
    }
  }

  /** How near somebody is to a zone's middle, 0..1; above 0 inside. */
  nearnessTo(zone: ObjectPlan, key: string, point: Point): number {
    if (key === "visitor") return nearnessOfStanding(zone, this.places, point, this.eyeHeight);
    return nearness(zone, this.places, ...point);
  }

  /** Everybody that is meant and inside of a zone. */
  *insideOf(zone: ObjectPlan, who: Who): ReturnType<typeof this.everyone> {
    for (const one of this.everyone(who)) if (this.nearnessTo(zone, one.key, one.point) > 0) yield one;
  }

  /** Speed of a hand, m/s. */
  handSpeed(hand: "left" | "right"): Point {
    const track = this.take()?.poses[hand];
    const [before, now] = [restingPose(), restingPose()];
    if (!track?.at(this.step, now) || !track.at(this.step - SPEED_STEPS, before)) return [0, 0, 0];
    const passedS = SPEED_STEPS * STEP_S;
    return [(now.x - before.x) / passedS, (now.y - before.y) / passedS, (now.z - before.z) / passedS];
  }
}
