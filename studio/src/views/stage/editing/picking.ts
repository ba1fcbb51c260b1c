import { can } from "@bumbrel/core/kinds/table";
import { DIFFERENCE_LAYER } from "@bumbrel/player/stage/layers";
import type { Stage } from "@bumbrel/player/stage/stage";
import { Raycaster, Vector2 } from "three";

/** Farther than this nobody means to point. */
const MAX_DISTANCE_M = 200;
const raycaster = new Raycaster();

function aim({ camera }: Stage, x: number, y: number): void {
  raycaster.setFromCamera(new Vector2(x * 2 - 1, 1 - y * 2), camera);
  raycaster.layers.enable(DIFFERENCE_LAYER);
}

/** The object under a point of the image, x and y from 0 (left, top) to 1; `undefined` where there is none. */
export function objectAt(stage: Stage, x: number, y: number): string | undefined {
  stage.three.updateMatrixWorld();
  aim(stage, x, y);
  let nearest: { id: string; distance: number } | undefined;
  for (const [id, { rendered, source }] of stage.entries) {
    const { kind, locked } = source.object;
    if (locked || !can(kind).pointable || !rendered.root.visible) continue;
    const [hit] = raycaster.intersectObject(rendered.root, true);
    if (hit && (!nearest || hit.distance < nearest.distance)) nearest = { id, distance: hit.distance };
  }
  return nearest?.id;
}

/** The point at a height that lies under a point of the image; `undefined` where the camera looks past it. */
export function groundAt(
  stage: Stage,
  x: number,
  y: number,
  heightM: number,
): [number, number, number] | undefined {
  aim(stage, x, y);
  const { origin, direction } = raycaster.ray;
  const distance = (heightM - origin.y) / direction.y;
  if (!(distance > 0) || distance > MAX_DISTANCE_M) return undefined;
  return [origin.x + direction.x * distance, heightM, origin.z + direction.z * distance];
}
