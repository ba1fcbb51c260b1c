import { trackValueAt } from "../strand/track";
import { type Drive, driven } from "./drive";
import type { Evaluator, Plan } from "./evaluate";
import { OrbitTrails } from "./orbits";
import { Particles } from "./particles";
import type { Slot } from "./slots";
import { Wake } from "./wake";

/** What has a memory goes on in steps of this length, whatever the display does. */
export const STEP_S = 1 / 120;
const STEPS_A_SECOND = 120;
/** No tape is longer than a day: a time beyond that is none. */
export const MOST_S = 24 * 3600;
const MOST_STEPS = MOST_S * STEPS_A_SECOND;
/** Steps between two states that are kept to go on from after a seek. */
const CHECKPOINT_STEPS = 120;

/** Something that remembers: it takes every step of a stretch that is as long as its memory. */
export interface Stepper {
  /** Seconds it remembers at most. */
  windowS(): number;
  forget(): void;
  /** Takes the step that ends at a time; sums are as of then. */
  step(step: number, timeS: number): void;
}

/** A property that is a speed, and its sum so far. */
interface Integral {
  slot: Slot;
  plan: Plan;
  sum: number;
}

/**
 * The memory of a scene: sums over time of rates and speeds, particles, wakes and trails. The state at a time depends
 * on the scene, the tracks and the time alone: after a seek, sums are taken up from a state that was kept or summed
 * again from the start, and what remembers takes the steps its memory reaches back.
 */
export class Steps {
  readonly particles = new Map<string, Particles>();
  readonly wakes = new Map<string, Wake>();
  readonly trails = new Map<string, OrbitTrails>();
  private readonly evaluator: Evaluator;
  private readonly rates: Drive[];
  private readonly integrals: Integral[] = [];
  private readonly integralOf = new Map<Slot, Integral>();
  private readonly steppers: Stepper[] = [];
  private readonly checkpoints = new Map<number, Float64Array>();
  private scratch = new Float64Array(0);
  private step = 0;
  private isKnown = false;

  constructor(evaluator: Evaluator) {
    this.evaluator = evaluator;
    this.rates = evaluator.plans.flatMap(({ drives }) =>
      drives.filter(({ binding }) => binding.mode === "rate"),
    );
    for (const plan of evaluator.plans) {
      for (const slot of plan.drivenSlots) {
        if (slot.property.type !== "number" || !slot.property.integrates) continue;
        const integral = { slot, plan, sum: 0 };
        this.integrals.push(integral);
        this.integralOf.set(slot, integral);
      }
    }
  }

  /** Makes what remembers, once the evaluator stands. */
  begin(): void {
    const { evaluator } = this;
    this.scratch = new Float64Array(evaluator.size);
    for (const plan of evaluator.plans) {
      evaluator.restInto(plan, this.scratch);
      const { id, kind } = plan.object;
      if (kind === "particles") this.add(this.particles, id, new Particles(evaluator, plan));
      if (kind === "orbits") this.add(this.trails, id, new OrbitTrails(evaluator, plan));
      if (plan.at.wakeRate) this.add(this.wakes, id, new Wake(evaluator, plan));
    }
  }

  private add<S extends Stepper>(map: Map<string, S>, id: string, stepper: S): void {
    map.set(id, stepper);
    this.steppers.push(stepper);
  }

  /**
   * Takes over the sums that were kept for an earlier state of the same scene, with the same tracks, unless what they are
   * sums of has changed: an edit of anything else need not count again from the start.
   */
  goOnFrom(before: Steps): void {
    if (this.summed() !== before.summed()) return;
    for (const [step, row] of before.checkpoints) this.checkpoints.set(step, row);
  }

  /** Everything that the sums depend on beside tracks, in words. */
  private summed(): string {
    return JSON.stringify([
      this.rates.map(({ binding }) => binding),
      this.integrals.map(({ slot, plan: { object, drives } }) => {
        const own = drives.filter((drive) => drive.slot === slot).map(({ binding }) => binding);
        // A single object that is dealt a band by its place hears another one elsewhere.
        const isByPlace = own.some(({ deal }) => deal.kind === "place");
        return [
          object.id,
          slot.key,
          object.rest[slot.key],
          own,
          isByPlace && [object.rest.position, object.settings],
        ];
      }),
    ]);
  }

  /** Forgets everything: another sound, or other numbers of a strand. */
  forget(): void {
    this.isKnown = false;
    this.checkpoints.clear();
  }

  /** Brings the memory to a time. */
  advanceTo(timeS: number): void {
    if (this.rates.length === 0 && this.integrals.length === 0 && this.steppers.length === 0) return;
    const target = Math.min(MOST_STEPS, Math.max(0, Math.floor(timeS * STEPS_A_SECOND + 1e-6) || 0));
    const window = this.windowSteps();
    if (!this.isKnown || target < this.step || target - this.step > Math.max(window, CHECKPOINT_STEPS)) {
      this.takeUp(Math.max(0, target - window));
    }
    while (this.step < target) {
      this.sumStep();
      const nowS = this.step * STEP_S;
      for (const stepper of this.steppers) stepper.step(this.step, nowS);
    }
  }

  /** What a rate has come to at a time; of a fan the mean of its bands, or between two of them. */
  rateAt(drive: Drive, timeS: number, band?: number): number {
    const { track, sums } = drive;
    if (!track || sums.length === 0) return 0;
    const aheadS = timeS - this.step * STEP_S;
    const at = (i: number) => sums[i] + driven(drive, trackValueAt(track, timeS, i)) * aheadS;
    if (band !== undefined) {
      const low = Math.min(track.width - 1, Math.floor(band));
      const share = band - low;
      return share > 0 ? at(low) + (at(low + 1) - at(low)) * share : at(low);
    }
    let sum = 0;
    for (let i = 0; i < track.width; i++) sum += at(i);
    return sum / track.width;
  }

  /**
   * The sum over time of a property that is a speed.
   *
   * @param out  values as evaluated at that time
   */
  integralAt(slot: Slot, timeS: number, out: Float64Array): number {
    const integral = this.integralOf.get(slot);
    const now = out[slot.offset];
    return integral ? integral.sum + now * (timeS - this.step * STEP_S) : now * timeS;
  }

  private windowSteps(): number {
    let longestS = 0;
    for (const stepper of this.steppers) longestS = Math.max(longestS, stepper.windowS());
    return Math.ceil(longestS * STEPS_A_SECOND) + 1;
  }

  /** Goes to a step from the nearest state that was kept before it, with nothing remembered. */
  private takeUp(step: number): void {
    for (const drive of this.rates) {
      const width = drive.track?.width ?? 0;
      if (drive.sums.length !== width) drive.sums = new Float64Array(width);
    }
    for (const stepper of this.steppers) stepper.forget();
    let from = Math.floor(step / CHECKPOINT_STEPS) * CHECKPOINT_STEPS;
    while (from > 0 && !this.checkpoints.has(from)) from -= CHECKPOINT_STEPS;
    this.restore(this.checkpoints.get(from));
    this.step = from;
    this.isKnown = true;
    while (this.step < step) this.sumStep();
  }

  /** Adds one step to all sums. */
  private sumStep(): void {
    const timeS = this.step * STEP_S;
    for (const drive of this.rates) {
      const track = drive.track;
      if (!track) continue;
      for (let band = 0; band < drive.sums.length; band++) {
        drive.sums[band] += driven(drive, trackValueAt(track, timeS, band)) * STEP_S;
      }
    }
    for (const integral of this.integrals) {
      this.evaluator.evaluateSlot(integral.plan, integral.slot, timeS, this.scratch);
      integral.sum += this.scratch[integral.slot.offset] * STEP_S;
    }
    this.step++;
    if (this.step % CHECKPOINT_STEPS === 0 && !this.checkpoints.has(this.step)) {
      this.checkpoints.set(this.step, this.state());
    }
  }

  /** All sums as one row. */
  private state(): Float64Array {
    const row: number[] = [];
    for (const { sums } of this.rates) row.push(...sums);
    for (const { sum } of this.integrals) row.push(sum);
    return Float64Array.from(row);
  }

  private restore(row: Float64Array | undefined): void {
    let at = 0;
    for (const { sums } of this.rates) for (let i = 0; i < sums.length; i++) sums[i] = row ? row[at++] : 0;
    for (const integral of this.integrals) integral.sum = row ? row[at++] : 0;
  }
}
