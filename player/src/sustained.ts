/** Measurements that are looked at: two seconds of frames at 60 a second. */
const KEPT = 120;
/** So many are needed to say anything: the first frames compile and load. */
const ENOUGH = 60;

/** The cost that lasts: the median of recent measurements, which single long ones do not change. */
export class SustainedCost {
  private readonly recent = new Float64Array(KEPT);
  private readonly sorted = new Float64Array(KEPT);
  private count = 0;

  add(ms: number): void {
    this.recent[this.count++ % KEPT] = ms;
  }

  /** Starts over, after something that makes earlier measurements mean nothing. */
  reset(): void {
    this.count = 0;
  }

  /** Median, ms; `undefined` until there are enough measurements. */
  get ms(): number | undefined {
    if (this.count < ENOUGH) return undefined;
    const kept = Math.min(this.count, KEPT);
    const sorted = this.sorted.subarray(0, kept);
    sorted.set(this.recent.subarray(0, kept));
    sorted.sort();
    return sorted[Math.floor(kept / 2)];
  }
}
