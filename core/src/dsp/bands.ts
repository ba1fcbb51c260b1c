import { SAMPLE_RATE_HZ } from "../constants";

/** The bins a range of frequencies covers, each with the share of its width that lies inside. */
export interface BandShares {
  firstBin: number;
  shares: Float64Array;
}

/**
 * Which bins [lowHz, highHz] covers. Bin k is as wide as k−½ to k+½; DC and Nyquist therefore reach half out
 * of the spectrum and count at most half.
 *
 * @throws RangeError unless 0 ≤ lowHz < highHz ≤ 24 000
 */
export function bandShares(lowHz: number, highHz: number, fftSize: number): BandShares {
  if (!(lowHz >= 0 && lowHz < highHz && highHz <= SAMPLE_RATE_HZ / 2)) {
    throw new RangeError(
      `a band needs 0 ≤ low < high ≤ ${SAMPLE_RATE_HZ / 2} Hz, not low ${lowHz} and high ${highHz}`,
    );
  }
  const binWidthHz = SAMPLE_RATE_HZ / fftSize;
  const low = lowHz / binWidthHz;
  const high = highHz / binWidthHz;
  const firstBin = Math.round(low);
  const lastBin = Math.min(fftSize / 2, Math.round(high));
  const shares = new Float64Array(lastBin - firstBin + 1);
  for (let bin = firstBin; bin <= lastBin; bin++) {
    shares[bin - firstBin] = Math.max(0, Math.min(high, bin + 0.5) - Math.max(low, bin - 0.5));
  }
  return { firstBin, shares };
}

/**
 * Level of a band: `sqrt(2 · Σ P)`. A full-scale sine inside the band reads 1.
 *
 * @param powers  a spectrum's powers, from `offset`
 * @param band  from {@link bandShares} for the same FFT size
 */
export function bandLevel(powers: Float32Array | Float64Array, offset: number, band: BandShares): number {
  const { firstBin, shares } = band;
  let sum = 0;
  for (let i = 0; i < shares.length; i++) sum += shares[i] * powers[offset + firstBin + i];
  return Math.sqrt(2 * sum);
}
