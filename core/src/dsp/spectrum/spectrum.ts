import { RealFft } from "./fft";
import { createWindow, type WindowName } from "./window";

interface Scaled {
  fft: RealFft;
  scale: number;
}

const transforms = new Map<string, Scaled>();

/** Tables and scratch space are shared by all who use a size and window: results are copied out at once. */
function transformFor(fftSize: number, windowName: WindowName): Scaled {
  const key = `${fftSize} ${windowName}`;
  let transform = transforms.get(key);
  if (!transform) {
    const window = createWindow(windowName, fftSize);
    let sumOfSquares = 0;
    for (const weight of window) sumOfSquares += weight * weight;
    transform = { fft: new RealFft(fftSize, window), scale: 2 / (fftSize * sumOfSquares) };
    transforms.set(key, transform);
  }
  return transform;
}

/**
 * Power spectra of frames of a sound, scaled so that their sum is the mean square of the windowed signal:
 * `P[k] = c·|X[k]|² / (N·Σw²)`, c = 2 for inner bins and 1 for DC and Nyquist (Parseval).
 */
export class PowerSpectrum {
  readonly fftSize: number;
  readonly binCount: number;
  private readonly transform: Scaled;

  /** @throws RangeError when `fftSize` is not a power of two of at least 32 */
  constructor(fftSize: number, windowName: WindowName) {
    this.transform = transformFor(fftSize, windowName);
    this.fftSize = fftSize;
    this.binCount = this.transform.fft.binCount;
  }

  /**
   * Powers around one instant.
   *
   * @param samples  finite samples; those before the first and after the last count as 0
   * @param centre  index of the sample the window is centred on; may lie anywhere
   * @param out  `binCount` powers from `outOffset`, mean square (full-scale sine in all = 0.5)
   */
  at(samples: Float32Array, centre: number, out: Float32Array | Float64Array, outOffset = 0): void {
    const { fft, scale } = this.transform;
    out.set(fft.power(samples, Math.round(centre) - this.fftSize / 2, scale), outOffset);
  }
}
