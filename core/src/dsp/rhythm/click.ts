import { SAMPLE_RATE_HZ } from "../../constants";

/** A short tone, struck at an instant. */
export interface Strike {
  timeS: number;
  hz: number;
  /** Peak, full scale = 1. */
  level: number;
}

/** Half of full scale, so that a click does not mask what it is to be compared with. */
export const CLICK_LEVEL = 0.5;

const DECAY_S = 0.025;
const LENGTH_S = 0.12;

/**
 * Short decaying sines, for hearing where ticks and notes fall. Each begins on the sample nearest its time.
 *
 * @param count  samples at 48 kHz; strikes outside them are left out, and tails end with them
 * @returns one channel; strikes that ring together add up
 */
export function makeClicks(strikes: readonly Strike[], count: number): Float32Array {
  const out = new Float32Array(count);
  const length = Math.round(LENGTH_S * SAMPLE_RATE_HZ);
  for (const { timeS, hz, level } of strikes) {
    const start = Math.round(timeS * SAMPLE_RATE_HZ);
    for (let i = Math.max(0, -start); i < length && start + i < count; i++) {
      const t = i / SAMPLE_RATE_HZ;
      const fade = Math.exp(-t / DECAY_S) * (1 - i / length);
      out[start + i] += level * fade * Math.sin(2 * Math.PI * hz * t);
    }
  }
  return out;
}
