import { BEAT_SPECTRA } from "../maths/measureWindows";
import { OnsetFlux } from "./onset";

/** Bands in which onsets are heard. */
export const BEAT_BANDS = ["low", "middle", "high"] as const;
export type BeatBand = (typeof BEAT_BANDS)[number];

const BINS = BEAT_SPECTRA.fftSize / 2 + 1;
/** Kicks and basses; snares, chords and voices; hats and cymbals. */
const RANGES_HZ: Readonly<Record<BeatBand, readonly [number, number]>> = {
  low: [27, 150],
  middle: [200, 2500],
  high: [5000, 17_000],
};
/** Onsets are measured by the strongest of late, which is forgotten by half in so many frames. */
const FORGET_FRAMES = 600;
/** Weaker than this is no onset, whatever there was of late: 0..1 of onset strength. */
const LEAST_ONSET = 0.015;
/** It is the strongest of so many frames on either side, and stands out of the median of so many. */
const PEAK_FRAMES = 3;
const MEDIAN_FRAMES = 12;
/** Frames after an onset until it is known. */
export const ONSET_LAG = MEDIAN_FRAMES;

/** The loudest of late is brought to this level, by so much at most, so that quiet pieces have the same onsets as loud ones. */
const LOUDEST = 0.5;
const MOST_GAIN = 100;

/** An onset in one of the bands. */
export interface BandOnset {
  /** Index in {@link BEAT_BANDS}. */
  band: number;
  /** Frame, between whole ones. */
  at: number;
  /** Against the strongest of late, 0..1. */
  strength: number;
}

/** Picks the onsets of one band out of its onset strength. */
class OnsetPicker {
  private readonly band: number;
  private readonly past = new Float64Array(2 * MEDIAN_FRAMES + 1);
  private readonly sorted = new Float64Array(2 * MEDIAN_FRAMES + 1);
  private frame = -1;
  private most = 0;

  constructor(band: number) {
    this.band = band;
  }

  push(strength: number): BandOnset | undefined {
    const { past, sorted } = this;
    this.frame++;
    past.copyWithin(0, 1);
    past[past.length - 1] = strength;
    this.most *= 0.5 ** (1 / FORGET_FRAMES);
    const peak = past[MEDIAN_FRAMES];
    if (peak < LEAST_ONSET) return undefined;
    for (let i = 1; i <= PEAK_FRAMES; i++) {
      if (past[MEDIAN_FRAMES - i] >= peak || past[MEDIAN_FRAMES + i] > peak) return undefined;
    }
    sorted.set(past);
    sorted.sort();
    const above = peak - sorted[MEDIAN_FRAMES];
    if (above < LEAST_ONSET) return undefined;
    this.most = Math.max(this.most, above);
    const [before, after] = [past[MEDIAN_FRAMES - 1], past[MEDIAN_FRAMES + 1]];
    // Not 0: the peak is above the one before.
    const off = (before - after) / (2 * (before - 2 * peak + after));
    return { band: this.band, at: this.frame - MEDIAN_FRAMES + off, strength: above / this.most };
  }
}

/** Onsets in the low, the middle and the high end, as beats are found by. Frames go in one after the other. */
export class BeatOnsets {
  private loudest = 0;
  private readonly bands = BEAT_BANDS.map((band, i) => ({
    flux: new OnsetFlux(BEAT_SPECTRA.fftSize, BEAT_SPECTRA.window, ...RANGES_HZ[band]),
    picker: new OnsetPicker(i),
  }));

  /**
   * @param powers  a spectrum of {@link BEAT_SPECTRA}, from `offset`
   * @param out  takes the onsets of {@link ONSET_LAG} frames ago
   */
  push(powers: Float32Array, offset: number, out: BandOnset[]): void {
    let power = 0;
    for (let bin = 0; bin < BINS; bin++) power += powers[offset + bin];
    this.loudest = Math.max(Math.sqrt(2 * power), this.loudest * 0.5 ** (1 / FORGET_FRAMES));
    const gain = this.loudest > 0 ? Math.min(MOST_GAIN, LOUDEST / this.loudest) : 1;
    for (const { flux, picker } of this.bands) this.pick(picker, flux.push(powers, offset, gain), out);
  }

  /** The last onsets, after the end of the sound. */
  end(out: BandOnset[]): void {
    for (let i = 0; i < ONSET_LAG; i++) for (const { picker } of this.bands) this.pick(picker, 0, out);
  }

  private pick(picker: OnsetPicker, strength: number, out: BandOnset[]): void {
    const onset = picker.push(strength);
    if (onset) out.push(onset);
  }
}
