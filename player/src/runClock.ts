/** The clock of a run: seconds since it began, without the time it was paused. */
export class RunClock {
  private startMs = performance.now();
  private pausedMs: number | undefined;

  /** Seconds of the run. */
  positionS(): number {
    return Math.max(0, ((this.pausedMs ?? performance.now()) - this.startMs) / 1000);
  }

  get isPaused(): boolean {
    return this.pausedMs !== undefined;
  }

  pause(): void {
    this.pausedMs ??= performance.now();
  }

  resume(): void {
    if (this.pausedMs === undefined) return;
    this.startMs += performance.now() - this.pausedMs;
    this.pausedMs = undefined;
  }

  /** Goes to a time of the run. */
  moveTo(timeS: number): void {
    this.startMs = (this.pausedMs ?? performance.now()) - timeS * 1000;
  }
}
