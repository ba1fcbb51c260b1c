import type { ListensTo, Scene } from "../document/scene";
import { loopLengthS, runningOf, runsWithTape } from "../document/strands/running";
import { faderGain } from "../dsp/level/decibel";
import { distanceGain } from "../dsp/level/distance";
import { withSingletons } from "../kinds/create";
import { kindOf } from "../kinds/table";
import { isLive, type Place, type Sound } from "../sound/kinds";
import type { Listening } from "./hearing";

/** Metres from where the camera rests to a place. */
export function restingDistance(scene: Scene, place: Place): number {
  const camera = withSingletons(scene.objects).find(({ kind }) => kind === "camera");
  const eye = (camera?.rest.position ?? kindOf("camera").properties.position.default) as readonly number[];
  const object = scene.objects.find(({ id }) => id === place.objectId);
  const from = (object?.rest.position as readonly number[] | undefined) ?? place.position;
  return Math.hypot(...from.map((at, axis) => at - eye[axis]));
}

/** Gain by distance of the level that strands read. */
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
    .filter((sound) => sound.busId === id && sound.heard && runsWithTape(scene, sound))
    .map((sound) => ({
      soundId: sound.id,
      gain: busGain * analysedDistanceGain(scene, sound) * faderOf(sound),
      loops: runningOf(scene, sound).loops,
    }))
    .filter(({ gain }) => gain > 0);
  return { kind, sounds };
}

/** Seconds after which what a strand listens to repeats; 0 if it does not loop. */
export function loopOf(scene: Scene, listensTo: ListensTo, lengthS: (sound: Sound) => number): number {
  if (listensTo.kind !== "sound") return 0;
  const sound = scene.sounds.find(({ id }) => id === listensTo.id);
  return sound ? loopLengthS(scene, sound, lengthS) : 0;
}
