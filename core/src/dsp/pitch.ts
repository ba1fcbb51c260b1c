import { SAMPLE_RATE_HZ } from "../constants";

/** A pitch and how sure it is. */
export interface Pitch {
  /** 0 when there is none. */
  hz: number;
  /** 0..1: one minus the normalised difference at the period. */
  certainty: number;
}

/** Pitches that can be looked for. */
export const PITCH_LIMITS_HZ = { low: 30, high: 3000 } as const;

/** The coarse search runs on every fourth sample: enough for the highest pitch, a sixteenth of the work. */
const STEP = 4;
/** A dip below this is a period, whatever deeper one comes later. */
const DIP = 0.12;
const TAPS = 24;

/** Low-pass for every fourth sample: a windowed sinc whose pass-band ends at 3.6 kHz. */
const LOW_PASS = (() => {
  const cutoff = 3600 / SAMPLE_RATE_HZ;
  const taps = Float64Array.from({ length: 2 * TAPS + 1 }, (_, i) => {
    const n = i - TAPS;
    const sinc = n === 0 ? 2 * cutoff : Math.sin(2 * Math.PI * cutoff * n) / (Math.PI * n);
    return sinc * (0.5 + 0.5 * Math.cos((Math.PI * n) / (TAPS + 1)));
  });
  const sum = taps.reduce((total, tap) => total + tap, 0);
  return taps.map((tap) => tap / sum);
})();

/**
 * Pitch of a window of samples by YIN (de Cheveigné & Kawahara 2002): the first clear dip of the cumulative mean
 * normalised difference, searched on every fourth sample, then refined on all of them over as many periods as fit,
 * with a parabola through the lowest three.
 */
export class PitchFinder {
  /** Samples that are looked at, centred on the instant. */
  readonly windowSamples: number;
  /** Samples after the instant that are looked at, those of the low-pass with them. */
  readonly aheadSamples: number;
  private readonly longest: number;
  private readonly shortest: number;
  private readonly frame: Float64Array;
  private readonly coarse: Float64Array;
  private readonly differences: Float64Array;
  private readonly result: Pitch = { hz: 0, certainty: 0 };

  /**
   * @param lowHz  lowest pitch that is looked for
   * @param highHz  highest, see {@link PITCH_LIMITS_HZ}
   * @throws RangeError for a range that is upside down or reaches out of these
   */
  constructor(lowHz: number, highHz: number) {
    const { low, high } = PITCH_LIMITS_HZ;
    if (!(lowHz >= low && lowHz < highHz && highHz <= high)) {
      throw new RangeError(
        `pitch is looked for from ${low} to ${high} Hz, low below high, not from ${lowHz} to ${highHz} Hz`,
      );
    }
    this.longest = Math.ceil((SAMPLE_RATE_HZ / lowHz) * 1.1);
    this.shortest = Math.max(4, Math.floor((SAMPLE_RATE_HZ / highHz) * 0.9));
    // What is compared is as long as the longest period, and lies that period apart.
    this.windowSamples = Math.ceil((2.5 * this.longest) / (2 * STEP)) * 2 * STEP;
    this.aheadSamples = this.windowSamples / 2 + TAPS;
    this.frame = new Float64Array(this.windowSamples + 2 * TAPS);
    this.coarse = new Float64Array(this.windowSamples / STEP);
    this.differences = new Float64Array(Math.ceil(this.longest / STEP) + 2);
  }

  /**
   * @param samples  finite; those before 0 and after the end count as 0
   * @param centre  index of the instant
   * @returns the same object each time
   */
  at(samples: Float32Array, centre: number): Pitch {
    const { frame, coarse, result } = this;
    const first = Math.round(centre) - this.windowSamples / 2 - TAPS;
    let energy = 0;
    for (let i = 0; i < frame.length; i++) {
      const at = first + i;
      const value = at >= 0 && at < samples.length ? samples[at] : 0;
      frame[i] = value;
      energy += value * value;
    }
    result.hz = 0;
    result.certainty = 0;
    // Quieter than −100 dBFS a signal cannot be told from rounding errors.
    if (energy < 1e-10 * frame.length) return result;
    for (let i = 0; i < coarse.length; i++) {
      let sum = 0;
      for (let k = 0; k < LOW_PASS.length; k++) sum += LOW_PASS[k] * frame[i * STEP + k];
      coarse[i] = sum;
    }
    const lag = this.coarseLag();
    if (lag === 0) return result;
    const period = this.refine(lag * STEP);
    result.hz = SAMPLE_RATE_HZ / period;
    return result;
  }

  /** The period in coarse steps, 0 for none; sets the certainty. */
  private coarseLag(): number {
    const { coarse, differences, result } = this;
    const length = coarse.length - differences.length;
    let running = 0;
    differences[0] = 1;
    for (let lag = 1; lag < differences.length; lag++) {
      let sum = 0;
      for (let i = 0; i < length; i++) {
        const difference = coarse[i] - coarse[i + lag];
        sum += difference * difference;
      }
      running += sum;
      differences[lag] = running > 0 ? (sum * lag) / running : 1;
    }
    const from = Math.max(1, Math.floor(this.shortest / STEP));
    const last = differences.length - 2;
    let best = 0;
    for (let lag = from; lag <= last; lag++) {
      const isDip = differences[lag] <= differences[lag - 1] && differences[lag] <= differences[lag + 1];
      if (!isDip) continue;
      if (differences[lag] < DIP) {
        best = lag;
        break;
      }
      if (best === 0 || differences[lag] < differences[best]) best = lag;
    }
    if (best === 0) return 0;
    // Between the steps the dip goes deeper; a parabola tells how deep.
    const [a, b, c] = [differences[best - 1], differences[best], differences[best + 1]];
    const bend = a - 2 * b + c;
    const depth = bend > 0 ? b - ((a - c) * (a - c)) / (8 * bend) : b;
    result.certainty = Math.min(1, Math.max(0, 1 - depth));
    return bend > 0 ? best + (a - c) / (2 * bend) : best;
  }

  /** The period in samples to a fraction of one: refined once near `guess`, then over the most periods that fit. */
  private refine(guess: number): number {
    const once = this.lowestNear(guess, STEP);
    const periods = Math.max(1, Math.floor(this.longest / once));
    if (periods === 1) return once;
    return this.lowestNear(once * periods, Math.max(2, 0.4 * periods)) / periods;
  }

  private lowestNear(guess: number, reach: number): number {
    const from = Math.max(2, Math.floor(guess - reach));
    const to = Math.ceil(guess + reach);
    let best = from;
    let lowest = Number.POSITIVE_INFINITY;
    for (let lag = from; lag <= to; lag++) {
      const difference = this.difference(lag);
      if (difference < lowest) {
        lowest = difference;
        best = lag;
      }
    }
    const [a, c] = [this.difference(best - 1), this.difference(best + 1)];
    const bend = a - 2 * lowest + c;
    return bend > 0 ? best + Math.max(-1, Math.min(1, (a - c) / (2 * bend))) : best;
  }

  private difference(lag: number): number {
    const { frame } = this;
    const length = this.windowSamples - this.longest - 2 * STEP;
    let sum = 0;
    for (let i = TAPS; i < TAPS + length; i++) {
      const difference = frame[i] - frame[i + lag];
      sum += difference * difference;
    }
    return sum;
  }
}
