import type { Scene } from "@bumbrel/core/document/scene";
import { runningOf } from "@bumbrel/core/document/strands/running";
import type { Samples } from "@bumbrel/core/dsp/maths/samples";
import type { Sound } from "@bumbrel/core/sound/kinds";
import type { PlayableSound } from "./transport";

/**
 * A scene's sounds as a transport plays them.
 *
 * @param channelsOf  a sound's channels at 48 kHz, or `undefined` while they are missing
 * @returns those that are there, and the live ones
 */
export function playableSounds(
  scene: Scene,
  channelsOf: (sound: Sound) => readonly Samples[] | undefined,
): PlayableSound[] {
  return scene.sounds.map((sound) => {
    const { id, heard, muted, faderDb, pan, busId } = sound;
    const { runs, loops, unitId } = runningOf(scene, sound);
    const channels = channelsOf(sound);
    return { id, heard, muted, faderDb, pan, busId, runs, loops, unitId, channels };
  });
}
