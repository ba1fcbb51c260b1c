import type { Asset, Scene, Strand } from "../document/scene";
import { inMakingOrder } from "../document/strands";
import type { Sound } from "../sound/kinds";
import { resolveListening } from "./listening";

/**
 * The strands that some binding follows, and those they are made of: the only ones a delivered scene has to compute.
 * Each comes after what it is made of; a muted one drives nothing.
 */
export function drivingStrands(scene: Scene): Strand[] {
  const bound = new Set(scene.bindings.map(({ strandId }) => strandId));
  return inMakingOrder(
    scene,
    scene.strands.filter(({ id, muted }) => bound.has(id) && !muted),
  );
}

/** The images and models that some object shows. */
export function neededAssets(scene: Scene): Asset[] {
  const shown = new Set(scene.objects.flatMap(({ settings }) => Object.values(settings)));
  return scene.assets.filter(({ id }) => shown.has(id));
}

/**
 * The sounds a delivered scene needs: those that are heard, those its driving strands listen to, and those whose
 * waveform something on the stage follows.
 */
export function neededSounds(scene: Scene): Sound[] {
  const listenedTo = new Set<string>();
  for (const { listensTo } of drivingStrands(scene)) {
    if (listensTo.kind === "sound") listenedTo.add(listensTo.id);
    for (const { soundId } of resolveListening(scene, listensTo)?.sounds ?? []) listenedTo.add(soundId);
  }
  for (const { settings } of scene.objects) {
    if (typeof settings.soundId === "string") listenedTo.add(settings.soundId);
  }
  return scene.sounds.filter(({ id, heard }) => heard || listenedTo.has(id));
}
