import { SAMPLE_RATE_HZ } from "../../constants";
import { PITCH_LIMITS_HZ } from "../maths/measureWindows";
import { RealFft } from "../spectrum/fft";

/** Periods that a frame may have, the shortest first; the arrays are written over by each frame. */
export interface PeriodCandidates {
  count: number;
  /** Samples, with fractions. */
  readonly lags: Float64Array;
  /** Cumulative mean normalised differences: 0 for a stretch that repeats exactly. */
  readonly depths: Float64Array;
  /** How likely each is the period, if there is one: they add up to 1. */
  readonly probabilities: Float64Array;
}

/** Periods a frame may have, at most. */
export const MOST_CANDIDATES = 6;
/** Dips that are each deeper than all before them, at most. */
const MOST_DIPS = 64;
/**
 * The first dip below a threshold is the period, and deeper ones after it its multiples. Thresholds lie above the deepest dip
 * by what has the distribution Beta(2, 38), 0.05 in the mean: how likely a dip is the first follows from that.
 */
const THRESHOLD_BETA = 38;
/** Noise deepens dips by chance: thresholds lie higher by so much of the deepest one's depth, as a share of what they do without. */
const NOISE_SPREAD = 4;

/** Pairs of samples that a period is refined on, at least: 15 ms average out noise, and follow a vibrato. */
const REFINED_SAMPLES = 720;
/** How far from a first guess the period may be, as a share of it: a voice glides within the window. */
const GUESS_OFF = 0.03;
/**
 * A low-pass of moving means: between its samples the difference function is as smooth as a parabola through three of them.
 * 3 dB less at 2 kHz, 9 dB at 3 kHz, 38 dB and more from 6 kHz on.
 */
const MEAN_OF = 7;
const MEANS = 3;
/** Samples that it looks at to either side. */
const TAPS = (MEANS * (MEAN_OF - 1)) / 2;

/**
 * Periods of a window of samples by YIN (de Cheveigné & Kawahara 2002): dips of the cumulative mean normalised difference,
 * each interpolated before it is judged, with how likely each is the period (probabilistic YIN, Mauch & Dixon 2014, with
 * thresholds measured from the deepest dip). The chosen one is refined over as many periods as fit into a short stretch. All
 * that is compared lies evenly about the instant.
 *
 * Differences of the whole window come from its autocorrelation, by FFT.
 */
export class PitchFinder {
  /** Samples that are looked at, centred on the instant. */
  readonly windowSamples: number;
  /** Samples after the instant that are looked at, those of the low-pass with them. */
  readonly aheadSamples: number;
  private readonly longest: number;
  private readonly shortest: number;
  private readonly frame: Float64Array;
  private readonly smooth: Float64Array;
  private readonly fft: RealFft;
  private readonly padded: Float32Array;
  private readonly re: Float32Array;
  private readonly im: Float32Array;
  private readonly differences: Float64Array;
  private readonly dips = { lags: new Float64Array(MOST_DIPS), depths: new Float64Array(MOST_DIPS) };
  private readonly found: PeriodCandidates = {
    count: 0,
    lags: new Float64Array(MOST_CANDIDATES),
    depths: new Float64Array(MOST_CANDIDATES),
    probabilities: new Float64Array(MOST_CANDIDATES),
  };

  /**
   * @param lowHz  lowest pitch that is looked for
   * @param highHz  highest, see {@link PITCH_LIMITS_HZ}
   * @throws RangeError for a range that is upside down or reaches out of these
   */
  constructor(lowHz: number, highHz: number) {
    const { low, high } = PITCH_LIMITS_HZ;
    if (!(low <= lowHz && lowHz < highHz && highHz <= high)) {
      throw new RangeError(
        `a pitch needs ${low} ≤ low < high ≤ ${high} Hz, not low ${lowHz} and high ${highHz}`,
      );
    }
    this.longest = Math.ceil((SAMPLE_RATE_HZ / lowHz) * 1.05);
    this.shortest = Math.floor((SAMPLE_RATE_HZ / highHz) * 0.95);
    this.windowSamples = 2 * Math.ceil(Math.max(1.25 * this.longest, REFINED_SAMPLES + this.shortest));
    this.aheadSamples = this.windowSamples / 2 + TAPS;
    this.frame = new Float64Array(this.windowSamples + 2 * TAPS);
    // The low-pass leaves its result at the start of the frame.
    this.smooth = this.frame.subarray(0, this.windowSamples);
    const size = 2 ** Math.ceil(Math.log2(this.windowSamples + this.longest + 2));
    this.fft = new RealFft(size);
    this.padded = new Float32Array(size);
    this.re = new Float32Array(size / 2 + 1);
    this.im = new Float32Array(size / 2 + 1);
    this.differences = new Float64Array(this.longest + 2);
  }

  /**
   * Moves to a frame.
   *
   * @param samples  finite; those before 0 and after the end count as 0
   * @param centre  index of the instant
   */
  moveTo(samples: Float32Array, centre: number): void {
    const { frame } = this;
    const first = Math.round(centre) - this.windowSamples / 2 - TAPS;
    for (let i = 0; i < frame.length; i++) frame[i] = samples[first + i] || 0;
    for (let turn = 0; turn < MEANS; turn++) {
      for (let i = 0; i <= frame.length - MEAN_OF; i++) {
        let sum = 0;
        for (let k = 0; k < MEAN_OF; k++) sum += frame[i + k];
        frame[i] = sum / MEAN_OF;
      }
    }
  }

  /** The periods that the frame may have; the same object each time. */
  candidates(): PeriodCandidates {
    const { found, frame } = this;
    found.count = 0;
    // Quieter than −100 dBFS a signal cannot be told from rounding errors.
    if (this.measureDifferences() >= 1e-10 * frame.length) this.choose(this.findDips());
    return found;
  }

  /**
   * Cumulative mean normalised differences of all lags, between the pairs that lie evenly about the middle.
   *
   * @returns the energy of the window
   */
  private measureDifferences(): number {
    const { smooth, padded, fft, re, im, differences } = this;
    const { length } = smooth;
    padded.fill(0);
    padded.set(smooth);
    fft.forward(padded, re, im);
    const { size } = fft;
    for (let k = 0; k < re.length; k++) padded[k] = re[k] * re[k] + im[k] * im[k];
    for (let k = 1; k < size / 2; k++) padded[size - k] = padded[k];
    // Powers are even: their transform is the autocorrelation, times the size.
    fft.forward(padded, re, im);
    // Energies of the first and of the second sample of all pairs, together.
    const energy = re[0] / size;
    let energies = 2 * energy;
    let running = 0;
    for (let lag = 1; lag < differences.length; lag++) {
      energies -= smooth[lag - 1] ** 2 + smooth[length - lag] ** 2;
      const difference = Math.max(0, energies - (2 * re[lag]) / size) / (length - lag);
      running += difference;
      differences[lag] = running > 0 ? (difference * lag) / running : 1;
    }
    return energy;
  }

  /** Finds dips that are deeper than all at shorter lags, and returns how many there are. */
  private findDips(): number {
    const { differences, dips, shortest, longest } = this;
    let count = 0;
    let deepest = Number.POSITIVE_INFINITY;
    for (let lag = shortest; lag <= longest && count < MOST_DIPS; lag++) {
      const [before, now, after] = [differences[lag - 1], differences[lag], differences[lag + 1]];
      if (now > before || now >= after) continue;
      const beside = bottomOf(before, now, after);
      const depth = Math.max(0, now - ((before - after) * beside) / 4);
      if (depth >= deepest) continue;
      deepest = depth;
      dips.lags[count] = lag + beside;
      dips.depths[count++] = depth;
    }
    return count;
  }

  /** Takes the likeliest dips as candidates, in their order. */
  private choose(count: number): void {
    const { dips, found } = this;
    const deepest = dips.depths[count - 1];
    const spread = 1 + NOISE_SPREAD * deepest;
    let least = 1;
    for (let i = 0; i < count; i++) {
      const below = likelyBelow((dips.depths[i] - deepest) / spread);
      const probability = least - below;
      least = below;
      let at = found.count;
      if (at < MOST_CANDIDATES) found.count++;
      else {
        at = 0;
        for (let k = 1; k < MOST_CANDIDATES; k++)
          if (found.probabilities[k] < found.probabilities[at]) at = k;
        if (probability <= found.probabilities[at]) continue;
        for (const list of [found.lags, found.depths, found.probabilities]) list.copyWithin(at, at + 1);
        at = MOST_CANDIDATES - 1;
      }
      found.lags[at] = dips.lags[i];
      found.depths[at] = dips.depths[i];
      found.probabilities[at] = probability;
    }
  }

  /** The frequency in Hz of the frame's period, refined from a guess in samples. */
  refinedHz(guess: number): number {
    return SAMPLE_RATE_HZ / this.refine(guess);
  }

  /** The period in samples to a fraction of one: near a guess, then over twice as many periods as long as they fit. */
  private refine(guess: number): number {
    const pairs = Math.max(REFINED_SAMPLES, 2 * guess) | 0;
    let period = this.lowestNear(guess, Math.max(2, GUESS_OFF * guess), pairs);
    for (let periods = 2; periods * period <= REFINED_SAMPLES; periods *= 2)
      period = this.lowestNear(periods * period, 2, pairs) / periods;
    return period;
  }

  /** The lag with the least difference near a guess, between its neighbours. */
  private lowestNear(guess: number, reach: number, pairs: number): number {
    const from = Math.max(2, Math.floor(guess - reach));
    const to = Math.ceil(guess + reach);
    let best = from;
    let lowest = Number.POSITIVE_INFINITY;
    for (let lag = from; lag <= to; lag++) {
      const difference = this.difference(lag, pairs);
      if (difference < lowest) {
        lowest = difference;
        best = lag;
      }
    }
    return best + bottomOf(this.difference(best - 1, pairs), lowest, this.difference(best + 1, pairs));
  }

  /** Mean squared difference of pairs a lag apart, which lie evenly about the middle. */
  private difference(lag: number, pairs: number): number {
    const { smooth } = this;
    // As many as leave the same on both sides.
    const count = Math.min(pairs + ((pairs + lag) & 1), smooth.length - lag);
    const start = (smooth.length - count - lag) / 2;
    let sum = 0;
    for (let i = start; i < start + count; i++) {
      const difference = smooth[i] - smooth[i + lag];
      sum += difference * difference;
    }
    return sum / count;
  }
}

/** How likely a threshold lies no further above the deepest dip than this, without noise. */
function likelyBelow(depth: number): number {
  const x = Math.min(1, depth);
  return 1 - (1 - x) ** THRESHOLD_BETA * (1 + THRESHOLD_BETA * x);
}

/** Minimum of a parabola through three neighbours, from −1 to 1 beside the middle one. */
function bottomOf(a: number, b: number, c: number): number {
  const bend = a - 2 * b + c;
  return bend > 0 ? Math.max(-1, Math.min(1, (a - c) / (2 * bend))) : 0;
}
