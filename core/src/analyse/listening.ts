import { FRAME_RATE_HZ, SAMPLE_RATE_HZ } from "../constants";
import { loopLengthS, runningOf } from "../document/running";
import type { ListensTo, Scene } from "../document/scene";
import { faderGain } from "../dsp/decibel";
import { distanceGain } from "../dsp/distance";
import { LongSamples, type Samples, SumSamples } from "../dsp/samples";
import { finish, type Sliced } from "../dsp/slices";
import { withSingletons } from "../kinds/create";
import { kindOf } from "../kinds/table";
import { isLive, type Place, type Sound } from "../sound/kinds";
import type { Signal } from "../strand/signal";
import type { Track } from "../strand/track";

/** One sound of what a strand hears. */
export interface ListenedSound {
  soundId: string;
  /** Linear. */
  gain: number;
  /** Whether the sound loops on its own, independent of the others. */
  loops: boolean;
}

/** What a strand hears: one sound, or the sum of a bus. */
export interface Listening {
  kind: "sound" | "bus";
  sounds: ListenedSound[];
}

/** Metres from where the camera rests to a place. */
export function restingDistance(scene: Scene, place: Place): number {
  const camera = withSingletons(scene.objects).find(({ kind }) => kind === "camera");
  const eye = (camera?.rest.position ?? kindOf("camera").properties.position.default) as readonly number[];
  const object = scene.objects.find(({ id }) => id === place.objectId);
  const from = (object?.rest.position as readonly number[] | undefined) ?? place.position;
  return Math.hypot(...from.map((at, axis) => at - eye[axis]));
}

/** What distance does to the level that strands read. */
export function analysedDistanceGain(scene: Scene, { place }: Sound): number {
  return place?.analysedFollows ? distanceGain(place, restingDistance(scene, place)) : 1;
}

const faderOf = ({ muted, faderDb }: { muted: boolean; faderDb: number }) => (muted ? 0 : faderGain(faderDb));

/**
 * Resolves what a strand listens to into sounds and gains. A bus is the sum of the sounds that are heard
 * through it and run with the tape; pan changes nothing, since strands hear the mean of all channels.
 *
 * @returns `undefined` when it listens to nothing, to something that is gone, to a live sound, to a zone or to other strands
 */
export function resolveListening(scene: Scene, listensTo: ListensTo): Listening | undefined {
  if (listensTo.kind !== "sound" && listensTo.kind !== "bus") return undefined;
  const { kind, id, tap } = listensTo;
  if (kind === "sound") {
    const sound = scene.sounds.find((one) => one.id === id);
    if (!sound || isLive(sound)) return undefined;
    const gain = analysedDistanceGain(scene, sound) * (tap === "after" ? faderOf(sound) : 1);
    return { kind, sounds: [{ soundId: id, gain, loops: false }] };
  }
  const bus = scene.buses.find((one) => one.id === id);
  if (!bus) return undefined;
  const busGain = tap === "after" ? faderOf(bus) : 1;
  const sounds = scene.sounds
    .filter((sound) => sound.busId === id && sound.heard && !isLive(sound))
    .filter((sound) => runningOf(scene, sound).runs === "tape")
    .map((sound) => ({
      soundId: sound.id,
      gain: busGain * analysedDistanceGain(scene, sound) * faderOf(sound),
      loops: runningOf(scene, sound).loops,
    }))
    .filter(({ gain }) => gain > 0);
  return { kind, sounds };
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

/** Seconds after which what a strand listens to repeats; 0 if it does not loop. */
export function loopOf(scene: Scene, listensTo: ListensTo, lengthS: (sound: Sound) => number): number {
  if (listensTo.kind !== "sound") return 0;
  const sound = scene.sounds.find(({ id }) => id === listensTo.id);
  return sound ? loopLengthS(scene, sound, lengthS) : 0;
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
