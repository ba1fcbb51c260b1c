import { SAMPLE_RATE_HZ } from "../../constants";
import { type Samples, sampleOf } from "../maths/samples";

/** Of samples one in so many is looked at, which is enough for a level; of long sounds fewer, */
const STRIDE = 48;
/** so that no more than these are. */
const MOST_LOOKED_AT = 400_000;
/** Length of the stretch whose middle is wanted, seconds. */
const STRETCH_S = 8;

/**
 * The middle of the loudest stretch of sounds that play together.
 *
 * @param sounds  mono, all beginning at 0
 * @returns seconds; 0 for silence, and for no sounds
 */
export function loudestMiddleS(sounds: readonly Samples[]): number {
  const seconds = Math.ceil(Math.max(0, ...sounds.map(({ length }) => length)) / SAMPLE_RATE_HZ);
  const energy = new Float64Array(seconds);
  for (const samples of sounds) {
    const stride = Math.max(STRIDE, Math.ceil(samples.length / MOST_LOOKED_AT));
    for (let i = 0; i < samples.length; i += stride) {
      const sample = sampleOf(samples, i);
      energy[Math.floor(i / SAMPLE_RATE_HZ)] += Number.isFinite(sample) ? stride * sample * sample : 0;
    }
  }
  const length = Math.min(STRETCH_S, seconds);
  let sum = 0;
  for (let i = 0; i < length; i++) sum += energy[i];
  let most = sum;
  let at = 0;
  for (let from = 1; from + length <= seconds; from++) {
    sum += energy[from + length - 1] - energy[from - 1];
    if (sum > most * (1 + 1e-9)) [most, at] = [sum, from];
  }
  return most > 0 ? at + length / 2 : 0;
}
