/**
 * A sound that runs by itself (or a group of them) was started, paused or moved.
 */
export interface UnitEvent {
  kind: "unit";
  /** When it happened, in seconds on the tape. */
  timeS: number;
  /** The sound or group that runs as one. */
  unitId: string;
  /** Where the unit is from then on, in seconds of its own. */
  positionS: number;
  running: boolean;
  /** Length of the unit in seconds. */
  lengthS: number;
  /** Whether it starts again at its end. */
  loops: boolean;
}
export type TakeEvent = UnitEvent;

/**
 * What happened while a scene played, as times and events: with the document, the numbers and the time it determines
 * the state of the scene.
 *
 * @example
 * const take = new Take();
 * take.record({ kind: "unit", timeS: 2, unitId: "bell", positionS: 0, running: true, lengthS: 3, loops: false });
 * take.unitPositionS("bell", 3.5); // 1.5
 */
export class Take {
  private readonly list: TakeEvent[] = [];

  /** Events in order of time. */
  get events(): readonly TakeEvent[] {
    return this.list;
  }

  /**
   * Adds an event. Events after its time no longer hold; one of the same unit at the same time is replaced.
   */
  record(event: TakeEvent): void {
    while (this.list.length > 0 && this.list[this.list.length - 1].timeS > event.timeS) this.list.pop();
    const last = this.list[this.list.length - 1];
    const isSame = last?.timeS === event.timeS && last.unitId === event.unitId;
    if (isSame) this.list[this.list.length - 1] = event;
    else this.list.push(event);
  }

  /** Drops the events after a time: the tape has been moved. */
  dropAfter(timeS: number): void {
    while (this.list.length > 0 && this.list[this.list.length - 1].timeS > timeS) this.list.pop();
  }

  /** Whether a unit is running at a time on the tape. */
  isRunning(unitId: string, timeS: number): boolean {
    const event = this.lastOf(unitId, timeS);
    return event?.running ?? false;
  }

  /** Where a unit is, in seconds of its own, when the tape is at a time; 0 before anything happened to it. */
  unitPositionS(unitId: string, timeS: number): number {
    const event = this.lastOf(unitId, timeS);
    if (!event) return 0;
    const { positionS, running, lengthS, loops } = event;
    if (!running) return positionS;
    const runS = positionS + timeS - event.timeS;
    if (loops && lengthS > 0) return runS % lengthS;
    return lengthS > 0 ? Math.min(runS, lengthS) : runS;
  }

  private lastOf(unitId: string, timeS: number): UnitEvent | undefined {
    for (let i = this.list.length - 1; i >= 0; i--) {
      const event = this.list[i];
      if (event.timeS <= timeS && event.unitId === unitId) return event;
    }
    return undefined;
  }
}
