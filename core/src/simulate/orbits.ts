import { hashed } from "../dsp/maths/hash";
import { largestValue, type ObjectPlan } from "../evaluate/plan";
import type { ValueSource } from "../evaluate/values";
import { sampleAt, type Wave, type Waves, waveOf } from "../evaluate/wave";
import { settingOf } from "../kinds/table";
import { STEPS_A_SECOND, type Stepper } from "./stepper";

/** Steps between two points of a trail: forty a second are a smooth line. */
const TRAIL_STEPS = 3;
const TRAIL_STEP_S = TRAIL_STEPS / STEPS_A_SECOND;
const MOST_BODIES = 64;
/** From one body to the next the sound is read this much earlier, so that they do not all move as one. */
const WAVE_APART_S = 0.004;
const RADIANS = Math.PI / 180;

/**
 * Bodies that circle about an object's middle, and their recent paths.
 *
 * Body _i_ of _n_ is at the angle `360° · i / n + its own factor · integral of the speed`, at the radius plus the
 * sound's waveform times the wave on the radius; a negative radius is on the far side.
 */
export class OrbitTrails implements Stepper {
  /** Bodies as of the newest point. */
  bodies = 0;
  /** Points since the last reset. */
  born = 0;
  /** Points that are kept. */
  readonly most: number;
  /** x, y, z of each body at each point, about the object's middle; a point is `MOST_BODIES` long. */
  readonly points: Float32Array;
  readonly pointS: Float64Array;
  private readonly source: ValueSource;
  private readonly waves: () => Waves;
  readonly reads: readonly ObjectPlan[];
  private readonly plan: ObjectPlan;
  private readonly values: Float64Array;
  private readonly speeds: Float64Array;
  private readonly trailMostS: number;

  constructor(source: ValueSource, plan: ObjectPlan, waves: () => Waves) {
    this.source = source;
    this.waves = waves;
    this.plan = plan;
    this.reads = [plan];
    this.values = Float64Array.from(source.plan.rest);
    this.trailMostS = largestValue(plan, "trail");
    this.most = Math.max(2, Math.ceil(this.trailMostS / TRAIL_STEP_S) + 1);
    this.points = new Float32Array(this.most * MOST_BODIES * 3);
    this.pointS = new Float64Array(this.most);
    const seed = settingOf(plan.object, "seed") as number;
    this.speeds = Float64Array.from({ length: MOST_BODIES }, (_, i) => 2 * hashed(seed, i) - 1);
  }

  windowS(): number {
    return this.trailMostS + TRAIL_STEP_S;
  }

  reset(): void {
    this.born = 0;
  }

  step(step: number, timeS: number): void {
    if (step % TRAIL_STEPS !== 0) return;
    this.source.evaluatePlan(this.plan, timeS, this.values);
    const n = this.born % this.most;
    this.born++;
    this.pointS[n] = timeS;
    this.bodies = this.bodiesAt(timeS, this.values, this.points, n * MOST_BODIES * 3);
  }

  /** Writes the positions of the bodies, x, y, z each, from an offset on. @returns the number of bodies */
  bodiesAt(timeS: number, out: Float64Array, into: Float32Array, offset: number): number {
    const { source, plan } = this;
    const slot = (key: string) => plan.at[key]!;
    const at = (key: string) => out[slot(key).offset];
    const count = Math.max(1, Math.min(MOST_BODIES, Math.round(at("bodies"))));
    const turned = source.sums.integralAt(slot("speed"), timeS, out);
    const [radius, climb, tilt] = [at("radius"), at("climb"), at("tilt") * RADIANS];
    const [spread, onRadius, onHeight] = [at("speedSpread"), at("waveRadius"), at("waveHeight")];
    const wave = onRadius > 0 || onHeight > 0 ? this.wave() : undefined;
    for (let i = 0; i < count; i++) {
      const angle = ((360 * i) / count + ((turned * (1 + spread * this.speeds[i])) % 360)) * RADIANS;
      const swing = wave ? sampleAt(wave, timeS - i * WAVE_APART_S) : 0;
      const r = radius + swing * onRadius;
      const y = climb + swing * onHeight;
      const [x, z] = [Math.sin(angle) * r, Math.cos(angle) * r];
      into[offset + i * 3] = x;
      into[offset + i * 3 + 1] = y * Math.cos(tilt) - z * Math.sin(tilt);
      into[offset + i * 3 + 2] = y * Math.sin(tilt) + z * Math.cos(tilt);
    }
    return count;
  }

  private wave(): Wave | undefined {
    return waveOf(this.waves(), this.plan);
  }

  /**
   * The way of one body up to a time, the newest point first: `write(at, ageS)` for each point of it that is younger
   * than the trail.
   */
  forEachPoint(body: number, timeS: number, trailS: number, write: (at: number, ageS: number) => void): void {
    for (let i = this.born - 1; i >= Math.max(0, this.born - this.most); i--) {
      const n = i % this.most;
      const ageS = timeS - this.pointS[n];
      if (ageS > trailS) return;
      write((n * MOST_BODIES + body) * 3, ageS);
    }
  }
}
