import { largestValue, numberOf, type ObjectPlan } from "../evaluate/plan";
import type { ValueSource } from "../evaluate/values";
import { MAX_COPIES, MAX_WAKE } from "../kinds/shared";
import { type Instances, newInstances, Placing } from "./placing";
import type { Stepper } from "./stepper";

/**
 * The wake of a body: copies of it as it was, left behind at a rate and drifting away. One is left whenever the integral
 * of the rate passes a whole number; it keeps the matrices and colours of that instant.
 */
export class Wake implements Stepper {
  /** Imprints kept at most, each with all copies the body had. */
  readonly most: number;
  /** Copies in each. */
  readonly each: number;
  /** Imprints since the last reset; the newest is before `born % most`. */
  born = 0;
  cap = 0;
  /** Seconds at which each was left. */
  readonly bornS: Float64Array;
  private readonly counts: Uint16Array;
  private readonly kept: Instances;
  private readonly now: Instances;
  private readonly source: ValueSource;
  private readonly plan: ObjectPlan;
  readonly reads: readonly ObjectPlan[];
  private readonly chain: readonly ObjectPlan[];
  private readonly owner: ObjectPlan;
  private readonly placing: Placing;
  private readonly values: Float64Array;
  private readonly lifeMostS: number;
  private passed = 0;

  constructor(source: ValueSource, plan: ObjectPlan) {
    this.source = source;
    this.plan = plan;
    this.placing = new Placing(source.plan, source.sums);
    this.chain = this.placing.chainOf(plan);
    this.owner = source.plan.surfaceOwner(plan);
    this.values = Float64Array.from(source.plan.rest);
    this.reads = this.owner === plan ? this.chain : [...this.chain, this.owner];
    this.each = this.placing.maxInstances(plan);
    const room = Math.max(1, Math.floor(MAX_COPIES / this.each));
    this.most = Math.min(MAX_WAKE, room, Math.max(1, Math.round(largestValue(plan, "wakeCap"))));
    this.lifeMostS = largestValue(plan, "wakeLife");
    this.bornS = new Float64Array(this.most);
    this.counts = new Uint16Array(this.most);
    this.kept = newInstances(this.most * this.each);
    this.now = newInstances(this.each);
  }

  windowS(): number {
    return this.lifeMostS;
  }

  reset(): void {
    this.born = 0;
    this.passed = Number.NaN;
  }

  step(_step: number, timeS: number): void {
    const { source, values, chain, plan, owner } = this;
    source.evaluatePlan(plan, timeS, values);
    const sum = source.sums.integralAt(plan.at.wakeRate!, timeS, values);
    const whole = Math.floor(sum);
    const isNew = whole > this.passed;
    // Just after a seek the sum stands anywhere between two whole numbers.
    this.passed = Number.isNaN(this.passed) ? whole : Math.max(this.passed, whole);
    this.cap = Math.max(1, Math.min(this.most, Math.round(numberOf(plan, "wakeCap", values))));
    if (!isNew) return;
    for (const one of chain) if (one !== plan) source.evaluatePlan(one, timeS, values);
    if (owner !== plan) source.evaluatePlan(owner, timeS, values);
    for (const one of chain) this.placing.placeRoots(one, timeS, values);
    const count = this.placing.writeInstances(plan, timeS, values, this.now);
    const n = this.born % this.most;
    this.born++;
    this.bornS[n] = timeS;
    this.counts[n] = count;
    this.kept.matrices.set(this.now.matrices.subarray(0, count * 16), n * this.each * 16);
    this.kept.colours.set(this.now.colours.subarray(0, count * 3), n * this.each * 3);
    this.kept.glows.set(this.now.glows.subarray(0, count * 4), n * this.each * 4);
  }

  /**
   * Appends what was left behind and is still alive to the instances of the body.
   *
   * @param out  values at the time
   * @param into  already holds the body itself
   * @returns number of imprints that are alive
   */
  appendTo(timeS: number, out: Float64Array, into: Instances): number {
    const { plan, kept, each, most } = this;
    const at = (key: string, axis = 0) => out[plan.at[key]!.offset + axis];
    const [lifeS, fade, growth] = [at("wakeLife"), at("wakeFade"), at("wakeGrowth")];
    const [dx, dy, dz] = [at("wakeDrift", 0), at("wakeDrift", 1), at("wakeDrift", 2)];
    let alive = 0;
    for (let i = Math.max(0, this.born - this.cap); i < this.born; i++) {
      const n = i % most;
      const ageS = timeS - this.bornS[n];
      if (ageS < 0 || ageS >= lifeS) continue;
      alive++;
      const share = ageS / lifeS;
      const size = 1 + (growth - 1) * share;
      const cover = 1 + (fade - 1) * share;
      for (let copy = 0; copy < this.counts[n]; copy++) {
        const from = n * each + copy;
        const to = into.count++;
        for (let k = 0; k < 12; k++) into.matrices[to * 16 + k] = kept.matrices[from * 16 + k] * size;
        into.matrices[to * 16 + 12] = kept.matrices[from * 16 + 12] + dx * ageS;
        into.matrices[to * 16 + 13] = kept.matrices[from * 16 + 13] + dy * ageS;
        into.matrices[to * 16 + 14] = kept.matrices[from * 16 + 14] + dz * ageS;
        into.matrices[to * 16 + 15] = 1;
        for (let k = 0; k < 3; k++) into.colours[to * 3 + k] = kept.colours[from * 3 + k];
        for (let k = 0; k < 3; k++) into.glows[to * 4 + k] = kept.glows[from * 4 + k];
        into.glows[to * 4 + 3] = kept.glows[from * 4 + 3] * cover;
      }
    }
    return alive;
  }
}
