import { frameCount, HOP_SAMPLES } from "../constants";
import { bandLevel, bandShares } from "./bands";
import { levelToDb } from "./decibel";
import { PowerSpectrum } from "./spectrum";

/**
 * Lowest and highest sample of equal stretches, for drawing a waveform.
 *
 * @param samples  mono samples
 * @param columns  number of stretches
 * @returns `columns` pairs, min then max
 */
export function waveformOverview(samples: Float32Array, columns: number): Float32Array {
  const out = new Float32Array(columns * 2);
  for (let column = 0; column < columns; column++) {
    const from = Math.floor((column * samples.length) / columns);
    const to = Math.max(from + 1, Math.floor(((column + 1) * samples.length) / columns));
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    for (let i = from; i < to && i < samples.length; i++) {
      if (samples[i] < low) low = samples[i];
      if (samples[i] > high) high = samples[i];
    }
    out[column * 2] = low <= high ? low : 0;
    out[column * 2 + 1] = low <= high ? high : 0;
  }
  return out;
}

/** Columns of a band print; enough for a recognisable silhouette at the size of a list row. */
export const BAND_PRINT_COLUMNS = 48;
const BAND_PRINT_LOW_HZ = 30;
const BAND_PRINT_HIGH_HZ = 16_000;
/** Less than the ear hears, so that a print has a shape at the height of a line of text. */
const BAND_PRINT_RANGE_DB = 40;
/** Spectra taken for a print; more would not change its shape. */
const BAND_PRINT_FRAMES = 400;

/**
 * The average spectrum as a small silhouette: mean power per logarithmic column from 30 Hz to 16 kHz,
 * 0 at 40 dB below the loudest column, 1 at the loudest.
 *
 * @param samples  mono at 48 kHz, finite
 * @returns `BAND_PRINT_COLUMNS` heights, 0..1; all 0 for silence
 */
export function bandPrint(samples: Float32Array): number[] {
  const spectrum = new PowerSpectrum(4096, "hann");
  const powers = new Float64Array(spectrum.binCount);
  const sums = new Float64Array(spectrum.binCount);
  const frames = frameCount(samples.length);
  const step = Math.max(1, Math.floor(frames / BAND_PRINT_FRAMES));
  for (let frame = 0; frame < frames; frame += step) {
    spectrum.at(samples, frame * HOP_SAMPLES, powers);
    for (let bin = 0; bin < sums.length; bin++) sums[bin] += powers[bin];
  }
  const ratio = BAND_PRINT_HIGH_HZ / BAND_PRINT_LOW_HZ;
  const edge = (column: number) => BAND_PRINT_LOW_HZ * ratio ** (column / BAND_PRINT_COLUMNS);
  const levels = Array.from({ length: BAND_PRINT_COLUMNS }, (_, column) =>
    levelToDb(bandLevel(sums, 0, bandShares(edge(column), edge(column + 1), 4096))),
  );
  const top = Math.max(...levels);
  if (!Number.isFinite(top)) return levels.map(() => 0);
  return levels.map((db) => Math.round(1000 * Math.max(0, 1 + (db - top) / BAND_PRINT_RANGE_DB)) / 1000);
}
