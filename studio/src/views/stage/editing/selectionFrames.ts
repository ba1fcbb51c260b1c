import { can, settingOf } from "@bumbrel/core/kinds/table";
import type { ZoneShape } from "@bumbrel/core/kinds/visiting";
import type { Stage } from "@bumbrel/player/stage/stage";
import type { StageEntry } from "@bumbrel/player/stage/stageObjects";
import {
  Box3,
  Box3Helper,
  BoxGeometry,
  CylinderGeometry,
  EdgesGeometry,
  LineBasicMaterial,
  LineSegments,
  SphereGeometry,
  Vector3,
} from "three";
import { boundsOfObject } from "./bounds";

/** Colour of the frame around a selected object: the interface's brass. */
const COLOUR = 0xe3b563;
const MARGIN_M = 0.04;

/** Frames around the selected objects, drawn over the image. */
export class SelectionFrames {
  private readonly stage: Stage;
  private readonly frames: Box3Helper[] = [];
  private selected: readonly string[] = [];
  private readonly stop: () => void;

  constructor(stage: Stage) {
    this.stage = stage;
    this.stop = stage.beforeRender(() => this.update());
  }

  show(objectIds: readonly string[]): void {
    this.selected = objectIds;
    this.stage.redraw();
  }

  dispose(): void {
    this.stop();
    for (const frame of this.frames) {
      this.stage.overlay.remove(frame);
      frame.dispose();
    }
    for (const zone of this.zones) zone?.removeFromParent();
  }

  /** A zone is unseen; chosen, its outline is drawn where it is. */
  private showZone(i: number, id: string, { source }: StageEntry): void {
    const shape = settingOf(source.object, "shape") as ZoneShape;
    let zone = this.zones[i];
    if (zone?.name !== shape) {
      zone?.removeFromParent();
      zone = zoneOutline(shape);
      this.zones[i] = zone;
    }
    const root = this.stage.rootOf(id);
    const slot = source.plan.at.size;
    if (!root || !slot) return;
    const { values } = source.state;
    zone.matrixAutoUpdate = false;
    zone.matrix
      .fromArray(root)
      .scale(new Vector3(values[slot.offset], values[slot.offset + 1], values[slot.offset + 2]));
    this.stage.overlay.add(zone);
  }
  private readonly zones: LineSegments[] = [];

  private update(): void {
    const { stage, frames, selected } = this;
    while (frames.length < selected.length) {
      const frame = new Box3Helper(new Box3(), COLOUR);
      (frame.material as LineBasicMaterial).toneMapped = false;
      frames.push(frame);
      stage.overlay.add(frame);
    }
    for (const [i, frame] of frames.entries()) {
      const id = selected[i];
      const entry = id === undefined ? undefined : stage.entries.get(id);
      frame.visible = entry !== undefined && can(entry.source.object.kind).pointable === true;
      if (id !== undefined && entry?.source.object.kind === "zone") {
        frame.visible = false;
        this.showZone(i, id, entry);
        continue;
      }
      this.zones[i]?.removeFromParent();
      if (id !== undefined && frame.visible)
        frame.box.copy(boundsOfObject(stage, id)).expandByScalar(MARGIN_M);
    }
  }
}

/** Lines round a zone that is a metre wide, high and deep. */
function zoneOutline(shape: ZoneShape): LineSegments {
  const solid =
    shape === "box"
      ? new BoxGeometry(1, 1, 1)
      : shape === "ball"
        ? new SphereGeometry(0.5, 16, 10)
        : new CylinderGeometry(0.5, 0.5, 1, 32);
  const lines = new LineSegments(
    new EdgesGeometry(solid, 1),
    new LineBasicMaterial({ color: COLOUR, transparent: true, opacity: 0.8, toneMapped: false }),
  );
  lines.name = shape;
  solid.dispose();
  return lines;
}
