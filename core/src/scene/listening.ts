import { SAMPLE_RATE_HZ } from "../constants";
import { faderGain } from "../dsp/decibel";
import { distanceGain } from "../dsp/distance";
import type { Signal } from "../strand/signal";
import {
  type Group,
  isLive,
  type ListensTo,
  type Place,
  type Runs,
  type Scene,
  type Sound,
} from "./document";
import { withSingletons } from "./evaluate";
import { OBJECT_KINDS } from "./objectKinds";

/** One sound of what a strand hears. */
export interface ListenedSound {
  soundId: string;
  /** Linear. */
  gain: number;
  /** Whether it goes round while the others go on. */
  loops: boolean;
}

/** What a strand hears: one sound, or the sum of a bus. */
export interface Listening {
  kind: "sound" | "bus";
  sounds: ListenedSound[];
}

/** How a sound runs. */
export interface Running {
  runs: Runs;
  loops: boolean;
  group: Group | undefined;
  /** What it starts, seeks and loops with: its group, or itself. */
  unitId: string;
}

/** How a sound runs: by itself, or as its group does. */
export function runningOf(scene: Scene, sound: Sound): Running {
  const group = scene.groups.find(({ id }) => id === sound.groupId);
  const { runs, loops, id: unitId } = group ?? sound;
  return { runs, loops, group, unitId };
}

/** Seconds after which a sound goes round by itself: its own length, or that of its group's longest; 0 if never. */
export function loopLengthS(scene: Scene, sound: Sound, lengthS: (sound: Sound) => number): number {
  const { loops, group } = runningOf(scene, sound);
  if (!loops) return 0;
  if (!group) return lengthS(sound);
  return Math.max(...scene.sounds.filter(({ groupId }) => groupId === group.id).map(lengthS));
}

/** Metres from where the camera rests to a place. */
export function restingDistance(scene: Scene, place: Place): number {
  const camera = withSingletons(scene.objects).find(({ kind }) => kind === "camera");
  const eye = (camera?.rest.position ?? OBJECT_KINDS.camera.properties.position.default) as readonly number[];
  return Math.hypot(...place.position.map((at, axis) => at - eye[axis]));
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
 * @returns `undefined` when it listens to nothing, to something that is gone, to a live sound or to other strands
 */
export function resolveListening(scene: Scene, listensTo: ListensTo): Listening | undefined {
  if (listensTo.kind === "nothing" || listensTo.kind === "strands") return undefined;
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
  { kind, sounds }: Listening,
  signalOf: (soundId: string) => Signal | undefined,
  tapeS: number,
): Signal | undefined {
  const signals = sounds.map(({ soundId }) => signalOf(soundId));
  if (signals.includes(undefined)) return undefined;
  const own = signals as Signal[];
  if (kind === "sound") {
    const { gain } = sounds[0];
    if (gain === 1) return own[0];
    const louder = (samples: Float32Array) => samples.map((sample) => sample * gain);
    return { ...own[0], samples: louder(own[0].samples), channels: own[0].channels?.map(louder) };
  }
  const out = new Float32Array(Math.round(tapeS * SAMPLE_RATE_HZ));
  own.forEach(({ samples }, i) => {
    const { gain, loops } = sounds[i];
    const end = loops ? out.length : Math.min(out.length, samples.length);
    for (let at = 0; at < end; at += samples.length) {
      const count = Math.min(samples.length, end - at);
      for (let k = 0; k < count; k++) out[at + k] += gain * samples[k];
    }
  });
  return { samples: out };
}

/** Seconds after which what a strand hears goes round, if it does so by itself. */
export function loopOf(scene: Scene, listensTo: ListensTo, lengthS: (sound: Sound) => number): number {
  if (listensTo.kind !== "sound") return 0;
  const sound = scene.sounds.find(({ id }) => id === listensTo.id);
  return sound ? loopLengthS(scene, sound, lengthS) : 0;
}
