import { type ActiveBinding, outputFor } from "../evaluate/activeBinding";
import type { ObjectPlan, ScenePlan } from "../evaluate/plan";
import type { Slot } from "../evaluate/slots";
import type { Sums } from "../evaluate/sums";
import { type ValueSource, Values } from "../evaluate/values";
import type { Waves } from "../evaluate/wave";
import type { Simulated } from "../kinds/declaration";
import { simulates } from "../kinds/table";
import { trackValueAt } from "../strand/track";
import { OrbitTrails } from "./orbits";
import { Particles } from "./particles";
import { STEP_S, STEPS_A_SECOND, type Stepper } from "./stepper";
import { Wake } from "./wake";

/** No tape is longer than a day: times beyond that are clamped. */
export const MAX_TIME_S = 24 * 3600;
const MAX_STEPS = MAX_TIME_S * STEPS_A_SECOND;
/** Steps between two checkpoints of the sums. */
const CHECKPOINT_STEPS = 120;
const NO_WAVES: Waves = new Map();

/** A property that is a speed, and its integral so far. */
interface Integral {
  slot: Slot;
  plan: ObjectPlan;
  sum: number;
}

/** A simulated object and the last step it has taken; −1 when it has to begin again. */
interface Running {
  stepper: Stepper;
  plan: ObjectPlan;
  what: Simulated;
  lastStep: number;
}

/** How each simulated part of an object is made. */
const MAKERS: {
  [S in Simulated]: (values: ValueSource, plan: ObjectPlan, waves: () => Waves) => SteppersOf[S];
} = {
  particles: (values, plan) => new Particles(values, plan),
  orbits: (values, plan, waves) => new OrbitTrails(values, plan, waves),
  wake: (values, plan) => new Wake(values, plan),
};
interface SteppersOf {
  particles: Particles;
  orbits: OrbitTrails;
  wake: Wake;
}

/**
 * The memory of a scene: integrals of rates and speeds, particles, wakes and trails, in steps of 1/120 s. The state at
 * a time depends on plan, tracks and time alone. After a seek the sums continue from the nearest checkpoint before the
 * simulated objects' memory, and these take the steps their memory reaches back.
 */
export class Simulation implements Sums {
  waves: Waves = NO_WAVES;
  readonly values: Values;
  private readonly plan: ScenePlan;
  private rates: ActiveBinding[] = [];
  private integrals: Integral[] = [];
  private integralOf = new Map<Slot, Integral>();
  private running: Running[] = [];
  private readonly checkpoints = new Map<number, Float64Array>();
  private scratch = new Float64Array(0);
  /** Describes everything the sums depend on beside tracks. */
  private summed = "";
  private step = 0;
  private isKnown = false;

  constructor(plan: ScenePlan) {
    this.plan = plan;
    this.values = new Values(plan, this);
    this.rebuild();
  }

  /** The simulated part of an object, if it has one. */
  get<S extends Simulated>(what: S, objectId: string): SteppersOf[S] | undefined {
    const found = this.running.find((one) => one.what === what && one.plan.object.id === objectId);
    return found?.stepper as SteppersOf[S] | undefined;
  }

  /** Starts over with a new plan; sums continue where nothing they depend on changed. */
  rebuild(): void {
    this.collectSums();
    this.running = this.plan.plans.flatMap((plan) => this.makeSteppers(plan));
    this.isKnown = false;
  }

  /** Follows an edit that left the layout as it was: only what reads a changed plan is simulated again. */
  update(changed: ReadonlySet<ObjectPlan>): void {
    if (changed.size === 0) return;
    this.collectSums();
    this.running = this.running.flatMap((one) =>
      one.stepper.reads.some((plan) => changed.has(plan))
        ? this.makeSteppers(one.plan).filter(({ what }) => what === one.what)
        : [one],
    );
    for (const { offset, width } of [...changed].flatMap(({ slots }) => slots)) {
      for (let i = offset; i < offset + width; i++) this.scratch[i] = this.plan.rest[i];
    }
  }

  /** Begins again where tracks are other ones. */
  setTracks(changed: ReadonlySet<ObjectPlan>): void {
    const isSummed =
      this.rates.some(({ slot }) => this.isOf(slot, changed)) ||
      this.integrals.some(({ plan }) => changed.has(plan));
    if (isSummed) this.forget();
    for (const one of this.running) {
      if (one.stepper.reads.some((plan) => changed.has(plan))) restart(one);
    }
  }

  /** Forgets all state and every checkpoint. */
  forget(): void {
    this.isKnown = false;
    this.checkpoints.clear();
  }

  /** Forgets what was summed and simulated after a time. */
  forgetAfter(timeS: number): void {
    for (const step of this.checkpoints.keys()) {
      if (step * STEP_S > timeS) this.checkpoints.delete(step);
    }
    if (this.step * STEP_S > timeS) this.isKnown = false;
  }

  /** Brings sums and simulated objects to a time. */
  advanceTo(timeS: number): void {
    if (this.rates.length === 0 && this.integrals.length === 0 && this.running.length === 0) return;
    const target = Math.min(MAX_STEPS, Math.max(0, Math.floor(timeS * STEPS_A_SECOND + 1e-6) || 0));
    const window = this.windowSteps(this.running);
    if (!this.isKnown || target < this.step || target - this.step > Math.max(window, CHECKPOINT_STEPS)) {
      for (const one of this.running) restart(one);
      this.resumeAt(Math.max(0, target - window));
    } else {
      const restarted = this.running.filter(({ lastStep }) => lastStep < 0);
      if (restarted.length > 0) this.resumeAt(Math.max(0, this.step - this.windowSteps(restarted)));
    }
    while (this.step < target) {
      this.sumStep();
      const nowS = this.step * STEP_S;
      for (const one of this.running) {
        if (one.lastStep >= this.step) continue;
        one.lastStep = this.step;
        one.stepper.step(this.step, nowS);
      }
    }
  }

  rateAt(active: ActiveBinding, timeS: number, band?: number): number {
    const { track, sums } = active;
    if (!track || sums.length === 0) return 0;
    const aheadS = timeS - this.step * STEP_S;
    const at = (i: number) => sums[i] + outputFor(active, trackValueAt(track, timeS, i)) * aheadS;
    if (band !== undefined) {
      const low = Math.min(track.width - 1, Math.floor(band));
      const share = band - low;
      return share > 0 ? at(low) + (at(low + 1) - at(low)) * share : at(low);
    }
    let sum = 0;
    for (let i = 0; i < track.width; i++) sum += at(i);
    return sum / track.width;
  }

  integralAt(slot: Slot, timeS: number, values: Float64Array): number {
    const integral = this.integralOf.get(slot);
    const now = values[slot.offset];
    return integral ? integral.sum + now * (timeS - this.step * STEP_S) : now * timeS;
  }

  private makeSteppers(plan: ObjectPlan): Running[] {
    return simulates(plan.object).map((what) => ({
      stepper: MAKERS[what](this.values, plan, () => this.waves),
      plan,
      what,
      lastStep: -1,
    }));
  }

  private isOf(slot: Slot, plans: ReadonlySet<ObjectPlan>): boolean {
    const plan = this.plan.of(slot.objectId);
    return plan !== undefined && plans.has(plan);
  }

  /** Lists what is summed; drops all checkpoints when it is not what it was. */
  private collectSums(): void {
    const { plan } = this;
    if (this.scratch.length !== plan.size) this.scratch = Float64Array.from(plan.rest);
    this.rates = plan.plans.flatMap(({ bindings }) =>
      bindings.filter(({ binding }) => binding.mode === "rate"),
    );
    const sumOf = new Map([...this.integralOf].map(([slot, { sum }]) => [slot, sum]));
    this.integrals = plan.plans.flatMap((one) =>
      one.boundSlots.flatMap((slot) =>
        slot.property.type === "number" && slot.property.integrates
          ? [{ slot, plan: one, sum: sumOf.get(slot) ?? 0 }]
          : [],
      ),
    );
    this.integralOf = new Map(this.integrals.map((integral) => [integral.slot, integral]));
    const summed = this.describeSums();
    if (summed !== this.summed) this.forget();
    // Sums of a binding that is new have the width of its track only once they are resumed.
    if (this.rates.some(({ sums, track }) => sums.length !== (track?.width ?? 0))) this.isKnown = false;
    this.summed = summed;
  }

  private describeSums(): string {
    return JSON.stringify([
      this.rates.map(({ binding }) => binding),
      this.integrals.map(({ slot, plan: { object, bindings } }) => {
        const own = bindings.filter((active) => active.slot === slot).map(({ binding }) => binding);
        // A single object that is dealt a band by its place reads another one elsewhere.
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

  private windowSteps(running: readonly Running[]): number {
    let longestS = 0;
    for (const { stepper } of running) longestS = Math.max(longestS, stepper.windowS());
    return Math.ceil(longestS * STEPS_A_SECOND) + 1;
  }

  /** Brings the sums to a step, from the nearest checkpoint before it. */
  private resumeAt(step: number): void {
    for (const active of this.rates) {
      const width = active.track?.width ?? 0;
      if (active.sums.length !== width) active.sums = new Float64Array(width);
    }
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
    for (const active of this.rates) {
      const track = active.track;
      if (!track) continue;
      for (let band = 0; band < active.sums.length; band++) {
        active.sums[band] += outputFor(active, trackValueAt(track, timeS, band)) * STEP_S;
      }
    }
    for (const integral of this.integrals) {
      this.values.evaluateSlot(integral.plan, integral.slot, timeS, this.scratch);
      integral.sum += this.scratch[integral.slot.offset] * STEP_S;
    }
    this.step++;
    if (this.step % CHECKPOINT_STEPS === 0 && !this.checkpoints.has(this.step)) {
      this.checkpoints.set(this.step, this.checkpoint());
    }
  }

  /** All sums as one row. */
  private checkpoint(): Float64Array {
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

function restart(one: Running): void {
  one.stepper.reset();
  one.lastStep = -1;
}

/** Kinds that are simulated, for a test that every one has a maker. */
export const SIMULATED_PARTS = Object.keys(MAKERS) as Simulated[];
