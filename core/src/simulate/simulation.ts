import type { Scene } from "../document/scene";
import type { Take } from "../document/take/take";
import { type ActiveBinding, outputFor } from "../evaluate/activeBinding";
import type { ObjectPlan, ScenePlan } from "../evaluate/plan";
import type { Slot } from "../evaluate/slots";
import type { Sums } from "../evaluate/sums";
import { type Tracks, type ValueSource, Values } from "../evaluate/values";
import type { Waves } from "../evaluate/wave";
import type { Simulated } from "../kinds/declaration";
import { hasBodies, simulates } from "../kinds/table";
import { type Track, trackValueAt } from "../strand/track";
import type { UnitLength } from "./answers/answeredSounds";
import type { Answering, AnsweringState } from "./answers/answering";
import type { BodiesState } from "./bodies/bodies";
import { laterParts, needsAnswering } from "./bodies/laterParts";
import { OrbitTrails } from "./orbits";
import { Particles } from "./particles";
import { STEP_S, STEPS_A_SECOND, type Stepper } from "./stepper";
import { Wake } from "./wake";

/** No tape is longer than a day: times beyond that are clamped. */
export const MAX_TIME_S = 24 * 3600;
const MAX_STEPS = MAX_TIME_S * STEPS_A_SECOND;
/** Steps between two checkpoints; of scenes with many bodies, whose steps take longer, fewer. */
const CHECKPOINT_STEPS = 60;
const CLOSE_CHECKPOINT_STEPS = 24;
const MANY_BODIES = 48;
/** Checkpoints take up no more than this, in bytes: beyond it, every second one goes. */
const CHECKPOINT_BYTES = 192 * 2 ** 20;
const NO_WAVES: Waves = new Map();

/** A property that is a speed, and its integral so far. */
interface Integral {
  slot: Slot;
  plan: ObjectPlan;
  sum: number;
}

/** Everything that continues without end, as of a step. */
interface Checkpoint {
  sums: Float64Array;
  answering: AnsweringState | undefined;
  bodies: BodiesState | undefined;
}

/** Inputs of the simulation beside plan and tracks. */
export interface Surroundings {
  take: Take | undefined;
  tracks: Tracks;
  /** A strand's track as it is read, whether or not it may drive the scene now. */
  trackOf(strandId: string): Track | undefined;
  /** How long the tape and the units that run alone are. */
  lengths: ReadonlyMap<string, UnitLength>;
  /** Points of a model's surface by object, in units of its size. */
  hulls: ReadonlyMap<string, Float32Array>;
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
export class Simulation implements Sums, ValueSource {
  waves: Waves = NO_WAVES;
  readonly values: Values;
  readonly plan: ScenePlan;
  private rates: ActiveBinding[] = [];
  private integrals: Integral[] = [];
  private integralOf = new Map<Slot, Integral>();
  private running: Running[] = [];
  /** Inputs from the rest of the world; call `forget` after changing them. */
  readonly around: Surroundings = {
    take: undefined,
    tracks: new Map(),
    trackOf: () => undefined,
    lengths: new Map(),
    hulls: new Map(),
  };
  /** Answers, zones and bodies; only scenes that have some. */
  answering: Answering | undefined;
  /** Asked between steps while there are answers or bodies: false stops it before it has come to the time. */
  mayGoOn: () => boolean = () => true;
  private readonly checkpoints = new Map<number, Checkpoint>();
  /** Steps between two checkpoints: those that are made, and those that are left of them. */
  private spacing = CHECKPOINT_STEPS;
  private checkpointEvery = CHECKPOINT_STEPS;
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
    this.renewAnswering();
    this.collectSums();
    this.running = this.plan.plans.flatMap((plan) => this.makeSteppers(plan));
    this.isKnown = false;
  }

  /** Follows an edit that left the layout as it was: only what reads a changed plan is simulated again. */
  update(changed: ReadonlySet<ObjectPlan>): void {
    const { answering } = this;
    if (this.answered !== describeAnswers(this.plan.scene)) this.renewAnswering();
    else if (answering && [...changed].some((plan) => answering.reads.has(plan))) this.renewAnswering();
    else answering?.changes.follow();
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

  /** Makes answers, zones and bodies anew, if the scene has any: they begin at the start again. */
  renewAnswering(): void {
    const { plan, values, around } = this;
    this.answering?.bodies?.dispose();
    this.answering = undefined;
    this.answered = describeAnswers(plan.scene);
    const parts = laterParts();
    if (parts.answering && needsAnswering(plan.scene)) {
      const answering = new parts.answering.Answering(
        this,
        () => around.take,
        () => around.tracks,
        () => around.lengths,
        (strandId) => around.trackOf(strandId),
      );
      if (parts.bodies && hasBodies(plan.scene)) {
        answering.bodies = new parts.bodies.Bodies(
          parts.bodies.physics,
          plan,
          answering.places,
          around.hulls,
          answering.asksForMeetings,
        );
      }
      this.answering = answering;
    }
    values.changedRest = this.answering?.changes.rest;
    this.forget();
  }
  private answered = "";

  // Value source for steppers and answers.
  get sums(): Sums {
    return this;
  }
  evaluatePlan(plan: ObjectPlan, timeS: number, out: Float64Array): void {
    this.values.evaluatePlan(plan, timeS, out);
  }
  burstOf(objectId: string): number {
    return this.answering?.burstOf(objectId) ?? 0;
  }

  /** The step that is taken next: what happens now belongs to it. */
  get nextStep(): number {
    return this.step + 1;
  }

  /** Seconds by which the simulation is behind the time it was brought to, because it was stopped. */
  behindS = 0;

  /** True if solid things of the scene are not there yet: nobody should move before. */
  get awaitsBodies(): boolean {
    return hasBodies(this.plan.scene) && this.answering?.bodies === undefined;
  }

  /** Begins again where tracks are other ones. */
  setTracks(changed: ReadonlySet<ObjectPlan>): void {
    const isAnswered = this.answering !== undefined && changed.size > 0;
    const isSummed =
      isAnswered ||
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
    const bodies = this.answering?.bodies?.most ?? 0;
    this.spacing = bodies > MANY_BODIES ? CLOSE_CHECKPOINT_STEPS : CHECKPOINT_STEPS;
    this.checkpointEvery = this.spacing;
  }

  /** Forgets what was summed and simulated after a time. */
  forgetAfter(timeS: number): void {
    for (const step of this.checkpoints.keys()) {
      if (step * STEP_S > timeS) this.checkpoints.delete(step);
    }
    if (this.step * STEP_S > timeS) this.isKnown = false;
    else this.answering?.rereadUnits();
  }

  /** Brings sums and simulated objects to a time. */
  advanceTo(timeS: number): void {
    const { answering } = this;
    this.behindS = 0;
    if (!answering && this.rates.length === 0 && this.integrals.length === 0 && this.running.length === 0)
      return;
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
      if (answering && !this.mayGoOn()) break;
      this.sumStep();
      const nowS = this.step * STEP_S;
      for (const one of this.running) {
        if (one.lastStep >= this.step) continue;
        one.lastStep = this.step;
        one.stepper.step(this.step, nowS);
      }
    }
    this.behindS = (target - this.step) * STEP_S;
    answering?.showAt(Math.max(this.step * STEP_S, timeS - this.behindS));
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
      stepper: MAKERS[what](this, plan, () => this.waves),
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
    let from = Math.floor(step / this.spacing) * this.spacing;
    while (from > 0 && !this.checkpoints.has(from)) from -= this.spacing;
    this.restore(this.checkpoints.get(from), from);
    this.step = from;
    this.isKnown = true;
    while (this.step < step && (!this.answering || this.mayGoOn())) this.sumStep();
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
    this.answering?.advance(this.step, this.step * STEP_S);
    if (this.step % this.checkpointEvery === 0 && !this.checkpoints.has(this.step)) {
      this.checkpoints.set(this.step, this.checkpoint());
      this.thinOut();
    }
  }

  /** Drops every second checkpoint while they take up too much. */
  private thinOut(): void {
    let bytes = 0;
    for (const { bodies } of this.checkpoints.values()) bytes += bodies?.world.length ?? 0;
    if (bytes <= CHECKPOINT_BYTES) return;
    this.checkpointEvery *= 2;
    for (const step of this.checkpoints.keys()) {
      if (step % this.checkpointEvery !== 0) this.checkpoints.delete(step);
    }
  }

  private checkpoint(): Checkpoint {
    const row: number[] = [];
    for (const { sums } of this.rates) row.push(...sums);
    for (const { sum } of this.integrals) row.push(sum);
    const { answering } = this;
    return {
      sums: Float64Array.from(row),
      answering: answering?.save(),
      bodies: answering?.bodies?.save(),
    };
  }

  private restore(checkpoint: Checkpoint | undefined, step: number): void {
    const row = checkpoint?.sums;
    const { answering } = this;
    if (checkpoint?.answering) {
      if (checkpoint.bodies) answering?.bodies?.restore(checkpoint.bodies);
      answering?.restore(checkpoint.answering, step);
    } else answering?.begin();
    let at = 0;
    for (const { sums } of this.rates) for (let i = 0; i < sums.length; i++) sums[i] = row ? row[at++] : 0;
    for (const integral of this.integrals) integral.sum = row ? row[at++] : 0;
  }
}

/** Everything beside objects that answers, zones and bodies depend on. */
function describeAnswers({ answers, marks, sounds, groups, strands }: Scene): string {
  const running = [...sounds, ...groups].map(({ id, runs, loops }) => [id, runs, loops]);
  const ofZones = strands.filter(({ listensTo }) => listensTo.kind === "zone");
  return answers.length + ofZones.length > 0 ? JSON.stringify([answers, marks, running, ofZones]) : "";
}

function restart(one: Running): void {
  one.stepper.reset();
  one.lastStep = -1;
}

/** Kinds that are simulated, for a test that every one has a maker. */
export const SIMULATED_PARTS = Object.keys(MAKERS) as Simulated[];
