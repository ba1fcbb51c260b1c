import { SAMPLE_RATE_HZ } from "../../constants";

/** The bins a range of frequencies covers: those between the first and the last lie inside with their whole width. */
export interface BandShares {
  firstBin: number;
  lastBin: number;
  /** Share of the first bin's width that lies inside, 0..1. */
  firstShare: number;
  /** Share of the last bin's; 0 when it is the first as well. */
  lastShare: number;
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
  const share = (bin: number) => Math.max(0, Math.min(high, bin + 0.5) - Math.max(low, bin - 0.5));
  return {
    firstBin,
    lastBin,
    firstShare: share(firstBin),
    lastShare: lastBin > firstBin ? share(lastBin) : 0,
  };
}

/**
 * Power within a band: `Σ P`, each bin by its share.
 *
 * @param powers  a spectrum's powers, from `offset`
 * @param band  from {@link bandShares} for the same FFT size
 */
export function bandPower(powers: Float32Array | Float64Array, offset: number, band: BandShares): number {
  const first = offset + band.firstBin;
  const last = offset + band.lastBin;
  let sum = band.firstShare * powers[first];
  for (let bin = first + 1; bin < last; bin++) sum += powers[bin];
  return last > first ? sum + band.lastShare * powers[last] : sum;
}

/** Level of a band: `sqrt(2 · Σ P)`, see {@link bandPower}. A full-scale sine inside the band reads 1. */
export function bandLevel(powers: Float32Array | Float64Array, offset: number, band: BandShares): number {
  return Math.sqrt(2 * bandPower(powers, offset, band));
}
