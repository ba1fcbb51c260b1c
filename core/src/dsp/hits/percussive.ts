import { HOP_SAMPLES } from "../../constants";
import { PARTS_AROUND } from "../maths/measureWindows";
import { type BandShares, bandShares } from "../spectrum/bands";
import { PowerSpectrum } from "../spectrum/spectrum";
import type { WindowName } from "../spectrum/window";

/** Bins that are looked at on either side. */
const BINS_AROUND = 8;
const FRAMES = 2 * PARTS_AROUND + 1;

/** A row of numbers in rising order. */
class SortedRow {
  count = 0;

  /** @param values  as many as there may be, from `at` */
  constructor(
    private readonly values: Float32Array,
    private at = 0,
  ) {}

  /** Looks at another row of the same values. */
  moveTo(at: number, count: number): void {
    this.at = at;
    this.count = count;
  }

  get middle(): number {
    return this.values[this.at + (this.count >> 1)];
  }

  insert(value: number): void {
    this.settle(this.count++, value);
  }

  remove(value: number): void {
    const { values, at } = this;
    const place = this.placeOf(value);
    this.count--;
    for (let i = place; i < this.count; i++) values[at + i] = values[at + i + 1];
  }

  /** Puts a number in the place of another. */
  replace(old: number, value: number): void {
    if (old !== value) this.settle(this.placeOf(old), value);
  }

  private placeOf(value: number): number {
    let place = 0;
    while (place < this.count - 1 && this.values[this.at + place] !== value) place++;
    return place;
  }

  /** Moves a free place to where a number belongs. */
  private settle(free: number, value: number): void {
    const { values, at, count } = this;
    let place = free;
    for (; place > 0 && values[at + place - 1] > value; place--) values[at + place] = values[at + place - 1];
    for (; place < count - 1 && values[at + place + 1] < value; place++)
      values[at + place] = values[at + place + 1];
    values[at + place] = value;
  }
}

/** Powers of the newest frames, and how much of each bin strikes. */
export class PowerHistory {
  /** Frames that are kept. */
  readonly rows = FRAMES;
  readonly powers: Float32Array;
  /** Powers that are written over. */
  private readonly old: Float32Array;
  /** The same powers by bins, of each bin in rising order; and those of neighbouring bins. */
  private readonly ofBins: SortedRow;
  private readonly neighbours = new SortedRow(new Float32Array(2 * BINS_AROUND + 2));

  constructor(private readonly bins: number) {
    this.powers = new Float32Array(FRAMES * bins);
    this.old = new Float32Array(bins);
    this.ofBins = new SortedRow(new Float32Array(FRAMES * bins));
  }

  /** Offset of a frame's bins. */
  offsetOf(frame: number): number {
    return (((frame % FRAMES) + FRAMES) % FRAMES) * this.bins;
  }

  /** Adds the next frame. @param fill  writes its powers from an offset on */
  add(frame: number, fill: (powers: Float32Array, offset: number) => void): void {
    const { bins, powers, old, ofBins } = this;
    const at = this.offsetOf(frame);
    for (let bin = 0; bin < bins; bin++) old[bin] = powers[at + bin];
    fill(powers, at);
    for (let bin = 0; bin < bins; bin++) {
      ofBins.moveTo(bin * FRAMES, FRAMES);
      ofBins.replace(old[bin], powers[at + bin]);
    }
  }

  /**
   * Shares of bins' powers that strike, 0..1; the {@link PARTS_AROUND} frames after it have to be there.
   *
   * @param out  is written from bin `first` to bin `last`
   */
  struckShares(frame: number, first: number, last: number, out: Float32Array): void {
    const { bins, powers, ofBins, neighbours } = this;
    const at = this.offsetOf(frame);
    neighbours.moveTo(0, 0);
    for (let bin = Math.max(0, first - BINS_AROUND); bin < Math.min(bins, first + BINS_AROUND); bin++)
      neighbours.insert(powers[at + bin]);
    for (let bin = first; bin <= last; bin++) {
      if (bin + BINS_AROUND < bins) neighbours.insert(powers[at + bin + BINS_AROUND]);
      ofBins.moveTo(bin * FRAMES, FRAMES);
      const along = ofBins.middle;
      const across = neighbours.middle;
      const all = along + across;
      // Power that neither median holds is shared equally.
      out[bin] = all > 0 ? across / all : 0.5;
      if (bin >= BINS_AROUND) neighbours.remove(powers[at + bin - BINS_AROUND]);
    }
  }
}

/**
 * Splits a range of frequencies into what lasts and what strikes, by medians of powers (Fitzgerald 2010): along time they keep
 * what lasts, along frequency what is everywhere at once. Each bin is shared out between both by their powers (Wiener).
 *
 * It looks {@link PARTS_AROUND} frames ahead.
 */
export class PartsMeter {
  private readonly spectrum: PowerSpectrum;
  private readonly band: BandShares;
  private readonly history: PowerHistory;
  private readonly shares: Float32Array;
  private newest = Number.NEGATIVE_INFINITY;
  /** Levels of what strikes and of what lasts, as of the last frame that was read; a full-scale sine reads 1. */
  percussive = 0;
  harmonic = 0;

  /** @throws RangeError for a range that is upside down or off the spectrum */
  constructor(lowHz: number, highHz: number, fftSize: number, window: WindowName) {
    this.spectrum = new PowerSpectrum(fftSize, window);
    this.band = bandShares(lowHz, highHz, fftSize);
    this.history = new PowerHistory(this.spectrum.binCount);
    this.shares = new Float32Array(this.spectrum.binCount);
  }

  /**
   * Reads the frame around an instant.
   *
   * @param samples  those before 0 and after the end count as 0
   * @param centre  index of the instant
   * @param frame  its number; frames follow one another
   */
  read(samples: Float32Array, centre: number, frame: number): void {
    const { spectrum, history, band, shares } = this;
    const last = frame + PARTS_AROUND;
    for (let one = Math.max(this.newest + 1, frame - PARTS_AROUND); one <= last; one++)
      history.add(one, (powers, offset) =>
        spectrum.at(samples, centre + (one - frame) * HOP_SAMPLES, powers, offset),
      );
    this.newest = last;
    const own = history.offsetOf(frame);
    history.struckShares(frame, band.firstBin, band.lastBin, shares);
    let [struck, lasting] = [0, 0];
    for (let bin = band.firstBin; bin <= band.lastBin; bin++) {
      const share = bin === band.firstBin ? band.firstShare : bin === band.lastBin ? band.lastShare : 1;
      const power = share * history.powers[own + bin];
      struck += power * shares[bin];
      lasting += power * (1 - shares[bin]);
    }
    this.percussive = Math.sqrt(2 * struck);
    this.harmonic = Math.sqrt(2 * lasting);
  }
}
