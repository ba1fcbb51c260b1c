import type { Scene } from "@bumbrel/core/document/scene";
import type { Sound } from "@bumbrel/core/sound/kinds";

/** True if a sound has frequencies to show; a keyboard has notes only. */
export const hasSpectrum = (sound: Sound) => sound.kind !== "keys";

/** The sound on the spine: the one that was chosen, else the first that is heard, else the first. */
export function shownSound(scene: Scene, looking: { soundId?: string | undefined }): Sound | undefined {
  const sounds = scene.sounds.filter(hasSpectrum);
  return sounds.find(({ id }) => id === looking.soundId) ?? sounds.find(({ heard }) => heard) ?? sounds[0];
}
