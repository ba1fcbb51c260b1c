import { hashed } from "../dsp/hash";
import { trackTimeAt } from "../strand/track";
import { cuesUpTo, type Drive, driven } from "./drive";
import { type Evaluator, mostOf, type Plan } from "./evaluate";
import { settingOf } from "./objectKinds";
import { Placing } from "./placing";
import { STEP_S, type Stepper } from "./steps";

/** What is remembered of each particle from when it began; everything else follows from its age. */
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
 * Particles of one object. Each is settled when it begins: its place, speed, life and size are thrown by the seed and
 * the step it began in, so that which of them there are at a time depends on nothing but the strands up to then.
 * Afterwards it flies by `x + v · age − g · age² / 2`.
 */
export class Particles implements Stepper {
  /** `PARTICLE_NUMBERS` of each, in a ring: the newest overwrite the oldest. */
  readonly numbers: Float32Array;
  readonly most: number;
  /** Particles that began since it was last cleared; the newest stands before `born % most`. */
  born = 0;
  /** The cap as it was at the last step. */
  cap = 0;
  private readonly evaluator: Evaluator;
  private readonly plan: Plan;
  private readonly values: Float64Array;
  private readonly placing: Placing;
  private readonly chain: readonly Plan[];
  private readonly bursts: Drive[];
  private readonly seed: number;
  private readonly lifeMostS: number;

  constructor(evaluator: Evaluator, plan: Plan) {
    this.evaluator = evaluator;
    this.plan = plan;
    this.values = new Float64Array(evaluator.size);
    this.placing = new Placing(evaluator);
    this.chain = this.placing.chainOf(plan);
    for (const one of this.chain) evaluator.restInto(one, this.values);
    this.seed = settingOf(plan.object, "seed") as number;
    this.bursts = plan.drives.filter(({ slot, binding }) => slot.key === "burst" && binding.mode === "kick");
    this.most = Math.max(1, Math.min(MOST, Math.round(mostOf(plan, "cap"))));
    this.lifeMostS = mostOf(plan, "life");
    this.numbers = new Float32Array(this.most * STRIDE);
    this.forget();
  }

  windowS(): number {
    return this.lifeMostS;
  }

  forget(): void {
    this.born = 0;
    // Long dead: what has not begun yet is not alive.
    for (let i = 0; i < this.most; i++) this.numbers[i * STRIDE] = -1e6;
  }

  step(step: number, timeS: number): void {
    const { evaluator, plan, values } = this;
    evaluator.evaluatePlan(plan, timeS, values);
    const read = (key: string) => evaluator.numberOf(plan, key, values);
    this.cap = Math.max(1, Math.min(this.most, Math.round(read("cap"))));
    // The part of a particle that a step calls for is thrown, so that nothing has to be carried over.
    let count = Math.floor(read("rate") * STEP_S + hashed(this.seed, step));
    for (const drive of this.bursts) count += this.burstIn(drive, timeS, read("burst"));
    if (count > 0) this.begin(Math.min(count, this.most), step, timeS);
  }

  /** How many a cue in the step that ends at a time throws. */
  private burstIn(drive: Drive, timeS: number, rest: number): number {
    const { track } = drive;
    if (!track?.cues) return 0;
    const endS = trackTimeAt(track, timeS);
    const last = cuesUpTo(track.cues, endS);
    const first = cuesUpTo(track.cues, endS - STEP_S);
    let count = 0;
    for (let i = first; i < last; i++) count += Math.round(rest + driven(drive, track.cues[i].strength));
    return count;
  }

  private begin(count: number, step: number, timeS: number): void {
    const { evaluator, plan, values, numbers, seed } = this;
    for (const one of this.chain) {
      if (one !== plan) evaluator.evaluatePlan(one, timeS, values);
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
      const dice = (what: number) => hashed(seed + what * 7919, step, k);
      // Evenly over the cap of a ball that the spread opens.
      const cosine = 1 - dice(1) * (1 - Math.cos(spread));
      const sine = Math.sqrt(Math.max(0, 1 - cosine * cosine));
      const around = 2 * Math.PI * dice(2);
      const [a, b] = [sine * Math.cos(around), sine * Math.sin(around)];
      const away = within * Math.cbrt(dice(3));
      const upness = 2 * dice(4) - 1;
      const flat = Math.sqrt(1 - upness * upness);
      const turn = 2 * Math.PI * dice(5);
      const v = speed * (0.75 + 0.5 * dice(6));
      const n = (this.born % this.most) * STRIDE;
      this.born++;
      numbers[n] = timeS;
      numbers[n + 1] = at("life") * (0.75 + 0.25 * dice(7));
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
