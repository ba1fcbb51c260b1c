import { SAMPLE_RATE_HZ } from "../../constants";

/** Narrowest range that is listened to: a twelfth of an octave, and never under 4 Hz. */
const NARROWEST_RATIO = 2 ** (1 / 12);
const NARROWEST_HZ = 4;

/** A frequency as finely as it can be told, in hertz. */
export function roundHz(hz: number): number {
  return hz < 200 ? Math.round(hz * 10) / 10 : Math.round(hz);
}

/** A range from two frequencies in any order, not narrower than can be told apart and inside the spectrum. */
export function rangeBetween(a: number, b: number): { lowHz: number; highHz: number } {
  const lowHz = Math.max(0, Math.min(a, b));
  const least = Math.max(lowHz * NARROWEST_RATIO, lowHz + NARROWEST_HZ);
  const highHz = Math.min(SAMPLE_RATE_HZ / 2, roundHz(Math.max(a, b, least)));
  return { lowHz: Math.min(roundHz(lowHz), highHz - NARROWEST_HZ), highHz };
}
