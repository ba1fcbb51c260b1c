import { SAMPLE_RATE_HZ } from "../constants";

const [F1, F2, F3, F4] = [20.598997, 107.65265, 737.86223, 12194.217];

function response(hz: number): number {
  const f2 = hz * hz;
  return (F4 * F4 * f2 * f2) / ((f2 + F1 * F1) * Math.sqrt((f2 + F2 * F2) * (f2 + F3 * F3)) * (f2 + F4 * F4));
}

const AT_1000 = response(1000);

/** A-weighting as a factor on levels: 1 at 1 kHz, 0 at 0 Hz (IEC 61672-1:2013, annex E). */
export function aWeight(hz: number): number {
  return response(hz) / AT_1000;
}

/** What A-weighting does to the power of each bin of a spectrum: `fftSize / 2 + 1` factors. */
export function aWeightedPowers(fftSize: number): Float64Array {
  return Float64Array.from(
    { length: fftSize / 2 + 1 },
    (_, bin) => aWeight((bin * SAMPLE_RATE_HZ) / fftSize) ** 2,
  );
}
