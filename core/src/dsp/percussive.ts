import { HOP_SAMPLES } from "../constants";
import { type BandShares, bandShares } from "./bands";
import { PARTS_AROUND } from "./measureWindows";
import { PowerSpectrum } from "./spectrum";
import type { WindowName } from "./window";

/** Bins that are looked at on either side. */
const BINS_AROUND = 8;
const FRAMES = 2 * PARTS_AROUND + 1;

/**
 * Splits a range of frequencies into what lasts and what strikes, by medians of powers (Fitzgerald 2010): along time they keep
 * what lasts, along frequency what is everywhere at once. Each bin is shared out between both by their powers (Wiener).
 *
 * It looks {@link PARTS_AROUND} frames ahead.
 */
export class PartsMeter {
  private readonly spectrum: PowerSpectrum;
  private readonly band: BandShares;
  /** Powers of the newest frames, one after the other, by frame % FRAMES. */
  private readonly frames: Float32Array;
  private readonly bins: number;
  private newest = Number.NEGATIVE_INFINITY;
  private readonly sorted = new Float32Array(FRAMES);
  /** Levels of what strikes and of what lasts, as of the last frame that was read; a full-scale sine reads 1. */
  percussive = 0;
  harmonic = 0;

  /** @throws RangeError for a range that is upside down or off the spectrum */
  constructor(lowHz: number, highHz: number, fftSize: number, window: WindowName) {
    this.spectrum = new PowerSpectrum(fftSize, window);
    this.band = bandShares(lowHz, highHz, fftSize);
    this.bins = this.spectrum.binCount;
    this.frames = new Float32Array(FRAMES * this.bins);
  }

  /**
   * Reads the frame around an instant.
   *
   * @param samples  those before 0 and after the end count as 0
   * @param centre  index of the instant
   * @param frame  its number; frames follow one another
   */
  read(samples: Float32Array, centre: number, frame: number): void {
    const { spectrum, frames, bins, band } = this;
    const last = frame + PARTS_AROUND;
    for (let one = Math.max(this.newest + 1, frame - PARTS_AROUND); one <= last; one++)
      spectrum.at(samples, centre + (one - frame) * HOP_SAMPLES, frames, placeOf(one) * bins);
    this.newest = last;
    const own = placeOf(frame) * bins;
    let [struck, lasting] = [0, 0];
    for (let bin = band.firstBin; bin <= band.lastBin; bin++) {
      const share = bin === band.firstBin ? band.firstShare : bin === band.lastBin ? band.lastShare : 1;
      const power = share * frames[own + bin];
      if (power === 0) continue;
      const low = Math.max(0, bin - BINS_AROUND);
      const along = this.median(bin, bins, FRAMES);
      const across = this.median(own + low, 1, Math.min(bins, bin + BINS_AROUND + 1) - low);
      const all = along + across;
      // Power that neither median holds is shared equally.
      const part = all > 0 ? across / all : 0.5;
      struck += power * part;
      lasting += power * (1 - part);
    }
    this.percussive = Math.sqrt(2 * struck);
    this.harmonic = Math.sqrt(2 * lasting);
  }

  /** The middle one of `count` powers, at most as many as frames. */
  private median(from: number, step: number, count: number): number {
    const { frames, sorted } = this;
    for (let n = 0; n < count; n++) {
      const power = frames[from + n * step];
      let at = n;
      for (; at > 0 && sorted[at - 1] > power; at--) sorted[at] = sorted[at - 1];
      sorted[at] = power;
    }
    return sorted[count >> 1];
  }
}

const placeOf = (frame: number) => ((frame % FRAMES) + FRAMES) % FRAMES;
