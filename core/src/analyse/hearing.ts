import { FRAME_RATE_HZ, SAMPLE_RATE_HZ } from "../constants";
import { LongSamples, type Samples, SumSamples } from "../dsp/maths/samples";
import { finish, type Sliced } from "../dsp/maths/slices";
import type { Signal } from "../strand/hearing/signal";
import type { Track } from "../strand/track";

/** One sound of what a strand hears. */
export interface ListenedSound {
  soundId: string;
  /** Linear. */
  gain: number;
  /** True when the sound loops on its own, independent of the others. */
  loops: boolean;
}

/** The sounds that a strand hears: one, or the sum of a bus. */
export interface Listening {
  kind: "sound" | "bus";
  sounds: ListenedSound[];
}

/**
 * The signal a strand hears.
 *
 * @param signalOf  each sound's own signal, or `undefined` while it is missing
 * @param tapeS  length of the tape in seconds: a bus is as long
 * @returns `undefined` while a sound of it is missing
 */
export function hear(
  listening: Listening,
  signalOf: (soundId: string) => Signal | undefined,
  tapeS: number,
): Signal | undefined {
  return finish(hearSliced(listening, signalOf, tapeS));
}

/** Samples mixed between two chances to stop. */
const SAMPLES_A_SLICE = 10 * SAMPLE_RATE_HZ;

/** {@link hear} in slices. */
export function* hearSliced(
  { kind, sounds }: Listening,
  signalOf: (soundId: string) => Signal | undefined,
  tapeS: number,
): Sliced<Signal | undefined> {
  const signals = sounds.map(({ soundId }) => signalOf(soundId));
  if (signals.includes(undefined)) return undefined;
  const own = signals as Signal[];
  const isLong = own.some(({ samples }) => samples instanceof LongSamples);
  if (kind === "sound") {
    const { gain } = sounds[0];
    if (gain === 1) return own[0];
    if (isLong) {
      const louder = (samples: Samples) => new SumSamples([{ samples, gain, loops: false }], samples.length);
      return { ...own[0], samples: louder(own[0].samples), channels: own[0].channels?.map(louder) };
    }
    const channels: Float32Array[] = [];
    for (const channel of own[0].channels ?? []) channels.push(yield* scaled(channel as Float32Array, gain));
    const samples = yield* scaled(own[0].samples as Float32Array, gain);
    return { ...own[0], samples, channels: own[0].channels && channels };
  }
  const length = Math.round(tapeS * SAMPLE_RATE_HZ);
  if (isLong) {
    return {
      samples: new SumSamples(
        own.map(({ samples }, i) => ({ samples, ...sounds[i] })),
        length,
      ),
    };
  }
  const out = new Float32Array(length);
  for (const [i, { samples: all }] of own.entries()) {
    const samples = all as Float32Array;
    const { gain, loops } = sounds[i];
    const end = loops ? out.length : Math.min(out.length, samples.length);
    for (let from = 0; from < end; from += SAMPLES_A_SLICE) {
      const to = Math.min(end, from + SAMPLES_A_SLICE);
      for (let k = from; k < to; k++) out[k] += gain * samples[loops ? k % samples.length : k];
      yield;
    }
  }
  return { samples: out };
}

function* scaled(samples: Float32Array, gain: number): Sliced<Float32Array> {
  const out = new Float32Array(samples.length);
  for (let from = 0; from < samples.length; from += SAMPLES_A_SLICE) {
    const to = Math.min(samples.length, from + SAMPLES_A_SLICE);
    for (let i = from; i < to; i++) out[i] = samples[i] * gain;
    yield;
  }
  return out;
}

/**
 * The signal of a combined strand: the tracks of the strands it is made of.
 *
 * @param tracks  those it is made of, in order
 * @param tapeS  length of the tape in seconds: it is as long
 * @returns `undefined` while one of them is missing, or when there are none
 */
export function strandsSignal(tracks: readonly (Track | undefined)[], tapeS: number): Signal | undefined {
  if (tracks.length === 0 || tracks.includes(undefined)) return undefined;
  const frames = Math.ceil(tapeS * FRAME_RATE_HZ - 1e-6);
  return { samples: new Float32Array(0), frames, strands: tracks as Track[] };
}
