import type { StageObject } from "@bumbrel/core/document/scene";
import { can } from "@bumbrel/core/kinds/table";
import { Raycaster, Vector2, type Vector3 } from "three";
import { DIFFERENCE_LAYER } from "./image/layers";
import type { Stage } from "./stage";

/** Farther than this nobody means to point. */
const MAX_DISTANCE_M = 200;
const raycaster = new Raycaster();

function aim({ camera }: Stage, x: number, y: number): void {
  raycaster.setFromCamera(new Vector2(x * 2 - 1, 1 - y * 2), camera);
  raycaster.layers.enable(DIFFERENCE_LAYER);
}

/** The first thing that a ray meets. */
export interface Hit {
  objectId: string;
  /** Which of its copies. */
  copy: number;
  point: [number, number, number];
}

/** A ray on the stage, metres. */
export interface Ray {
  from: [number, number, number];
  way: [number, number, number];
}

/** The object under a point of the image, x and y from 0 (left, top) to 1; `undefined` where there is none. */
export function objectAt(stage: Stage, x: number, y: number): string | undefined {
  aim(stage, x, y);
  return nearestHit(stage, ({ locked }) => !locked)?.objectId;
}

/** The ray through a point of the image, x and y from 0 (left, top) to 1. */
export function rayAt(stage: Stage, x: number, y: number): Ray {
  aim(stage, x, y);
  const { origin, direction } = raycaster.ray;
  return { from: origin.toArray(), way: direction.toArray() };
}

/**
 * Finds the first thing that a ray meets.
 *
 * @param mayBe  which objects count; all that can be pointed at without it
 */
export function hitAlong(
  stage: Stage,
  { from, way }: Ray,
  mayBe: (object: StageObject) => boolean = () => true,
): Hit | undefined {
  raycaster.ray.origin.set(...from);
  raycaster.ray.direction.set(...way);
  raycaster.near = 0;
  raycaster.far = Number.POSITIVE_INFINITY;
  raycaster.layers.enable(DIFFERENCE_LAYER);
  return nearestHit(stage, mayBe);
}

function nearestHit(stage: Stage, mayBe: (object: StageObject) => boolean): Hit | undefined {
  stage.three.updateMatrixWorld();
  let nearest: { id: string; distance: number; copy: number; point: Vector3 } | undefined;
  for (const [id, { rendered, source }] of stage.entries) {
    const { object } = source;
    if (!can(object.kind).pointable || !rendered.root.visible || !mayBe(object)) continue;
    const [hit] = raycaster.intersectObject(rendered.root, true);
    if (!hit || (nearest && hit.distance >= nearest.distance)) continue;
    nearest = { id, distance: hit.distance, copy: hit.instanceId ?? 0, point: hit.point };
  }
  return nearest && { objectId: nearest.id, copy: nearest.copy, point: nearest.point.toArray() };
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
