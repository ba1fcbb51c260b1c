import { restingPose } from "./poses";
import { TAKE_STEPS_A_SECOND, type Take, type VisitorEvent } from "./take";
import { TAPE_UNIT, type UnitEvent } from "./units";

/** Which of two takes something is in. */
export type InTake = "both" | "first" | "second";

/** Something that happened in one of two takes, or in both at nearly the same time. */
export interface ComparedEvent {
  in: InTake;
  /** When it happened, in seconds of the run: in the first take where it is in both. */
  atS: number;
  /** How much later it came in the second take, s; 0 where it is in one alone. */
  laterS: number;
  event: VisitorEvent | UnitEvent;
}

/** Things that two takes share, and things that only one of them has. */
export interface TakeComparison {
  /** In order of time. */
  events: ComparedEvent[];
  /** How far apart the heads were, metres, four times a second from 0 on; 0 where one of them was not there. */
  headsApartM: number[];
  /** From when on they differ: the first event that is in one alone, or heads that part; `undefined` where they agree. */
  differS: number | undefined;
}

/** Things that happened this close to each other are the same thing, done anew by hand. */
export const SAME_WITHIN_S = 0.15;
/** Heads this far apart are elsewhere, m. */
const APART_M = 0.25;
export const HEADS_A_SECOND = 4;

interface Happening {
  key: string;
  atS: number;
  event: VisitorEvent | UnitEvent;
}

/** Text that is equal for two events of one kind; time and exact place do not count. */
function keyOf(event: VisitorEvent | UnitEvent): string {
  switch (event.kind) {
    case "key":
      return `key ${event.key}`;
    case "cue":
      return `cue ${event.strandId}`;
    case "trial":
      return `trial ${event.answerId}`;
    case "unit":
      return `unit ${event.unitId} ${event.running}`;
    case "grab":
      return `grab ${event.by} ${event.objectId} ${event.copy} ${event.holds}`;
    default:
      return `${event.kind} ${event.by} ${event.objectId} ${event.copy}`;
  }
}

/** Everything that was done in a take; of a press that is held, its beginning. */
function happenings(take: Take): Happening[] {
  const byVisitors = take.events
    .filter((event, i) => {
      const before = take.events[i - 1];
      return event.kind !== "hold" || before?.kind !== "hold" || before.heldMs >= event.heldMs;
    })
    .map((event) => ({ key: keyOf(event), atS: event.step / TAKE_STEPS_A_SECOND, event }));
  // Units also note where they are when they come late: only starts and stops count.
  const running = new Map<string, boolean>([[TAPE_UNIT, true]]);
  const byUnits = take.units.events
    .filter((one) => {
      const before = running.get(one.unitId) ?? false;
      running.set(one.unitId, one.running);
      return one.running !== before;
    })
    .map((event) => ({ key: keyOf(event), atS: event.timeS, event }));
  return [...byVisitors, ...byUnits].sort((a, b) => a.atS - b.atS);
}

/**
 * Compares what visitors did in two takes.
 *
 * @param withinS  events of one kind this close to each other count as the same
 */
export function compareTakes(first: Take, second: Take, withinS = SAME_WITHIN_S): TakeComparison {
  const waiting = new Map<string, Happening[]>();
  for (const one of happenings(second)) waiting.set(one.key, [...(waiting.get(one.key) ?? []), one]);
  const events: ComparedEvent[] = happenings(first).map(({ key, atS, event }) => {
    const same = waiting.get(key) ?? [];
    const i = same.findIndex((one) => Math.abs(one.atS - atS) <= withinS);
    if (i < 0) return { in: "first", atS, laterS: 0, event };
    const [found] = same.splice(i, 1);
    return { in: "both", atS, laterS: found.atS - atS, event };
  });
  for (const { atS, event } of [...waiting.values()].flat())
    events.push({ in: "second", atS, laterS: 0, event });
  events.sort((a, b) => a.atS - b.atS);
  const headsApartM = headsApart(first, second);
  const parted = headsApartM.findIndex((metres) => metres > APART_M);
  const partedS = parted < 0 ? [] : [parted / HEADS_A_SECOND];
  const alone = events.filter((one) => one.in !== "both").map(({ atS }) => atS);
  const differS = Math.min(...partedS, ...alone.slice(0, 1));
  return { events, headsApartM, differS: Number.isFinite(differS) ? differS : undefined };
}

function headsApart(first: Take, second: Take): number[] {
  const [a, b] = [restingPose(), restingPose()];
  const lengthS = Math.min(first.lengthS, second.lengthS);
  return Array.from({ length: Math.floor(lengthS * HEADS_A_SECOND) + 1 }, (_none, i) => {
    const step = (i / HEADS_A_SECOND) * TAKE_STEPS_A_SECOND;
    if (!first.poses.head.at(step, a) || !second.poses.head.at(step, b)) return 0;
    return Math.hypot(a.x - b.x, a.y - b.y, a.z - b.z);
  });
}
