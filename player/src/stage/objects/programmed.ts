import type { Blend } from "@bumbrel/core/kinds/shared";
import { settingOf } from "@bumbrel/core/kinds/table";
import { Group } from "three";
import type { ImageLayer } from "../image/imageLayer";
import {
  type Frame,
  HIDDEN,
  numberAt,
  type ObjectSource,
  programFor,
  type RenderedObject,
} from "../renderedObject";

/** An object that is only seen in the finished picture: its layer, by its amount. */
function overPicture(
  source: ObjectSource,
  layer: ImageLayer | undefined,
  update: (frame: Frame) => void,
): RenderedObject {
  return {
    root: new Group(),
    imageLayer: layer,
    update(frame) {
      if (!layer) return;
      const isShown = source.state.placing.isShown(source.plan, frame.values);
      layer.amount.value = isShown ? numberAt(source, frame, "amount") : 0;
      update(frame);
    },
    read: (property) => (property === "amount" ? layer?.amount.value : undefined),
    drawnParts: () => (layer ? { amount: [layer.amount.value] } : HIDDEN),
    dispose() {},
  };
}

/** A picture pass of the user's own. */
export function makePicturePass(source: ObjectSource): RenderedObject {
  const program = programFor(source, source.object, "pass");
  const used = program && source.assets.programs()?.pass(program, source);
  return overPicture(source, used?.code, (frame) =>
    used?.follow(source.object, (key, axis) => numberAt(source, frame, key, axis)),
  );
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
  const rendered = overPicture(source, layer, (frame) => {
    ({ timeS } = frame);
    fade = numberAt(source, frame, "fade");
  });
  return {
    ...rendered,
    beforeImage(renderer, _stage, eye) {
      if (layer && layer.amount.value > 0) drawing.show(renderer, timeS, eye.aspect);
    },
    reachImage: (renderer, eye) =>
      layer && layer.amount.value > 0 ? drawing.reach(renderer, timeS, eye.aspect) : undefined,
    drawnParts: () => (layer ? { ...rendered.drawnParts(), fade: [fade] } : HIDDEN),
    dispose: () => drawing?.dispose(),
  };
}
