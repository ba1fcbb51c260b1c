import { platform } from "../../platform";
import { type Binding, type Keep, type Scene, TUNED_OF_BINDING } from "../scene";

/** All tunings of a scene as they are now, under a name. */
export function takeKeep(scene: Scene, id: string, name: string): Keep {
  return platform.structuredClone({
    id,
    name,
    strands: scene.strands.map(({ id, measure, shaping, cues }) => ({ id, measure, shaping, cues })),
    bindings: scene.bindings.map(
      (binding) =>
        Object.fromEntries(
          ["id", ...TUNED_OF_BINDING].map((key) => [key, binding[key as keyof Binding]]),
        ) as Keep["bindings"][number],
    ),
    programs: scene.programs.map(({ id, code }) => ({ id, code })),
  });
}

/**
 * Brings a scene's tunings back to a keep. What was added since stays as it is; what was removed since stays away.
 *
 * @returns another scene; what is the same in both is shared with the one given
 */
export function withKeep(scene: Scene, keep: Pick<Keep, "strands" | "bindings">): Scene {
  const strands = new Map(keep.strands.map((one) => [one.id, one]));
  const bindings = new Map(keep.bindings.map((one) => [one.id, one]));
  return {
    ...scene,
    strands: scene.strands.map((strand) => ({ ...strand, ...strands.get(strand.id) })),
    bindings: scene.bindings.map((binding) => ({ ...binding, ...bindings.get(binding.id) })),
  };
}
