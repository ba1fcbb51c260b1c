import { can } from "@bumbrel/core/kinds/table";
import type { Stage } from "@bumbrel/player/stage/stage";
import { Box3, Box3Helper, type LineBasicMaterial, type Object3D, Vector3 } from "three";

/** Colour of the frame around a selected object: the interface's brass. */
const COLOUR = 0xe3b563;
/** Size of the frame around what has no surface of its own. */
const SMALL = new Vector3(0.3, 0.3, 0.3);
const MARGIN_M = 0.04;

export function boundsOf(root: Object3D): Box3 {
  root.updateMatrixWorld(true);
  return new Box3().setFromObject(root);
}

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
  }

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
      if (!entry || !frame.visible) continue;
      if (can(entry.source.object.kind).surface) {
        // Its copies without their wake.
        const restore = entry.rendered.limitCopies?.(Number.POSITIVE_INFINITY);
        frame.box.copy(boundsOf(entry.rendered.root)).expandByScalar(MARGIN_M);
        restore?.();
      } else frame.box.makeEmpty();
      if (!frame.box.isEmpty()) continue;
      const root = stage.rootOf(id);
      if (root) frame.box.setFromCenterAndSize(new Vector3(root[12], root[13], root[14]), SMALL);
    }
  }
}
