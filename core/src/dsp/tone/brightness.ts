import { SAMPLE_RATE_HZ } from "../../constants";

/**
 * Brightness: the spectral centroid, the mean of the bins' frequencies weighted by their magnitudes or their powers.
 *
 * @param powers  a spectrum's powers, from `offset`
 * @param fftSize  size of that spectrum; it has `fftSize / 2 + 1` bins
 * @param floor  bins of less power than this do not count
 * @returns Hz; 0 where no bin counts, as in silence
 */
export function brightnessHz(
  powers: Float32Array | Float64Array,
  offset: number,
  fftSize: number,
  weights: "magnitude" | "power" = "magnitude",
  floor = 0,
): number {
  const byPower = weights === "power";
  let sum = 0;
  let moment = 0;
  for (let bin = 0; bin <= fftSize / 2; bin++) {
    const power = powers[offset + bin];
    if (power < floor) continue;
    const weight = byPower ? power : Math.sqrt(power);
    sum += weight;
    moment += bin * weight;
  }
  return sum > 0 ? (moment / sum) * (SAMPLE_RATE_HZ / fftSize) : 0;
}
