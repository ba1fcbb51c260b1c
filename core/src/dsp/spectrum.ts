import { RealFft } from "./fft";
import { createWindow, type WindowName } from "./window";

/**
 * Power spectra of frames of a sound, scaled so that their sum is the mean square of the windowed signal:
 * `P[k] = c·|X[k]|² / (N·Σw²)`, c = 2 for inner bins and 1 for DC and Nyquist (Parseval).
 *
 * Keep one per size and window: it owns the tables and the scratch space, so measuring allocates nothing.
 */
export class PowerSpectrum {
  readonly fftSize: number;
  readonly binCount: number;
  private readonly fft: RealFft;
  private readonly window: Float64Array;
  private readonly scale: number;
  private readonly edge: Float32Array;

  /** @throws RangeError when `fftSize` is not a power of two of at least 8 */
  constructor(fftSize: number, windowName: WindowName) {
    this.fft = new RealFft(fftSize);
    this.fftSize = fftSize;
    this.binCount = this.fft.binCount;
    this.window = createWindow(windowName, fftSize);
    let sumOfSquares = 0;
    for (const weight of this.window) sumOfSquares += weight * weight;
    this.scale = 2 / (fftSize * sumOfSquares);
    this.edge = new Float32Array(fftSize);
  }

  /**
   * Powers around one instant.
   *
   * @param samples  finite samples; those before the first and after the last count as 0
   * @param centre  index of the sample the window is centred on; may lie anywhere
   * @param out  `binCount` powers from `outOffset`, mean square (full-scale sine in all = 0.5)
   * @param firstBin  first bin that is wanted; others may be left unwritten
   * @param lastBin  last bin that is wanted
   */
  at(
    samples: Float32Array,
    centre: number,
    out: Float32Array | Float64Array,
    outOffset = 0,
    firstBin = 0,
    lastBin = this.binCount - 1,
  ): void {
    const first = Math.round(centre) - this.fftSize / 2;
    if (first >= 0 && first + this.fftSize <= samples.length) {
      this.fft.power(samples, first, this.window, this.scale, out, outOffset, firstBin, lastBin);
      return;
    }
    this.edge.fill(0);
    const from = Math.max(0, first);
    const to = Math.min(samples.length, first + this.fftSize);
    if (to > from) this.edge.set(samples.subarray(from, to), from - first);
    this.fft.power(this.edge, 0, this.window, this.scale, out, outOffset, firstBin, lastBin);
  }
}
