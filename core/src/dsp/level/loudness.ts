import { FRAME_RATE_HZ, HOP_SAMPLES } from "../../constants";
import { MOMENTARY_S } from "../maths/measureWindows";
import { rested, SlidingPower } from "../spectrum/slidingPower";
import { speakerWeights } from "./speakers";

/** The two stages of K-weighting at 48 kHz, `a0 = 1`: head, then low end. ITU-R BS.1770-5, tables 1 and 2. */
const HEAD = {
  b0: 1.53512485958697,
  b1: -2.69169618940638,
  b2: 1.19839281085285,
  a1: -1.69065929318241,
  a2: 0.73248077421585,
};
const LOW_END = { b0: 1, b1: -2, b2: 1, a1: -1.99004745483398, a2: 0.99007225036621 };

/** Makes 0 LKFS of a full-scale sine at 997 Hz in one channel read −3.01. */
const OFFSET_DB = -0.691;
/** Blocks of the integrated measure follow each other by a quarter of their length. */
const BLOCK_STEP_S = 0.1;
const ABSOLUTE_GATE_LUFS = -70;
const RELATIVE_GATE_LU = -10;

/**
 * K-weighted energy of a sound that arrives in blocks, one number for each hop of 480 samples: every window of
 * the standard is a whole number of hops.
 */
export class WeightedEnergy {
  /** Sum of weighted squares of each whole hop so far. */
  readonly hops: number[] = [];
  private readonly weights: readonly number[];
  private readonly states: Float64Array[];
  private sum = 0;
  private filled = 0;

  /** @param weights  loudness weight of each channel, see `dsp/speakers` */
  constructor(weights: readonly number[]) {
    this.weights = weights;
    this.states = this.weights.map(() => new Float64Array(6));
  }

  /** @param channels  blocks of equal length at 48 kHz, in WAV order */
  push(channels: readonly Float32Array[]): void {
    for (let start = 0; start < channels[0].length; ) {
      const end = Math.min(channels[0].length, start + HOP_SAMPLES - this.filled);
      for (let c = 0; c < channels.length; c++) {
        if (this.weights[c] > 0)
          this.sum += this.weights[c] * energy(channels[c], start, end, this.states[c]);
      }
      this.filled += end - start;
      start = end;
      if (this.filled === HOP_SAMPLES) this.closeHop();
    }
  }

  /** Closes a last hop that is not full; what is missing of it counts as silence. */
  end(): void {
    if (this.filled > 0) this.closeHop();
  }

  private closeHop(): void {
    this.hops.push(this.sum);
    this.sum = 0;
    this.filled = 0;
  }
}

/** Sum of squares of a stretch after both stages of K-weighting, whose memory is `state`. */
export function energy(channel: Float32Array, from: number, to: number, state: Float64Array): number {
  const { b0, b1, b2, a1, a2 } = HEAD;
  const { b0: d0, b1: d1, b2: d2, a1: c1, a2: c2 } = LOW_END;
  // Read one by one: variables that came through an iterator are boxed on each turn of the loop, ten times as slow.
  let x1 = state[0];
  let x2 = state[1];
  let y1 = state[2];
  let y2 = state[3];
  let z1 = state[4];
  let z2 = state[5];
  let sum = 0;
  for (let i = from; i < to; i++) {
    const sample = channel[i];
    // A number that is not finite, less itself, is not 0.
    const x = sample - sample === 0 ? sample : 0;
    // Subtract the newest product last: each sample then waits for one product and one difference, not for two.
    const y = b0 * x + b1 * x1 + b2 * x2 - a2 * y2 - a1 * y1;
    const z = d2 * y2 + d1 * y1 - c2 * z2 + d0 * y - c1 * z1;
    x2 = x1;
    x1 = x;
    y2 = y1;
    y1 = y;
    z2 = z1;
    z1 = z;
    sum += z * z;
  }
  state[0] = x1;
  state[1] = x2;
  state[2] = rested(y1);
  state[3] = rested(y2);
  state[4] = rested(z1);
  state[5] = rested(z2);
  return sum;
}

function hopsOf(
  channels: readonly Float32Array[],
  weights: readonly number[] = speakerWeights(channels.length),
): readonly number[] {
  const meter = new WeightedEnergy(weights);
  meter.push(channels);
  meter.end();
  return meter.hops;
}

/** Loudness of a mean weighted square. */
export const toLufs = (meanSquare: number): number =>
  meanSquare > 0 ? OFFSET_DB + 10 * Math.log10(meanSquare) : Number.NEGATIVE_INFINITY;

/**
 * Integrated loudness of a whole sound, gated in two steps (ITU-R BS.1770-5).
 *
 * @param channels  one or more arrays of equal length at 48 kHz, in WAV order
 * @param weights  loudness weight of each channel; without them those of the usual layout for so many channels
 * @returns LUFS; `-Infinity` when no block passes the gates, as for silence or less than 400 ms of sound
 */
export function integratedLoudness(channels: readonly Float32Array[], weights?: readonly number[]): number {
  return gatedLoudness(hopsOf(channels, weights), channels[0].length);
}

/** {@link integratedLoudness} from the energy of hops, of a sound of `length` samples. */
export function gatedLoudness(hops: readonly number[], length: number): number {
  const blockHops = Math.round(MOMENTARY_S * FRAME_RATE_HZ);
  const stepHops = Math.round(BLOCK_STEP_S * FRAME_RATE_HZ);
  const powers: number[] = [];
  for (let start = 0; (start + blockHops) * HOP_SAMPLES <= length; start += stepHops) {
    let sum = 0;
    for (let hop = start; hop < start + blockHops; hop++) sum += hops[hop];
    powers.push(sum / (blockHops * HOP_SAMPLES));
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
  return loudnessOfHops(hopsOf(channels), windowS);
}

/** {@link loudnessPerFrame} from the energy of hops. */
export function loudnessOfHops(hops: readonly number[], windowS: number = MOMENTARY_S): Float32Array {
  const half = Math.round((windowS * FRAME_RATE_HZ) / 2);
  const out = new Float32Array(hops.length);
  for (let frame = 0; frame < out.length; frame++) {
    let sum = 0;
    const end = Math.min(hops.length, frame + half);
    for (let hop = Math.max(0, frame - half); hop < end; hop++) sum += hops[hop];
    out[frame] = toLufs(sum / (2 * half * HOP_SAMPLES));
  }
  return out;
}

/**
 * Ungated loudness around one instant after another, for sounds that are heard as they come: the same numbers as
 * {@link loudnessPerFrame}, as a level whose dB are LUFS.
 */
export class LoudnessMeter {
  private readonly power: SlidingPower;

  /**
   * @param windowS  400 ms for momentary loudness, {@link SHORT_TERM_S} for short-term
   * @param weights  loudness weight of each channel, see `dsp/speakers`
   */
  constructor(windowS: number, weights: readonly number[]) {
    this.power = new SlidingPower(windowS, weights, { energy, memory: 6 });
  }

  /** `10^(LUFS / 20)`, 0 for silence; see {@link SlidingPower.at}. */
  levelAt(channels: readonly Float32Array[], centre: number, frame: number): number {
    return Math.sqrt(this.power.at(channels, centre, frame)) * 10 ** (OFFSET_DB / 20);
  }
}
