/**
 * Spectral flatness: the geometric mean of powers over their arithmetic mean. 1 for powers that are all alike, near 0 for a
 * tone; a white noise reads about 0.56, the mean over its fluctuating bins (Johnston 1988).
 *
 * @param powers  a spectrum's powers, from `offset`
 * @param firstBin  first bin that counts
 * @param lastBin  last bin that counts, that with it
 * @returns 0..1; 0 for silence, and where any bin is silent
 */
export function flatness(powers: Float32Array, offset: number, firstBin: number, lastBin: number): number {
  let sum = 0;
  let logs = 0;
  for (let bin = firstBin; bin <= lastBin; bin++) {
    const power = powers[offset + bin];
    sum += power;
    logs += Math.log(power);
  }
  const count = lastBin - firstBin + 1;
  return sum > 0 ? Math.min(1, (Math.exp(logs / count) * count) / sum) : 0;
}
