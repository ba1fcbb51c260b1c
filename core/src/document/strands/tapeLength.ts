import { isMade, isStored } from "../../sound/kinds";
import type { Scene } from "../scene";
import { runsWithTape } from "./running";

/**
 * Seconds of a scene's tape: of the longest sound that runs with it.
 *
 * @param storedS  length of a stored sound by the id it is stored under; `undefined` where that is not known
 */
export function tapeLengthS(scene: Scene, storedS: (storedId: string) => number | undefined): number {
  return scene.sounds
    .filter((sound) => runsWithTape(scene, sound))
    .reduce((longest, sound) => {
      const own = isStored(sound) ? storedS(sound.storedId) : isMade(sound) ? sound.seconds : undefined;
      return Math.max(longest, own ?? 0);
    }, 0);
}
