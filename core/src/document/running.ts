import type { Group, Sound } from "../sound/kinds";
import type { Runs } from "../sound/mix";
import type { Scene } from "./scene";

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

/** Seconds after which a sound repeats: its own length, or that of the longest in its group; 0 if it does not loop. */
export function loopLengthS(scene: Scene, sound: Sound, lengthS: (sound: Sound) => number): number {
  const { loops, group } = runningOf(scene, sound);
  if (!loops) return 0;
  if (!group) return lengthS(sound);
  return Math.max(...scene.sounds.filter(({ groupId }) => groupId === group.id).map(lengthS));
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
