import type { Scene } from "../../document/scene";
import { hasBodies } from "../../kinds/table";

/** Rigid bodies, and what they are computed with. */
type BodiesPart = typeof import("./bodiesPart");
type AnsweringPart = typeof import("../answers/answering");

/** Parts of the simulation that only some scenes need, as far as they have been loaded. */
const loaded: { answering?: AnsweringPart; bodies?: BodiesPart } = {};

/** The parts that are there. */
export const laterParts = (): Readonly<typeof loaded> => loaded;

/** True if a scene has answers, zones or bodies that are stepped for. */
export function needsAnswering(scene: Scene): boolean {
  return (
    scene.answers.some(({ on }) => on) ||
    scene.strands.some(({ listensTo }) => listensTo.kind === "zone") ||
    hasBodies(scene)
  );
}

/** True if all parts that a scene needs are there. */
export function hasPartsFor(scene: Scene): boolean {
  return (
    (loaded.answering !== undefined || !needsAnswering(scene)) &&
    (loaded.bodies !== undefined || !hasBodies(scene))
  );
}

/** Loads the parts that a scene needs: answers and bodies simulate nothing before that. */
export async function loadPartsFor(scene: Scene): Promise<void> {
  if (needsAnswering(scene)) loaded.answering ??= await import("../answers/answering");
  if (!hasBodies(scene) || loaded.bodies) return;
  const part = await import("./bodiesPart");
  await part.physics.init();
  loaded.bodies = part;
}
