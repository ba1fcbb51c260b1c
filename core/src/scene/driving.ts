import type { Scene, Sound, Strand } from "./document";
import { resolveListening } from "./listening";

/** The strands that some binding follows: the only ones a delivered scene has to compute. */
export function drivingStrands(scene: Scene): Strand[] {
  const bound = new Set(scene.bindings.map(({ strandId }) => strandId));
  return scene.strands.filter(({ id }) => bound.has(id));
}

/** The sounds a delivered scene needs: those that are heard, and those its driving strands listen to. */
export function neededSounds(scene: Scene): Sound[] {
  const listenedTo = new Set<string>();
  for (const { listensTo } of drivingStrands(scene)) {
    if (listensTo.kind === "sound") listenedTo.add(listensTo.id);
    for (const { soundId } of resolveListening(scene, listensTo)?.sounds ?? []) listenedTo.add(soundId);
  }
  return scene.sounds.filter(({ id, heard }) => heard || listenedTo.has(id));
}
