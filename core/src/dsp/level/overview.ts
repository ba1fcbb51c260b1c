import { HOP_SAMPLES, SAMPLE_RATE_HZ } from "../../constants";
import { bandLevel, bandShares } from "../spectrum/bands";
import { PowerSpectrum } from "../spectrum/spectrum";
import { levelToDb } from "./decibel";

/**
 * Lowest and highest sample of each hop of 480, for drawing a waveform.
 *
 * @param samples  mono samples, beginning with a hop
 * @returns a pair for each hop, min then max; the last hop may be short
 */
export function waveformPairs(samples: Float32Array): Float32Array {
  const hops = Math.ceil(samples.length / HOP_SAMPLES);
  const out = new Float32Array(hops * 2);
  for (let hop = 0; hop < hops; hop++) {
    let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    const end = Math.min(samples.length, (hop + 1) * HOP_SAMPLES);
    for (let i = hop * HOP_SAMPLES; i < end; i++) {
      if (samples[i] < low) low = samples[i];
      if (samples[i] > high) high = samples[i];
    }
    out[hop * 2] = low;
    out[hop * 2 + 1] = high;
  }
  return out;
}

/** The pairs of {@link waveformPairs} for samples that come in pieces of any length. */
export class WaveformStream {
  /** The last samples, too few to fill a hop so far. */
  private rest = new Float32Array(0);

  /** Takes the next samples and gives the pairs of the hops that they complete. */
  push(samples: Float32Array): Float32Array {
    const joined = new Float32Array(this.rest.length + samples.length);
    joined.set(this.rest);
    joined.set(samples, this.rest.length);
    const whole = joined.length - (joined.length % HOP_SAMPLES);
    this.rest = joined.slice(whole);
    return waveformPairs(joined.subarray(0, whole));
  }

  /** Gives the pair of a last hop that is not full; nothing when there is none. */
  end(): Float32Array {
    return waveformPairs(this.rest);
  }
}

/** Columns of a band print; enough for a recognisable silhouette at the size of a list row. */
export const BAND_PRINT_COLUMNS = 48;
const BAND_PRINT_LOW_HZ = 30;
const BAND_PRINT_HIGH_HZ = 16_000;
/** Less than the ear hears, so that a print has a shape at the height of a line of text. */
const BAND_PRINT_RANGE_DB = 40;
/** A spectrum every tenth of a second; more would not change its shape. */
const BAND_PRINT_STEP = SAMPLE_RATE_HZ / 10;
const BAND_PRINT_FFT = 4096;

/**
 * The average spectrum as a small silhouette: mean power per logarithmic column from 30 Hz to 16 kHz,
 * 0 at 40 dB below the loudest column, 1 at the loudest.
 *
 * @param samples  mono at 48 kHz, finite
 * @returns `BAND_PRINT_COLUMNS` heights, 0..1; all 0 for silence
 */
export function bandPrint(samples: Float32Array): number[] {
  const printer = new BandPrinter();
  printer.push(samples);
  return printer.heights();
}

/** {@link bandPrint} of a sound that arrives in blocks. */
export class BandPrinter {
  private readonly spectrum = new PowerSpectrum(BAND_PRINT_FFT, "hann");
  private readonly powers = new Float64Array(this.spectrum.binCount);
  private readonly sums = new Float64Array(this.spectrum.binCount);
  /** The end of what has arrived, for windows that are not complete yet, and the index of its first sample. */
  private kept: Float32Array = new Float32Array(0);
  private keptFrom = 0;
  private next = 0;

  /** @param samples  mono at 48 kHz, finite */
  push(samples: Float32Array): void {
    const joined = new Float32Array(this.kept.length + samples.length);
    joined.set(this.kept);
    joined.set(samples, this.kept.length);
    this.kept = joined;
    this.take(this.keptFrom + joined.length - BAND_PRINT_FFT / 2);
    const unneeded = Math.min(joined.length, Math.max(0, this.next - BAND_PRINT_FFT / 2 - this.keptFrom));
    this.kept = joined.slice(unneeded);
    this.keptFrom += unneeded;
  }

  /** The silhouette of everything that has arrived. */
  heights(): number[] {
    this.take(this.keptFrom + this.kept.length);
    const ratio = BAND_PRINT_HIGH_HZ / BAND_PRINT_LOW_HZ;
    const edge = (column: number) => BAND_PRINT_LOW_HZ * ratio ** (column / BAND_PRINT_COLUMNS);
    const levels = Array.from({ length: BAND_PRINT_COLUMNS }, (_, column) =>
      levelToDb(bandLevel(this.sums, 0, bandShares(edge(column), edge(column + 1), BAND_PRINT_FFT))),
    );
    const top = Math.max(...levels);
    if (!Number.isFinite(top)) return levels.map(() => 0);
    return levels.map((db) => Math.round(1000 * Math.max(0, 1 + (db - top) / BAND_PRINT_RANGE_DB)) / 1000);
  }

  private take(before: number): void {
    for (; this.next < before; this.next += BAND_PRINT_STEP) {
      this.spectrum.at(this.kept, this.next - this.keptFrom, this.powers);
      for (let bin = 0; bin < this.sums.length; bin++) this.sums[bin] += this.powers[bin];
    }
  }
}
