import { HIT_LAG, HIT_SPECTRA } from "../maths/measureWindows";
import { bandPower, bandShares } from "../spectrum/bands";

/** Edges of the bands that hits are described in, from the lowest drum to the highest cymbal. */
export const HIT_BANDS_HZ = [30, 60, 100, 160, 250, 400, 700, 1200, 2200, 4000, 7000, 11_000, 17_000];
const BANDS = HIT_BANDS_HZ.length - 1;
/** Numbers that describe a hit: of each band how loud it gets, how much it rises, and how much is left a little later. */
export const HIT_FEATURES = 3 * BANDS;
/** Levels below this are silence, in dBFS: what is under it is not told apart. */
const FLOOR_DB = -80;
const FLOOR = 10 ** (FLOOR_DB / 10);
/** Frames before a hit that it rises from, in which it is loudest, and after which its decay is read. */
const BEFORE = [6, 3] as const;
const LOUDEST_WITHIN = 4;
const LATER = [HIT_LAG - 1, HIT_LAG];
const FRAMES = BEFORE[0] + HIT_LAG + 1;
const NOW = BEFORE[0];
/** A hit is where levels rise most within so many frames on either side, by so many dB in the mean of all bands. */
const PEAK_FRAMES = 3;
const RISE_FRAMES = 2;
const LEAST_RISE_DB = 0.8;

/**
 * Finds everything that begins in a sound, and describes each by its levels in twelve bands. Frames go in one after the
 * other.
 */
export class HitFeatures {
  /** Describes the hit {@link HIT_LAG} frames ago, after `push` has said there was one: dB. */
  readonly features = new Float64Array(HIT_FEATURES);
  private readonly shares = HIT_BANDS_HZ.slice(1).map((highHz, i) =>
    bandShares(HIT_BANDS_HZ[i], highHz, HIT_SPECTRA.fftSize),
  );
  /** Levels of the last frames in dB, oldest first. */
  private readonly levels = Array.from({ length: FRAMES }, () => new Float64Array(BANDS).fill(FLOOR_DB));
  private readonly rises = new Float64Array(FRAMES);

  /**
   * @param powers  a spectrum of {@link HIT_SPECTRA}, from `offset`
   * @returns whether something began {@link HIT_LAG} frames ago
   */
  push(powers: Float32Array, offset: number): boolean {
    const { levels, rises } = this;
    const newest = levels.shift()!;
    levels.push(newest);
    for (let band = 0; band < BANDS; band++) {
      newest[band] = 10 * Math.log10(Math.max(FLOOR, 2 * bandPower(powers, offset, this.shares[band])));
    }
    const before = levels[FRAMES - 1 - RISE_FRAMES];
    let rise = 0;
    for (let band = 0; band < BANDS; band++) rise += Math.max(0, newest[band] - before[band]) / BANDS;
    rises.copyWithin(0, 1);
    rises[FRAMES - 1] = rise;
    if (!this.isHit()) return false;
    this.describe();
    return true;
  }

  private isHit(): boolean {
    const { rises } = this;
    // Levels rise most when the window has come upon the hit.
    if (rises[NOW] < LEAST_RISE_DB) return false;
    for (let i = 1; i <= PEAK_FRAMES; i++) {
      if (rises[NOW - i] >= rises[NOW] || rises[NOW + i] > rises[NOW]) return false;
    }
    return true;
  }

  private describe(): void {
    const { levels, features } = this;
    for (let band = 0; band < BANDS; band++) {
      let before = Number.POSITIVE_INFINITY;
      for (let i = BEFORE[1]; i <= BEFORE[0]; i++) before = Math.min(before, levels[NOW - i][band]);
      let peak = FLOOR_DB;
      for (let i = 0; i <= LOUDEST_WITHIN; i++) peak = Math.max(peak, levels[NOW + i][band]);
      let later = 0;
      for (const i of LATER) later += levels[NOW + i][band] / LATER.length;
      features[3 * band] = peak;
      features[3 * band + 1] = peak - before;
      features[3 * band + 2] = later - peak;
    }
  }
}
