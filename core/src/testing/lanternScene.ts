import type { Binding, Scene } from "../document/scene";
import { newStrand } from "../document/strands/newStrand";
import { newBinding, newObject, newScene } from "../kinds/create";
import { newSoundBasics } from "../sound/kinds";

/** A sound, a strand of it and a lantern; for tests. */
export function lanternScene(): Scene {
  const scene = newScene("Quay");
  scene.sounds.push({ ...newSoundBasics("song", "Song"), kind: "file", storedId: "s1" });
  scene.strands.push(newStrand(scene, "kick", "Kick", { kind: "sound", id: "song", tap: "before" }));
  const lantern = newObject("lantern", "sphere", "Lantern");
  lantern.rest = { scale: [2, 2, 2], position: [1, 2, 3] };
  scene.objects.push(lantern);
  return scene;
}
/** An output range. */
export const range = (low: number, high: number) => ({ kind: "range" as const, low, high });
/** Binds a property of the lantern to the strand. */
export const bind = (scene: Scene, property: string, changes: Partial<Binding> = {}) => {
  const object = scene.objects.find(({ id }) => id === "lantern")!;
  scene.bindings.push({ ...newBinding(`b${scene.bindings.length}`, "kick", object, property), ...changes });
};
/** The strand at one value throughout, with a cue at the start. */
export const constant = (value: number) =>
  new Map([["kick", { width: 1, values: Float32Array.of(value), cues: [{ timeS: 0, strength: value }] }]]);
