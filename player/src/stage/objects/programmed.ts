import type { Blend } from "@bumbrel/core/kinds/shared";
import { settingOf } from "@bumbrel/core/kinds/table";
import { Group } from "three";
import { HIDDEN, numberAt, type ObjectSource, programFor, type RenderedObject } from "../renderedObject";

/** A picture pass of the user's own. */
export function makePicturePass(source: ObjectSource): RenderedObject {
  const program = programFor(source, source.object, "pass");
  const used = program && source.assets.programs()?.pass(program, source);
  const layer = used?.code;
  return {
    root: new Group(),
    imageLayer: layer,
    update(frame) {
      if (!layer) return;
      const isShown = source.state.placing.isShown(source.plan, frame.values);
      layer.amount.value = isShown ? numberAt(source, frame, "amount") : 0;
      used.follow(source.object, (key, axis) => numberAt(source, frame, key, axis));
    },
    read: (property) => (property === "amount" ? layer?.amount.value : undefined),
    drawnParts: () => (layer ? { amount: [layer.amount.value] } : HIDDEN),
    dispose() {},
  };
}

/** A drawing over the whole picture. */
export function makeDrawingOver(source: ObjectSource): RenderedObject {
  const { assets, object } = source;
  const program = programFor(source, object, "drawing");
  const programs = program && assets.programs();
  const drawing = program && assets.drawing(program, source);
  const layer = drawing && programs?.over(drawing, settingOf(object, "blend") as Blend);
  let timeS = 0;
  let fade = 0;
  return {
    root: new Group(),
    imageLayer: layer,
    update(frame) {
      if (!layer) return;
      const isShown = source.state.placing.isShown(source.plan, frame.values);
      layer.amount.value = isShown ? numberAt(source, frame, "amount") : 0;
      ({ timeS } = frame);
      fade = numberAt(source, frame, "fade");
    },
    beforeImage(renderer, _stage, eye) {
      if (layer && layer.amount.value > 0) drawing.show(renderer, timeS, eye.aspect);
    },
    read: (property) => (property === "amount" ? layer?.amount.value : undefined),
    drawnParts: () => (layer ? { amount: [layer.amount.value], fade: [fade] } : HIDDEN),
    dispose: () => drawing?.dispose(),
  };
}
