import { HOP_SAMPLES } from "../../constants";
import { PART_DELAY_HOPS, PART_WINDOW, PARTS_AROUND } from "../maths/measureWindows";
import { RealFft } from "../spectrum/fft";
import { createWindow } from "../spectrum/window";
import { PowerHistory } from "./percussive";

const FFT_SIZE = 2048;
const BINS = FFT_SIZE / 2 + 1;
/** Hann windows a quarter of their length apart, squared, add up to this. */
const OVERLAP_SUM = 1.5;

/**
 * Splits a sound into what strikes and what lasts, as it comes: each bin of its spectra is shared out by medians along
 * frequency and along time (Fitzgerald 2010, Wiener), and the spectra are made sound again by overlap-add. The two parts
 * add up to the sound.
 */
export class PartsSplitter {
  private readonly fft = new RealFft(FFT_SIZE);
  private readonly window = createWindow("hann", PART_WINDOW);
  private readonly history = new PowerHistory(BINS);
  /** Spectra of the newest frames, as the history has their powers. */
  private readonly re: Float32Array;
  private readonly im: Float32Array;
  private readonly shares = new Float32Array(BINS);
  private readonly newest = new Float32Array(PART_WINDOW);
  private readonly frame = new Float32Array(FFT_SIZE);
  private readonly backRe = new Float32Array(BINS);
  private readonly backIm = new Float32Array(BINS);
  /** The percussive part, as far as windows have added to it; its first hop is complete. */
  private readonly struck = new Float32Array(PART_WINDOW);
  /** The sound as late as its parts. */
  private readonly late = new Float32Array((PART_DELAY_HOPS + 1) * HOP_SAMPLES);
  private frames = 0;

  constructor() {
    this.re = new Float32Array(this.history.rows * BINS);
    this.im = new Float32Array(this.history.rows * BINS);
  }

  /**
   * Takes the next hop and gives the hop of either part that lies {@link PART_DELAY_HOPS} before it.
   *
   * @param hop  `HOP_SAMPLES` finite samples
   * @param percussive  is filled with as many
   * @param harmonic  is filled with as many
   */
  push(hop: Float32Array, percussive: Float32Array, harmonic: Float32Array): void {
    const { newest, late, struck, frame, window, fft, history } = this;
    append(newest, hop);
    append(late, hop);
    const last = this.frames++;
    frame.fill(0);
    for (let i = 0; i < PART_WINDOW; i++) frame[i] = newest[i] * window[i];
    history.add(last, (powers, at) => {
      const [re, im] = [this.re.subarray(at, at + BINS), this.im.subarray(at, at + BINS)];
      fft.forward(frame, re, im);
      for (let bin = 0; bin < BINS; bin++) powers[at + bin] = re[bin] * re[bin] + im[bin] * im[bin];
    });

    struck.copyWithin(0, HOP_SAMPLES);
    struck.fill(0, PART_WINDOW - HOP_SAMPLES);
    if (last >= PARTS_AROUND) this.addStruck(last - PARTS_AROUND);
    for (let i = 0; i < HOP_SAMPLES; i++) {
      percussive[i] = struck[i];
      harmonic[i] = late[i] - struck[i];
    }
  }

  /** Adds what strikes in a frame. */
  private addStruck(frame: number): void {
    const { history, shares, re, im, backRe, backIm, fft, window, struck } = this;
    const at = history.offsetOf(frame);
    const spectrum = this.frame;
    spectrum.fill(0);
    history.struckShares(frame, 0, BINS - 1, shares);
    // Real parts are even and imaginary parts odd: one transform of their sum takes them back.
    for (let bin = 0; bin < BINS; bin++) {
      const share = shares[bin];
      spectrum[bin] = share * (re[at + bin] + im[at + bin]);
      if (bin > 0 && bin < BINS - 1) spectrum[FFT_SIZE - bin] = share * (re[at + bin] - im[at + bin]);
    }
    fft.forward(spectrum, backRe, backIm);
    const scale = 1 / (FFT_SIZE * OVERLAP_SUM);
    for (let i = 0; i < PART_WINDOW; i++) {
      const sample = i < BINS ? backRe[i] + backIm[i] : backRe[FFT_SIZE - i] - backIm[FFT_SIZE - i];
      struck[i] += scale * window[i] * sample;
    }
  }
}

/** Moves a row of samples on by those that are new. */
function append(row: Float32Array, fresh: Float32Array): void {
  row.copyWithin(0, fresh.length);
  row.set(fresh, row.length - fresh.length);
}
