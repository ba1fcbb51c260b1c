import { FRAME_RATE_HZ, SAMPLE_RATE_HZ } from "../../constants";
import { type Samples, windowAround } from "../../dsp/maths/samples";
import { bandPower, bandShares } from "../../dsp/spectrum/bands";
import { PowerSpectrum } from "../../dsp/spectrum/spectrum";
import type { Cue } from "../../sound/cue";
import type { CueSettings } from "../cues";
import { declarationOf, type Measure } from "../measures/table";

/** A short window tells times well: 11 ms. */
const FFT_SIZE = 512;
/** Powers are read each millisecond. */
const STEP_SAMPLES = 48;
/** How far before and after the peak of a smoothed level its hit is looked for, in steps. */
const BEFORE_STEPS = 100;
/** Hits that were learnt are known to a frame or two. */
const BEFORE_LEARNT_STEPS = 25;
const AFTER_STEPS = 20;
/** Rises this steep, as a share of the steepest, are hits as well. */
const STEEP_SHARE = 0.5;
/** A drum may begin higher up than where it rings: its hit is looked for in a wider range than its level. */
const WIDER_BELOW = 2;
const WIDER_ABOVE = 4;

/**
 * Finds when hits come: where the power of their range, and of some around it, rises most steeply, between its readings by a
 * parabola. The peak of a level that is read through a long window comes later.
 */
export class HitTimer {
  private readonly spectrum = new PowerSpectrum(FFT_SIZE, "hann");
  private readonly powers = new Float32Array(this.spectrum.binCount);
  private readonly band: ReturnType<typeof bandShares>;
  private readonly before: number;
  private lastPeakS = Number.NEGATIVE_INFINITY;

  /** @param measure  what the level is of; without a range of its own it is of all frequencies */
  constructor(measure: Measure) {
    const { hitsIn } = declarationOf(measure.kind);
    const range = "lowHz" in measure ? measure : hitsIn?.(measure);
    this.before = hitsIn ? BEFORE_LEARNT_STEPS : BEFORE_STEPS;
    const { lowHz, highHz } = range ?? { lowHz: 0, highHz: SAMPLE_RATE_HZ / 2 };
    this.band = bandShares(lowHz / WIDER_BELOW, Math.min(SAMPLE_RATE_HZ / 2, highHz * WIDER_ABOVE), FFT_SIZE);
  }

  /**
   * A cue at the time of its hit. Cues go in one after the other.
   *
   * @param cue  at the peak of its level
   * @param samples  at least 100 ms before that; what lies outside counts as 0
   * @param centre  index of the peak's instant in them
   */
  timed({ timeS, strength }: Cue, samples: Float32Array, centre: number): Cue {
    const { spectrum, powers, band } = this;
    const own = Math.floor(((timeS - this.lastPeakS) * SAMPLE_RATE_HZ) / STEP_SAMPLES);
    const first = -Math.min(this.before, own);
    this.lastPeakS = timeS;
    const levels: number[] = [];
    for (let step = first; step <= AFTER_STEPS; step++) {
      spectrum.at(samples, centre + step * STEP_SAMPLES, powers);
      levels.push(bandPower(powers, 0, band));
    }
    let best = 1;
    const rise = (i: number) => levels[i] - levels[i - 1];
    for (let i = 1; i < levels.length; i++) if (rise(i) > rise(best)) best = i;
    // Of several steep rises the first is the hit: what sounds along with it may rise once more.
    for (let i = 1; i < best; i++)
      if (rise(i) >= STEEP_SHARE * rise(best) && rise(i) >= rise(i + 1)) best = i;
    const [before, now, after] = [rise(best - 1) || 0, rise(best), rise(best + 1) || 0];
    const bend = before - 2 * now + after;
    const off = bend < 0 ? (before - after) / (2 * bend) : 0;
    const atS = ((first + best - 0.5 + off) * STEP_SAMPLES) / SAMPLE_RATE_HZ;
    return { timeS: Math.max(0, timeS + atS), strength };
  }
}

/** Cues of a whole sound at the times of their hits, where they are peaks; others have their times already. */
export function timedCues(
  cues: readonly Cue[],
  { rule }: CueSettings,
  measure: Measure,
  samples: Samples,
): Cue[] {
  if (rule !== "peak") return [...cues];
  const timer = new HitTimer(measure);
  return cues.map((cue) => {
    const instant = Math.round(cue.timeS * FRAME_RATE_HZ) * (SAMPLE_RATE_HZ / FRAME_RATE_HZ);
    const around = windowAround(samples, instant);
    return timer.timed(cue, around.samples, instant - around.first);
  });
}
