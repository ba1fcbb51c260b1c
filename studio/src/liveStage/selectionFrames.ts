import { can } from "@bumbrel/core/kinds/table";
import type { StageEntry } from "@bumbrel/player/stage/renderedObject";
import type { Stage } from "@bumbrel/player/stage/stage";
import { MARK_COLOUR, ZoneOutline } from "@bumbrel/player/stage/zoneOutline";
import { Box3, Box3Helper, type LineBasicMaterial } from "three";
import { boundsOfObject } from "./bounds";

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
    for (const zone of this.zones) zone?.dispose();
  }

  /** A zone is unseen; chosen, its outline is drawn where it is. */
  private showZone(i: number, id: string, entry: StageEntry): void {
    this.zones[i] ??= new ZoneOutline();
    if (this.zones[i].follow(this.stage, id, entry)) this.stage.overlay.add(this.zones[i].lines);
  }
  private readonly zones: ZoneOutline[] = [];

  private update(): void {
    const { stage, frames, selected } = this;
    while (frames.length < selected.length) {
      const frame = new Box3Helper(new Box3(), MARK_COLOUR);
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
      this.zones[i]?.lines.removeFromParent();
      if (id !== undefined && frame.visible)
        frame.box.copy(boundsOfObject(stage, id)).expandByScalar(MARGIN_M);
    }
  }
}
