import type { Scene, Strand } from "./document";

/** The strands that some binding follows: the only ones a delivered scene has to compute. */
export function drivingStrands(scene: Scene): Strand[] {
  const bound = new Set(scene.bindings.map(({ strandId }) => strandId));
  return scene.strands.filter(({ id }) => bound.has(id));
}
