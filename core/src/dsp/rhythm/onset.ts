import { HOP_SAMPLES, SAMPLE_RATE_HZ } from "../../constants";
import { type BandShares, bandPower, bandShares } from "../spectrum/bands";
import { createWindow, type WindowName } from "../spectrum/window";

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
 * How much begins within a range: log-compressed spectral flux whose earlier frame is widened to the largest of three
 * neighbouring bands, so that a wavering note is no onset (Böck & Widmer 2013). Starts from silence; frames go in one
 * after the other.
 */
export class OnsetFlux {
  /** Bands of the range with a neighbour at either end, where the bank has one. */
  private readonly covered: BandShares[];
  /** The bands whose rises count, of those. */
  private readonly from: number;
  private readonly to: number;
  /**
   * 1 + 1000 · level of the last frames, newest first by turns: what the logarithm of compression is taken of. At either
   * end stands one of silence, so that each band has two neighbours.
   */
  private readonly past: Float64Array[];
  private newest = 0;

  /** @throws RangeError unless 0 ≤ lowHz < highHz ≤ 24 000 */
  constructor(fftSize: number, window: WindowName, lowHz: number, highHz: number) {
    bandShares(lowHz, highHz, fftSize);
    const bank = onsetBands(fftSize);
    const [from, to] = bandsWithin(bank, lowHz, highHz);
    const first = Math.max(0, from - 1);
    this.covered = bank
      .slice(first, to + 1)
      .map(({ lowHz: low, highHz: high }) => bandShares(low, high, fftSize));
    this.from = from - first;
    this.to = to - first;
    this.past = Array.from({ length: lagFrames(fftSize, window) + 1 }, () =>
      new Float64Array(this.covered.length + 2).fill(1),
    );
  }

  /**
   * @param powers  a spectrum's powers, from `offset`
   * @param gain  of the levels
   * @returns the mean rise of the range's bands, 0..1: 1 when all go from silence to a full-scale sine
   */
  push(powers: Float32Array, offset: number, gain = 1): number {
    const { past, covered, from, to } = this;
    // Compares with the oldest, whose place the newest then takes.
    this.newest = (this.newest + 1) % past.length;
    const now = past[this.newest];
    const before = past[(this.newest + 1) % past.length];
    const compression = COMPRESSION * gain;
    for (let band = 0; band < covered.length; band++) {
      now[band + 1] = 1 + compression * Math.sqrt(2 * bandPower(powers, offset, covered[band]));
    }
    // A sum of differences of logarithms is the logarithm of a product of shares, taken before it grows too large.
    let sum = 0;
    let product = 1;
    for (let band = from; band < to; band++) {
      const most = Math.max(before[band], before[band + 1], before[band + 2]);
      product *= Math.max(1, now[band + 1] / most);
      if (product > 1e200) {
        sum += Math.log(product);
        product = 1;
      }
    }
    return ((sum + Math.log(product)) * LOG10) / (to - from);
  }
}

/** Which bands of the bank have their middle in a range; the nearest one when none has. */
function bandsWithin(bands: readonly OnsetBand[], lowHz: number, highHz: number): [from: number, to: number] {
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
