import { HOP_SAMPLES, SAMPLE_RATE_HZ } from "../../constants";
import { levelToDb } from "../level/decibel";
import { type Samples, windowAround } from "../maths/samples";
import { type BandShares, bandLevel, bandShares } from "./bands";
import { PowerSpectrum } from "./spectrum";

/** Rows of a spectrogram: about one a pixel of where it is drawn. */
export const SPECTROGRAM_ROWS = 256;

/** A spectrogram's 0..255 stand for these levels, in dBFS; 0 is this quiet or quieter. */
export const SPECTROGRAM_FLOOR_DB = -96;

/** How frequency is laid along an axis. */
export interface FrequencyAxis {
  kind: "log" | "linear";
  lowHz: number;
  highHz: number;
}

/** Frequency at a share of the axis, 0 at its low end and 1 at its high end. */
export function axisToHz(axis: FrequencyAxis, share: number): number {
  if (axis.kind === "linear") return axis.lowHz + share * (axis.highHz - axis.lowHz);
  return axis.lowHz * (axis.highHz / axis.lowHz) ** share;
}

/** Share of the axis at which a frequency lies; below 0 or above 1 when it is off the axis. */
export function hzToAxis(axis: FrequencyAxis, hz: number): number {
  if (axis.kind === "linear") return (hz - axis.lowHz) / (axis.highHz - axis.lowHz);
  return Math.log(hz / axis.lowHz) / Math.log(axis.highHz / axis.lowHz);
}

/**
 * Levels of a stretch of frames on a frequency axis, as bytes for drawing.
 *
 * @param samples  mono at 48 kHz, finite
 * @param firstFrame  first frame
 * @param frames  number of frames
 * @param rows  number of rows, evenly spaced on the axis
 * @returns `frames × rows` bytes, frame after frame, row 0 at the low end; 0 = −96 dBFS, 255 = 0 dBFS
 */
export function spectrogram(
  samples: Samples,
  firstFrame: number,
  frames: number,
  rows: number,
  axis: FrequencyAxis,
  fftSize = 2048,
): Uint8Array {
  const columns = new SpectrogramColumns(rows, axis, fftSize);
  const out = new Uint8Array(frames * rows);
  for (let frame = 0; frame < frames; frame++) {
    const instant = (firstFrame + frame) * HOP_SAMPLES;
    const window = windowAround(samples, instant);
    columns.at(window.samples, instant - window.first, out, frame * rows);
  }
  return out;
}

/** Levels on a frequency axis around one instant after another, as {@link spectrogram} gives them for a stretch. */
export class SpectrogramColumns {
  private readonly spectrum: PowerSpectrum;
  private readonly powers: Float32Array;
  private readonly bands: BandShares[];

  constructor(rows: number, axis: FrequencyAxis, fftSize: number) {
    this.spectrum = new PowerSpectrum(fftSize, "hann");
    this.powers = new Float32Array(this.spectrum.binCount);
    this.bands = axisBands(rows, axis, fftSize);
  }

  /**
   * @param centre  index of the sample the window is centred on
   * @param out  receives a byte for each row from `at`, row 0 at the low end
   */
  at(samples: Float32Array, centre: number, out: Uint8Array, at: number): void {
    const { bands, powers } = this;
    this.spectrum.at(samples, centre, powers);
    for (let row = 0; row < bands.length; row++) {
      const db = levelToDb(bandLevel(powers, 0, bands[row]));
      const share = 1 - Math.max(db, SPECTROGRAM_FLOOR_DB) / SPECTROGRAM_FLOOR_DB;
      out[at + row] = Math.min(255, Math.max(0, Math.round(share * 255)));
    }
  }
}

/**
 * One band for each of `rows` equal steps of an axis, none narrower than one bin: at the low end of a
 * logarithmic axis a row is narrower than a bin of the spectrum, and would read quieter and quieter.
 */
export function axisBands(rows: number, axis: FrequencyAxis, fftSize: number): BandShares[] {
  const binWidthHz = SAMPLE_RATE_HZ / fftSize;
  return Array.from({ length: rows }, (_, row) => {
    let lowHz = axisToHz(axis, row / rows);
    let highHz = axisToHz(axis, (row + 1) / rows);
    const missing = binWidthHz - (highHz - lowHz);
    if (missing > 0) {
      lowHz = Math.max(0, lowHz - missing / 2);
      highHz = lowHz + binWidthHz;
    }
    return bandShares(lowHz, Math.min(highHz, SAMPLE_RATE_HZ / 2), fftSize);
  });
}
