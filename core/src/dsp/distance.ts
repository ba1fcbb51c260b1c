/** How a sound's level falls with distance. */
export interface DistanceLaw {
  /** Up to here it is at its full level; metres. */
  referenceM: number;
  /** From here on it falls no further; metres. */
  maximumM: number;
  /** How fast it falls between: 1 halves it for each doubling of the distance, 0 keeps it level. */
  rollOff: number;
}

/**
 * Gain at a distance by the inverse law of the Web Audio standard (`distanceModel = "inverse"`), with the
 * distance kept between the reference and the maximum.
 *
 * @param distanceM  metres
 * @returns linear gain, 1 within the reference distance
 */
export function distanceGain({ referenceM, maximumM, rollOff }: DistanceLaw, distanceM: number): number {
  const within = Math.max(referenceM, Math.min(distanceM, Math.max(maximumM, referenceM)));
  return referenceM / (referenceM + rollOff * (within - referenceM));
}
