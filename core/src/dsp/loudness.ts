import { frameCount, HOP_SAMPLES, SAMPLE_RATE_HZ } from "../constants";

/** One second-order section, `a0 = 1`. */
interface Biquad {
  b: readonly [number, number, number];
  a: readonly [number, number];
}

/** The two stages of K-weighting at 48 kHz: head, then low end. ITU-R BS.1770-5, tables 1 and 2. */
const K_WEIGHTING: readonly Biquad[] = [
  { b: [1.53512485958697, -2.69169618940638, 1.19839281085285], a: [-1.69065929318241, 0.73248077421585] },
  { b: [1, -2, 1], a: [-1.99004745483398, 0.99007225036621] },
];

/** Makes 0 LKFS of a full-scale sine at 997 Hz in one channel read −3.01. */
const OFFSET_DB = -0.691;
const MOMENTARY_S = 0.4;
export const SHORT_TERM_S = 3;
/** Blocks of the integrated measure follow each other by a quarter of their length. */
const BLOCK_STEP_S = 0.1;
const ABSOLUTE_GATE_LUFS = -70;
const RELATIVE_GATE_LU = -10;

/** Weights of the channels in WAV order, by their number; surrounds count 1.5 dB more, the low-frequency channel not at all. */
function channelWeights(count: number): number[] {
  if (count === 5) return [1, 1, 1, 1.41, 1.41];
  if (count === 6) return [1, 1, 1, 0, 1.41, 1.41];
  return new Array<number>(count).fill(1);
}

/**
 * Running sum of the weighted square of all channels: `out[i]` is the sum over samples before i. Its
 * differences give the power of any stretch.
 */
function weightedEnergy(channels: readonly Float32Array[]): Float64Array {
  const length = channels[0].length;
  const sums = new Float64Array(length + 1);
  const weights = channelWeights(channels.length);
  channels.forEach((channel, c) => {
    if (weights[c] === 0) return;
    const [head, lowEnd] = K_WEIGHTING;
    let [x1, x2, y1, y2, z1, z2] = [0, 0, 0, 0, 0, 0];
    for (let i = 0; i < length; i++) {
      const x = Number.isFinite(channel[i]) ? channel[i] : 0;
      const y = head.b[0] * x + head.b[1] * x1 + head.b[2] * x2 - head.a[0] * y1 - head.a[1] * y2;
      const z = lowEnd.b[0] * y + lowEnd.b[1] * y1 + lowEnd.b[2] * y2 - lowEnd.a[0] * z1 - lowEnd.a[1] * z2;
      x2 = x1;
      x1 = x;
      y2 = y1;
      y1 = y;
      z2 = z1;
      z1 = z;
      sums[i + 1] += weights[c] * z * z;
    }
  });
  for (let i = 0; i < length; i++) sums[i + 1] += sums[i];
  return sums;
}

const toLufs = (meanSquare: number): number =>
  meanSquare > 0 ? OFFSET_DB + 10 * Math.log10(meanSquare) : Number.NEGATIVE_INFINITY;

/**
 * Integrated loudness of a whole sound, gated in two steps (ITU-R BS.1770-5).
 *
 * @param channels  one or more arrays of equal length at 48 kHz, in WAV order
 * @returns LUFS; `-Infinity` when no block passes the gates, as for silence or less than 400 ms of sound
 */
export function integratedLoudness(channels: readonly Float32Array[]): number {
  const sums = weightedEnergy(channels);
  const block = Math.round(MOMENTARY_S * SAMPLE_RATE_HZ);
  const step = Math.round(BLOCK_STEP_S * SAMPLE_RATE_HZ);
  const powers: number[] = [];
  for (let start = 0; start + block < sums.length; start += step) {
    powers.push((sums[start + block] - sums[start]) / block);
  }
  const mean = (values: number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
  const audible = powers.filter((power) => toLufs(power) > ABSOLUTE_GATE_LUFS);
  if (audible.length === 0) return Number.NEGATIVE_INFINITY;
  const gate = toLufs(mean(audible)) + RELATIVE_GATE_LU;
  return toLufs(mean(audible.filter((power) => toLufs(power) > gate)));
}

/**
 * Ungated loudness in a window centred on each analysis frame; what lies outside the sound counts as silence.
 *
 * @param channels  as for {@link integratedLoudness}
 * @param windowS  400 ms for momentary loudness, {@link SHORT_TERM_S} for short-term
 * @returns LUFS, one a frame; `-Infinity` for silence
 */
export function loudnessPerFrame(
  channels: readonly Float32Array[],
  windowS: number = MOMENTARY_S,
): Float32Array {
  const sums = weightedEnergy(channels);
  const length = sums.length - 1;
  const window = Math.round(windowS * SAMPLE_RATE_HZ);
  const out = new Float32Array(frameCount(length));
  for (let frame = 0; frame < out.length; frame++) {
    const from = Math.max(0, frame * HOP_SAMPLES - window / 2);
    const to = Math.min(length, frame * HOP_SAMPLES + window / 2);
    // Differences of running sums can fall a rounding error below zero.
    out[frame] = toLufs(Math.max(0, sums[to] - sums[from]) / window);
  }
  return out;
}
