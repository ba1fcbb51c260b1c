import { Type } from "@sinclair/typebox";
import { closed } from "../../setting/schema";

/** The id under which the tape's sounds run as one. */
export const TAPE_UNIT = "";

const Seconds = Type.Number({ minimum: -1, maximum: 24 * 3600 });
/** {@link UnitEvent} in a file. */
export const UnitEventSchema = Type.Object(
  {
    kind: Type.Literal("unit"),
    timeS: Seconds,
    unitId: Type.String({ maxLength: 64 }),
    positionS: Seconds,
    running: Type.Boolean(),
    lengthS: Seconds,
    loops: Type.Boolean(),
    fromS: Type.Optional(Seconds),
  },
  closed,
);

/**
 * The tape, a sound that runs by itself or a group of them was started, paused or moved.
 */
export interface UnitEvent {
  kind: "unit";
  /** When it happened, in seconds of the run. */
  timeS: number;
  /** The sound or group that runs as one; {@link TAPE_UNIT} for the tape. */
  unitId: string;
  /** Position of the unit from then on, in seconds of its own. */
  positionS: number;
  running: boolean;
  /** Time at which the unit ends or begins again, in seconds of its own; 0 if it runs on and on. */
  lengthS: number;
  /** True if it starts again at its end. */
  loops: boolean;
  /** Time at which it starts again; 0 if missing. */
  fromS?: number;
}

/**
 * Positions of the units of a scene, from a list of events.
 *
 * @example
 * const units = new UnitTimes();
 * units.record({ kind: "unit", timeS: 2, unitId: "bell", positionS: 0, running: true, lengthS: 3, loops: false });
 * units.positionS("bell", 3.5); // 1.5
 */
export class UnitTimes {
  private readonly list: UnitEvent[] = [];
  private readonly byUnit = new Map<string, UnitEvent[]>();

  /** Events in order of time. */
  get events(): readonly UnitEvent[] {
    return this.list;
  }

  /**
   * Adds an event. Events after its time no longer hold; one of the same unit at the same time is replaced.
   */
  record(event: UnitEvent): void {
    this.dropAfter(event.timeS);
    const { list } = this;
    const own = this.byUnit.get(event.unitId) ?? [];
    this.byUnit.set(event.unitId, own);
    if (own.at(-1)?.timeS === event.timeS) list.splice(list.lastIndexOf(own.pop()!), 1);
    own.push(event);
    list.push(event);
  }

  /** Drops the events after a time. */
  dropAfter(timeS: number): void {
    const { list } = this;
    while (list.length > 0 && list[list.length - 1].timeS > timeS) {
      const { unitId } = list.pop()!;
      this.byUnit.get(unitId)?.pop();
    }
  }

  /** True if a unit is running at a time. */
  isRunning(unitId: string, timeS: number): boolean {
    const event = this.lastOf(unitId, timeS);
    if (!event) return unitId === TAPE_UNIT;
    if (!event.running) return false;
    return event.loops || event.lengthS <= 0 || this.positionS(unitId, timeS) < event.lengthS;
  }

  /** When a unit that stands still came to stand; −∞ if it never ran, `undefined` while it runs. */
  standsSinceS(unitId: string, timeS: number): number | undefined {
    if (this.isRunning(unitId, timeS)) return undefined;
    const event = this.lastOf(unitId, timeS);
    if (!event || (!event.running && event.timeS <= 0)) return Number.NEGATIVE_INFINITY;
    return event.running ? event.timeS + Math.max(0, event.lengthS - event.positionS) : event.timeS;
  }

  /** Position of a unit, in seconds of its own. Before its first event the tape is at the run's time, and others are at 0. */
  positionS(unitId: string, timeS: number): number {
    const event = this.lastOf(unitId, timeS);
    if (!event) return unitId === TAPE_UNIT ? timeS : 0;
    const { positionS, running, lengthS, loops, fromS = 0 } = event;
    if (!running) return positionS;
    const runS = positionS + timeS - event.timeS;
    if (lengthS <= 0 || runS < lengthS) return runS;
    return loops && lengthS > fromS ? fromS + ((runS - fromS) % (lengthS - fromS)) : lengthS;
  }

  /** State at a time and later events, with times counted from there. */
  startingAt(fromS: number): UnitEvent[] {
    const unitIds = new Set(this.list.map(({ unitId }) => unitId));
    unitIds.add(TAPE_UNIT);
    const held = [...unitIds].flatMap((unitId): UnitEvent[] => {
      const last = this.lastOf(unitId, fromS);
      const positionS = this.positionS(unitId, fromS);
      if (last) return [{ ...last, timeS: 0, positionS, running: this.isRunning(unitId, fromS) }];
      if (unitId !== TAPE_UNIT || fromS === 0) return [];
      return [{ kind: "unit", timeS: 0, unitId, positionS, running: true, lengthS: 0, loops: false }];
    });
    const later = this.list.filter(({ timeS }) => timeS > fromS);
    return [...held, ...later.map((event) => ({ ...event, timeS: event.timeS - fromS }))];
  }

  /** Last event of a unit, up to a time. */
  lastOf(unitId: string, timeS: number): UnitEvent | undefined {
    const own = this.byUnit.get(unitId);
    if (!own) return undefined;
    let low = 0;
    let high = own.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (own[middle].timeS <= timeS) low = middle + 1;
      else high = middle;
    }
    return own[low - 1];
  }
}
