export const WINDOW_NAMES = ["hann", "hamming", "blackman", "flatTop", "rectangular"] as const;
export type WindowName = (typeof WINDOW_NAMES)[number];
export const DEFAULT_WINDOW: WindowName = "hann";

/** Cosine-sum coefficients, a0 − a1·cos + a2·cos 2 − …; Harris 1978, flat-top as in the ISO 18431-2 table. */
const COEFFICIENTS: Record<WindowName, readonly number[]> = {
  hann: [0.5, 0.5],
  hamming: [0.54, 0.46],
  blackman: [0.42, 0.5, 0.08],
  flatTop: [0.21557895, 0.41663158, 0.277263158, 0.083578947, 0.006947368],
  rectangular: [1],
};

/**
 * A window in periodic form, as spectral analysis wants it: point `size` would repeat point 0.
 *
 * @param name  which window
 * @param size  number of points
 * @returns `size` weights, dimensionless
 * @example createWindow("hann", 4) // 0, 0.5, 1, 0.5
 */
export function createWindow(name: WindowName, size: number): Float64Array {
  const coefficients = COEFFICIENTS[name];
  if (!coefficients) throw new RangeError(`unknown window "${name}"; use one of ${WINDOW_NAMES.join(", ")}`);
  const out = new Float64Array(size);
  for (let n = 0; n < size; n++) {
    let sum = 0;
    for (let term = 0; term < coefficients.length; term++) {
      sum += (term % 2 ? -1 : 1) * coefficients[term] * Math.cos((2 * Math.PI * term * n) / size);
    }
    out[n] = sum;
  }
  return out;
}
