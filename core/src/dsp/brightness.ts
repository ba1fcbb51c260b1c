import { SAMPLE_RATE_HZ } from "../constants";

/**
 * Brightness: the spectral centroid, the mean of the bins' frequencies weighted by their magnitudes.
 *
 * @param powers  a spectrum's powers, from `offset`
 * @param fftSize  size of that spectrum; it has `fftSize / 2 + 1` bins
 * @returns Hz; 0 for silence
 */
export function brightnessHz(powers: Float32Array | Float64Array, offset: number, fftSize: number): number {
  let sum = 0;
  let moment = 0;
  for (let bin = 0; bin <= fftSize / 2; bin++) {
    const magnitude = Math.sqrt(powers[offset + bin]);
    sum += magnitude;
    moment += bin * magnitude;
  }
  return sum > 0 ? (moment / sum) * (SAMPLE_RATE_HZ / fftSize) : 0;
}
