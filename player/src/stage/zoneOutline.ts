import type { ZoneShape } from "@bumbrel/core/kinds/shelves/visiting";
import { settingOf } from "@bumbrel/core/kinds/table";
import {
  BoxGeometry,
  CylinderGeometry,
  EdgesGeometry,
  LineBasicMaterial,
  LineSegments,
  SphereGeometry,
  Vector3,
} from "three";
import type { StageEntry } from "./renderedObject";
import type { Stage } from "./stage";

/** Brass: what is marked on the stage. */
export const MARK_COLOUR = 0xe3b563;
const SIZE = new Vector3();

/** Lines along the edges of a zone, which is unseen itself. */
export class ZoneOutline {
  readonly lines = new LineSegments(
    undefined,
    new LineBasicMaterial({ color: MARK_COLOUR, transparent: true, opacity: 0.8, toneMapped: false }),
  );
  private shape: ZoneShape | undefined;

  constructor() {
    this.lines.matrixAutoUpdate = false;
  }

  /**
   * Puts the lines where the zone is.
   *
   * @returns whether the zone has a place
   */
  follow(stage: Stage, id: string, { source }: Pick<StageEntry, "source">): boolean {
    const shape = settingOf(source.object, "shape") as ZoneShape;
    if (shape !== this.shape) {
      this.lines.geometry.dispose();
      this.lines.geometry = edgesOf(shape);
      this.shape = shape;
    }
    const root = stage.rootOf(id);
    const slot = source.plan.at.size;
    if (!root || !slot) return false;
    const { values } = source.state;
    SIZE.set(values[slot.offset], values[slot.offset + 1], values[slot.offset + 2]);
    this.lines.matrix.fromArray(root).scale(SIZE);
    this.lines.matrixWorldNeedsUpdate = true;
    return true;
  }

  dispose(): void {
    this.lines.removeFromParent();
    this.lines.geometry.dispose();
    this.lines.material.dispose();
  }
}

/** Edges of a zone that is a metre wide, high and deep. */
function edgesOf(shape: ZoneShape): EdgesGeometry {
  const solid =
    shape === "box"
      ? new BoxGeometry(1, 1, 1)
      : shape === "ball"
        ? new SphereGeometry(0.5, 16, 10)
        : new CylinderGeometry(0.5, 0.5, 1, 32);
  const edges = new EdgesGeometry(solid, 1);
  solid.dispose();
  return edges;
}
