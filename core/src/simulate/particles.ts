import { hashed } from "../dsp/maths/hash";
import { type ActiveBinding, cuesUpTo, outputFor } from "../evaluate/activeBinding";
import { largestValue, numberOf, type ObjectPlan } from "../evaluate/plan";
import type { ValueSource } from "../evaluate/values";
import { settingOf } from "../kinds/table";
import { trackTimeAt } from "../strand/track";
import { Placing } from "./placing";
import { STEP_S, type Stepper } from "./stepper";

/** State of each particle from its beginning; everything else follows from its age. */
export const PARTICLE_NUMBERS = [
  "bornS",
  "lifeS",
  "x",
  "y",
  "z",
  "vx",
  "vy",
  "vz",
  "gravity",
  "size",
  "endSize",
] as const;
const STRIDE = PARTICLE_NUMBERS.length;
/** Particles that are remembered at most, whatever drives their cap. */
const MOST = 20_000;

/**
 * Particles of one object. Place, speed, lifetime and size are set when one is emitted, from a hash of the seed and the step,
 * so that the particles at a time depend on nothing but the strands up to then. Afterwards it moves by `x + v · age − g · age² / 2`.
 */
export class Particles implements Stepper {
  /** `PARTICLE_NUMBERS` of each, in a ring: the newest overwrite the oldest. */
  readonly numbers: Float32Array;
  readonly most: number;
  /** Particles that began since it was last cleared; the newest stands before `born % most`. */
  born = 0;
  /** The cap as it was at the last step. */
  cap = 0;
  private readonly source: ValueSource;
  private readonly plan: ObjectPlan;
  private readonly values: Float64Array;
  private readonly placing: Placing;
  readonly reads: readonly ObjectPlan[];
  private readonly bursts: ActiveBinding[];
  private readonly seed: number;
  private readonly lifeMostS: number;

  constructor(source: ValueSource, plan: ObjectPlan) {
    this.source = source;
    this.plan = plan;
    this.values = Float64Array.from(source.plan.rest);
    this.placing = new Placing(source.plan, source.sums);
    this.reads = this.placing.chainOf(plan);
    this.seed = settingOf(plan.object, "seed") as number;
    this.bursts = plan.bindings.filter(
      ({ slot, binding }) => slot.key === "burst" && binding.mode === "kick",
    );
    this.most = Math.max(1, Math.min(MOST, Math.round(largestValue(plan, "cap"))));
    this.lifeMostS = largestValue(plan, "life");
    this.numbers = new Float32Array(this.most * STRIDE);
    this.reset();
  }

  windowS(): number {
    return this.lifeMostS;
  }

  reset(): void {
    this.born = 0;
    // Long dead: what has not begun yet is not alive.
    for (let i = 0; i < this.most; i++) this.numbers[i * STRIDE] = -1e6;
  }

  step(step: number, timeS: number): void {
    const { source, plan, values } = this;
    source.evaluatePlan(plan, timeS, values);
    const read = (key: string) => numberOf(plan, key, values);
    this.cap = Math.max(1, Math.min(this.most, Math.round(read("cap"))));
    // A fraction of a particle is decided by a hash, so that nothing is carried over between steps.
    let count = Math.floor(read("rate") * STEP_S + hashed(this.seed, step));
    for (const active of this.bursts) count += this.burstIn(active, timeS, read("burst"));
    count += source.burstOf?.(plan.object.id) ?? 0;
    if (count > 0) this.emit(Math.min(count, this.most), step, timeS);
  }

  /** Particles emitted by cues within the step that ends at a time. */
  private burstIn(active: ActiveBinding, timeS: number, rest: number): number {
    const { track } = active;
    if (!track?.cues) return 0;
    const endS = trackTimeAt(track, timeS);
    const last = cuesUpTo(track.cues, endS);
    const first = cuesUpTo(track.cues, endS - STEP_S);
    let count = 0;
    for (let i = first; i < last; i++) count += Math.round(rest + outputFor(active, track.cues[i].strength));
    return count;
  }

  private emit(count: number, step: number, timeS: number): void {
    const { source, plan, values, numbers, seed } = this;
    for (const one of this.reads) {
      if (one !== plan) source.evaluatePlan(one, timeS, values);
      this.placing.placeRoots(one, timeS, values);
    }
    const root = this.placing.rootsOf(plan).matrices;
    const at = (key: string, axis = 0) => {
      const slot = plan.at[key];
      return slot ? values[slot.offset + axis] : 0;
    };
    const frame = direction(at("direction", 0), at("direction", 1), at("direction", 2));
    const spread = (at("spread") * Math.PI) / 180;
    const speed = at("speed");
    const within = at("from");
    for (let k = 0; k < count; k++) {
      const random = (what: number) => hashed(seed + what * 7919, step, k);
      // Evenly over the cap of a ball that the spread opens.
      const cosine = 1 - random(1) * (1 - Math.cos(spread));
      const sine = Math.sqrt(Math.max(0, 1 - cosine * cosine));
      const around = 2 * Math.PI * random(2);
      const [a, b] = [sine * Math.cos(around), sine * Math.sin(around)];
      const away = within * Math.cbrt(random(3));
      const upness = 2 * random(4) - 1;
      const flat = Math.sqrt(1 - upness * upness);
      const turn = 2 * Math.PI * random(5);
      const v = speed * (0.75 + 0.5 * random(6));
      const n = (this.born % this.most) * STRIDE;
      this.born++;
      numbers[n] = timeS;
      numbers[n + 1] = at("life") * (0.75 + 0.25 * random(7));
      const [x, y, z] = [away * flat * Math.cos(turn), away * upness, away * flat * Math.sin(turn)];
      for (let axis = 0; axis < 3; axis++) {
        numbers[n + 2 + axis] = root[axis] * x + root[4 + axis] * y + root[8 + axis] * z + root[12 + axis];
        const along = (row: number) => frame[0][row] * a + frame[1][row] * cosine + frame[2][row] * b;
        numbers[n + 5 + axis] =
          v * (root[axis] * along(0) + root[4 + axis] * along(1) + root[8 + axis] * along(2));
      }
      numbers[n + 8] = at("gravity");
      numbers[n + 9] = at("size");
      numbers[n + 10] = at("endSize");
    }
  }

  /**
   * Particles that are alive at a time, the oldest first: `write(number, age)` for each.
   *
   * @returns how many there are
   */
  forEachAlive(timeS: number, write: (at: number, ageS: number, count: number) => void): number {
    const { numbers, most, born, cap } = this;
    let count = 0;
    for (let i = Math.max(0, born - cap); i < born; i++) {
      const at = (i % most) * STRIDE;
      const ageS = timeS - numbers[at];
      if (ageS < 0 || ageS >= numbers[at + 1]) continue;
      write(at, ageS, count++);
    }
    return count;
  }
}

/** Two directions square to a third, and it between them; straight up if it has no length. */
function direction(x: number, y: number, z: number): [number[], number[], number[]] {
  const length = Math.hypot(x, y, z);
  const up = length > 1e-6 ? [x / length, y / length, z / length] : [0, 1, 0];
  const helper = Math.abs(up[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  const side = cross(helper, up);
  const size = Math.hypot(...side);
  const a = side.map((one) => one / size);
  return [a, up, cross(up, a)];
}

const cross = (a: number[], b: number[]) => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
