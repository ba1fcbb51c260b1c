import { can } from "@bumbrel/core/kinds/table";
import type { StageEntry } from "@bumbrel/player/stage/renderedObject";
import type { Stage } from "@bumbrel/player/stage/stage";
import { Box3, type Object3D, Vector3 } from "three";

/** Size of the frame around what has no extent of its own. */
const SMALL = new Vector3(0.3, 0.3, 0.3);

export function boundsOf(root: Object3D): Box3 {
  root.updateMatrixWorld(true);
  return new Box3().setFromObject(root);
}

/**
 * Space that an object takes up on the stage as it is drawn now: a body all its copies without their wake, a drawing its
 * lines, a group all that is in it; a small box for what is only a place. Empty for what has no place.
 */
export function boundsOfObject(stage: Stage, id: string, seen = new Set<string>()): Box3 {
  const entry = stage.entries.get(id);
  if (!entry || seen.has(id)) return new Box3();
  seen.add(id);
  const { kind } = entry.source.object;
  const box = new Box3();
  if (can(kind).holdsObjects) {
    for (const { source } of stage.entries.values()) {
      if (source.object.parentId === id) box.union(boundsOfObject(stage, source.object.id, seen));
    }
  } else if (can(kind).pointable) box.copy(drawnBounds(entry));
  if (!box.isEmpty()) return box;
  const root = can(kind).placement ? stage.rootOf(id) : undefined;
  return root ? box.setFromCenterAndSize(new Vector3(root[12], root[13], root[14]), SMALL) : box;
}

function drawnBounds({ rendered, source }: StageEntry): Box3 {
  if (rendered.bounds) return rendered.bounds(new Box3());
  if (!can(source.object.kind).surface) return new Box3();
  const restore = rendered.limitCopies?.(Number.POSITIVE_INFINITY);
  const box = boundsOf(rendered.root);
  restore?.();
  return box;
}

/** Bounds of several objects together; of everything that can be pointed at when none are given. */
export function boundsOfObjects(stage: Stage, ids: readonly string[]): Box3 {
  const all = ids.length > 0 ? ids : [...stage.entries.keys()];
  const box = new Box3();
  for (const id of all) {
    const entry = stage.entries.get(id);
    if (ids.length > 0 || (entry && can(entry.source.object.kind).surface))
      box.union(boundsOfObject(stage, id));
  }
  return box;
}
