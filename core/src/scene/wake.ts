import { type Evaluator, mostOf, type Plan, surfaceOwner } from "./evaluate";
import { MOST_COPIES, MOST_WAKE } from "./families";
import { type Instances, newInstances, Placing } from "./placing";
import type { Stepper } from "./steps";

/**
 * The wake of a body: copies of it as it was, left behind at a rate and drifting away. One is left whenever the sum of
 * the rate passes a whole number; it keeps the matrices and the look of that instant.
 */
export class Wake implements Stepper {
  /** Things left at most, each with all copies the body had. */
  readonly most: number;
  /** Copies in each. */
  readonly each: number;
  /** Things left since it was last cleared; the newest stands before `born % most`. */
  born = 0;
  cap = 0;
  /** Seconds at which each was left. */
  readonly bornS: Float64Array;
  private readonly counts: Uint16Array;
  private readonly kept: Instances;
  private readonly now: Instances;
  private readonly evaluator: Evaluator;
  private readonly plan: Plan;
  private readonly chain: Plan[];
  private readonly owner: Plan;
  private readonly placing: Placing;
  private readonly values: Float64Array;
  private readonly lifeMostS: number;
  private passed = 0;

  constructor(evaluator: Evaluator, plan: Plan) {
    this.evaluator = evaluator;
    this.plan = plan;
    this.placing = new Placing(evaluator);
    this.chain = this.placing.chainOf(plan);
    this.owner = surfaceOwner(evaluator, plan);
    this.values = new Float64Array(evaluator.size);
    for (const one of evaluator.plans) evaluator.restInto(one, this.values);
    this.each = this.placing.mostOf(plan);
    const room = Math.max(1, Math.floor(MOST_COPIES / this.each));
    this.most = Math.min(MOST_WAKE, room, Math.max(1, Math.round(mostOf(plan, "wakeCap"))));
    this.lifeMostS = mostOf(plan, "wakeLife");
    this.bornS = new Float64Array(this.most);
    this.counts = new Uint16Array(this.most);
    this.kept = newInstances(this.most * this.each);
    this.now = newInstances(this.each);
  }

  windowS(): number {
    return this.lifeMostS;
  }

  forget(): void {
    this.born = 0;
    this.passed = Number.NaN;
  }

  step(_step: number, timeS: number): void {
    const { evaluator, values, chain, plan, owner } = this;
    evaluator.evaluatePlan(plan, timeS, values);
    const sum = evaluator.steps.integralAt(plan.at.wakeRate!, timeS, values);
    const whole = Math.floor(sum);
    const isNew = whole > this.passed;
    // Just after a seek the sum stands anywhere between two whole numbers.
    this.passed = Number.isNaN(this.passed) ? whole : Math.max(this.passed, whole);
    this.cap = Math.max(1, Math.min(this.most, Math.round(evaluator.numberOf(plan, "wakeCap", values))));
    if (!isNew) return;
    for (const one of chain) if (one !== plan) evaluator.evaluatePlan(one, timeS, values);
    if (owner !== plan) evaluator.evaluatePlan(owner, timeS, values);
    for (const one of chain) this.placing.placeRoots(one, timeS, values);
    const count = this.placing.stand(plan, timeS, values, this.now);
    const n = this.born % this.most;
    this.born++;
    this.bornS[n] = timeS;
    this.counts[n] = count;
    this.kept.matrices.set(this.now.matrices.subarray(0, count * 16), n * this.each * 16);
    this.kept.colours.set(this.now.colours.subarray(0, count * 3), n * this.each * 3);
    this.kept.glows.set(this.now.glows.subarray(0, count * 4), n * this.each * 4);
  }

  /**
   * Adds what was left behind and is still there to what is drawn of the body.
   *
   * @param out  values at the time
   * @param into  with the body itself in it already
   * @returns things of the wake that are there
   */
  standInto(timeS: number, out: Float64Array, into: Instances): number {
    const { plan, kept, each, most } = this;
    const at = (key: string, axis = 0) => out[plan.at[key]!.offset + axis];
    const [lifeS, fade, growth] = [at("wakeLife"), at("wakeFade"), at("wakeGrowth")];
    const [dx, dy, dz] = [at("wakeDrift", 0), at("wakeDrift", 1), at("wakeDrift", 2)];
    let things = 0;
    for (let i = Math.max(0, this.born - this.cap); i < this.born; i++) {
      const n = i % most;
      const ageS = timeS - this.bornS[n];
      if (ageS < 0 || ageS >= lifeS) continue;
      things++;
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
    return things;
  }
}
