import { HOP_SAMPLES, SAMPLE_RATE_HZ } from "../constants";
import { bandShares } from "./bands";
import { createWindow, type WindowName } from "./window";

/** Bands an octave of the bank: quarter tones. */
const PER_OCTAVE = 24;
const LOWEST_HZ = 27.5;
const HIGHEST_HZ = 17_000;
/** Levels are compressed as log10(1 + 1000 · level): 60 dB below full scale is where it turns from linear to log. */
const COMPRESSION = 1000;
const FULL = Math.log10(1 + COMPRESSION);
const LOG10 = 1 / Math.LN10 / FULL;

/** One band of the bank. */
export interface OnsetBand {
  lowHz: number;
  highHz: number;
}

/**
 * Bands that onsets are looked for in: quarter tones, and no narrower than a bin.
 *
 * @returns lowest first
 */
export function onsetBands(fftSize: number): OnsetBand[] {
  const binHz = SAMPLE_RATE_HZ / fftSize;
  const out: OnsetBand[] = [];
  for (let lowHz = LOWEST_HZ; lowHz < HIGHEST_HZ; ) {
    const highHz = Math.max(lowHz * 2 ** (1 / PER_OCTAVE), lowHz + binHz);
    out.push({ lowHz, highHz });
    lowHz = highHz;
  }
  return out;
}

/**
 * How much each band of the bank rises from one frame to the next: log-compressed spectral flux whose earlier frame
 * is widened to the largest of three neighbouring bands, so that a wavering note is no onset (Böck & Widmer 2013).
 * Starts from silence; frames go in one after the other.
 */
export class OnsetFlux {
  readonly bands: OnsetBand[];
  /** Rise of each band, 0..1: 1 from silence to a full-scale sine. Fresh after each {@link push}. */
  readonly rises: Float64Array;
  private readonly firsts: Int32Array;
  private readonly starts: Int32Array;
  private readonly shares: Float64Array;
  /** Compressed levels of the last frames, newest first by turns. */
  private readonly past: Float64Array[];
  private newest = 0;

  constructor(fftSize: number, window: WindowName) {
    this.bands = onsetBands(fftSize);
    this.rises = new Float64Array(this.bands.length);
    const weights: number[] = [];
    this.firsts = new Int32Array(this.bands.length);
    this.starts = new Int32Array(this.bands.length + 1);
    this.bands.forEach(({ lowHz, highHz }, i) => {
      const { firstBin, shares } = bandShares(lowHz, highHz, fftSize);
      this.firsts[i] = firstBin;
      this.starts[i] = weights.length;
      weights.push(...shares);
    });
    this.starts[this.bands.length] = weights.length;
    this.shares = Float64Array.from(weights);
    this.past = Array.from(
      { length: lagFrames(fftSize, window) + 1 },
      () => new Float64Array(this.bands.length),
    );
  }

  /** @param powers  a spectrum's powers, from `offset` */
  push(powers: Float32Array, offset: number): void {
    const { past, shares, starts, firsts, rises } = this;
    // The oldest is the one to compare with; the newest takes the place of what is no longer needed.
    this.newest = (this.newest + 1) % past.length;
    const now = past[this.newest];
    const before = past[(this.newest + 1) % past.length];
    const count = now.length;
    for (let band = 0; band < count; band++) {
      let sum = 0;
      let bin = offset + firsts[band];
      for (let k = starts[band]; k < starts[band + 1]; k++, bin++) sum += shares[k] * powers[bin];
      now[band] = Math.log(1 + COMPRESSION * Math.sqrt(2 * sum)) * LOG10;
    }
    for (let band = 0; band < count; band++) {
      let most = before[band];
      if (band > 0 && before[band - 1] > most) most = before[band - 1];
      if (band < count - 1 && before[band + 1] > most) most = before[band + 1];
      const rise = now[band] - most;
      rises[band] = Math.max(0, rise);
    }
  }
}

/** Which bands of the bank have their middle in a range; the nearest one when none has. */
export function bandsWithin(
  bands: readonly OnsetBand[],
  lowHz: number,
  highHz: number,
): [from: number, to: number] {
  const middle = ({ lowHz: low, highHz: high }: OnsetBand) => (low + high) / 2;
  let from = bands.findIndex((band) => middle(band) >= lowHz);
  if (from < 0) from = bands.length - 1;
  let to = bands.findIndex((band) => middle(band) > highHz);
  if (to < 0) to = bands.length;
  return to > from ? [from, to] : [Math.max(0, to - 1), Math.max(1, to)];
}

/**
 * Frames to compare over: as many as until the window's half height leaves what it looked at (Böck & Widmer 2013),
 * at least one.
 */
function lagFrames(fftSize: number, window: WindowName): number {
  const weights = createWindow(window, fftSize);
  const above = weights.findIndex((weight) => weight > 0.5);
  return Math.max(1, Math.floor((fftSize / 2 - above) / HOP_SAMPLES + 0.5));
}
