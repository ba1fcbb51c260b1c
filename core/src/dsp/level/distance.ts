/** How a sound's level falls with distance. */
export interface DistanceLaw {
  /** Up to here it is at its full level; metres. */
  referenceM: number;
  /** From here on it falls no further; metres. */
  maximumM: number;
  /** How fast it falls between: 1 halves it for each doubling of the distance, 0 keeps it level. */
  rollOff: number;
  /** True if the sound is silent beyond the maximum distance; otherwise it keeps the level it has there. */
  silentBeyond?: boolean;
}

/** The last share of the way to the maximum, over which a sound that falls silent there does so. */
const FADING_SHARE = 0.25;

/**
 * Gain at a distance by the inverse law of the Web Audio standard (`distanceModel = "inverse"`), with the
 * distance kept between the reference and the maximum. What falls silent beyond is faded out evenly before.
 *
 * @param distanceM  metres
 * @returns linear gain, 1 within the reference distance
 */
export function distanceGain(
  { referenceM, maximumM, rollOff, silentBeyond = false }: DistanceLaw,
  distanceM: number,
): number {
  const endM = Math.max(maximumM, referenceM);
  const within = Math.max(referenceM, Math.min(distanceM, endM));
  const gain = referenceM / (referenceM + rollOff * (within - referenceM));
  if (!silentBeyond) return gain;
  const fadingM = Math.max(1e-6, FADING_SHARE * (endM - referenceM));
  return gain * Math.min(1, Math.max(0, (endM - distanceM) / fadingM));
}
