import { analysePlan, type PlannedSound } from "@bumbrel/core/analyse/planned";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { mixToMono } from "@bumbrel/core/dsp/level/mix";
import type { SoundData } from "@bumbrel/core/sound/signal";
import { loadLater } from "@bumbrel/core/strand/measures/later/later";
import { fullPlan } from "./fullPlan";
import { numbersOf } from "./trackNumbers";
import type { Numbers, NumbersPlan, SoundSamples } from "./types";

export type { Cue, Numbers, NumbersPlan, SoundSamples, Strand } from "./types";

/** An `AbortSignal`, as far as it is needed here. */
export interface StopSignal {
  throwIfAborted(): void;
}

export interface ComputeOptions {
  /** Called with 0 to 1. */
  onProgress?(share: number): void;
  /** Stops the work. */
  signal?: StopSignal;
}

/** How long it works before it lets others run, ms. */
const TURN_MS = 8;

/**
 * Computes the numbers of a scene from the samples of its sounds: in a browser's thread, a worker or Node.
 *
 * @param plan  the file `numbers.json`
 * @param sounds  samples by each sound's name or id, at 48 000 Hz
 * @throws Error saying which sound is missing or has another rate; the reason of `signal` when it stops the work
 * @example
 * const plan = await (await fetch("numbers.json")).json();
 * const context = new AudioContext({ sampleRate: 48000 });
 * const song = await context.decodeAudioData(await (await fetch("song.opus")).arrayBuffer());
 * const numbers = await computeNumbers(plan, { Song: song });
 */
export async function computeNumbers(
  plan: NumbersPlan,
  sounds: Readonly<Record<string, SoundSamples>>,
  { onProgress, signal }: ComputeOptions = {},
): Promise<Numbers> {
  const full = fullPlan(plan);
  await loadLater(full.strands);
  const data = new Map(full.sounds.map((sound) => [sound.id, dataOf(sound, sounds)]));
  const work = analysePlan(full, (id) => data.get(id), onProgress);
  let turnEndsMs = performance.now() + TURN_MS;
  for (;;) {
    const { done, value } = work.next();
    if (done) {
      const { tracks, failures } = value;
      for (const [id, why] of failures) {
        const name = full.strands.find((strand) => strand.id === id)?.name;
        throw new Error(`The strand "${name}" cannot be computed: ${why}`);
      }
      return numbersOf(
        full.strands.flatMap(({ id, name }) => {
          const track = tracks.get(id);
          return track ? [{ id, name, track }] : [];
        }),
      );
    }
    if (performance.now() < turnEndsMs) continue;
    await new Promise((resolve) => setTimeout(resolve));
    signal?.throwIfAborted();
    turnEndsMs = performance.now() + TURN_MS;
  }
}

function dataOf(sound: PlannedSound, given: Readonly<Record<string, SoundSamples>>): SoundData {
  const samples = given[sound.name] ?? given[sound.id];
  if (!samples) throw new Error(`There are no samples of the sound "${sound.name}". Give them by its name.`);
  const channels = channelsOf(samples, sound.name);
  const { weights, notes, table } = sound;
  return {
    channels,
    mono: mixToMono(channels).samples,
    weights,
    ...(notes && { notes }),
    ...(table && { table }),
  };
}

function channelsOf(samples: SoundSamples, name: string): Float32Array[] {
  if (samples instanceof Float32Array) return [samples];
  if (!("sampleRate" in samples)) return [...samples];
  if (samples.sampleRate !== SAMPLE_RATE_HZ) {
    throw new Error(
      `The sound "${name}" has ${samples.sampleRate} samples a second, not ${SAMPLE_RATE_HZ}. Decode it in an AudioContext with { sampleRate: ${SAMPLE_RATE_HZ} }.`,
    );
  }
  return Array.from({ length: samples.numberOfChannels }, (_none, c) => samples.getChannelData(c));
}
