import { type Group, isLive, type Sound } from "../../sound/kinds";
import type { Runs } from "../../sound/mix";
import type { Scene } from "../scene";

/** How a sound runs. */
export interface Running {
  runs: Runs;
  loops: boolean;
  group: Group | undefined;
  /** Unit that it starts, seeks and loops with: its group, or itself. */
  unitId: string;
}

/** How a sound runs: by itself, or as its group does. */
export function runningOf(scene: Pick<Scene, "groups">, sound: Sound): Running {
  const group = scene.groups.find(({ id }) => id === sound.groupId);
  const { runs, loops, id: unitId } = group ?? sound;
  return { runs, loops, group, unitId };
}

/** True for a sound that starts, seeks and loops with the tape. */
export const runsWithTape = (scene: Pick<Scene, "groups">, sound: Sound): boolean =>
  !isLive(sound) && runningOf(scene, sound).runs === "tape";

/** Sounds of which the longest tells after how long a sound repeats; none where it does not. */
export function soundsOfLoop(scene: Scene, sound: Sound): Sound[] {
  const { loops, group } = runningOf(scene, sound);
  if (!loops) return [];
  return group ? scene.sounds.filter(({ groupId }) => groupId === group.id) : [sound];
}

/** Seconds after which a sound repeats: its own length, or that of the longest in its group; 0 if it does not loop. */
export function loopLengthS(scene: Scene, sound: Sound, lengthS: (sound: Sound) => number): number {
  return Math.max(0, ...soundsOfLoop(scene, sound).map(lengthS));
}

/** Sounds that answers start: they wait to be started. */
export function startedByAnswers(scene: Scene): ReadonlySet<string> {
  const ids = new Set<string>();
  for (const { on, actions } of scene.answers) {
    for (const action of on ? actions : []) {
      if (action.kind === "play" && action.soundId !== null) ids.add(action.soundId);
    }
  }
  return ids;
}
