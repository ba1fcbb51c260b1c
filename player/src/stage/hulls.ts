import { settingOf, solidityOf } from "@bumbrel/core/kinds/table";
import { InstancedMesh } from "three";
import type { StageEntry } from "./renderedObject";

/** A hull has far fewer corners than a model has points: so many of them are looked at. */
const MOST_POINTS = 600;

/** True for a solid model that collides by its hull. */
const needsHull = ({ source: { object } }: StageEntry): boolean =>
  object.kind === "model" &&
  solidityOf(object) !== "none" &&
  ["own", "hull"].includes(settingOf(object, "solidShape") as string);

/**
 * Points of the surfaces of solid models that have arrived, by object, in units of the object's size.
 */
export function hullsOf(entries: Iterable<[string, StageEntry]>): Map<string, Float32Array> {
  const hulls = new Map<string, Float32Array>();
  for (const [id, entry] of entries) {
    if (!needsHull(entry)) continue;
    const points: number[] = [];
    entry.rendered.root.traverse((node) => {
      if (!(node instanceof InstancedMesh)) return;
      const { position } = node.geometry.attributes;
      const every = Math.max(1, Math.ceil(position.count / MOST_POINTS));
      for (let i = 0; i < position.count; i += every) {
        points.push(position.getX(i), position.getY(i), position.getZ(i));
      }
    });
    if (points.length >= 12) hulls.set(id, Float32Array.from(points));
  }
  return hulls;
}
