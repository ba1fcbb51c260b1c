import { settingOf } from "@bumbrel/core/kinds/table";
import { Group } from "three";
import type { EnvironmentLook } from "../light/environmentLight";
import { numberAt, type ObjectSource, type RenderedObject } from "../renderedObject";

export interface Environment extends RenderedObject {
  light: EnvironmentLook;
}

/** Light from all round: the stage shows it. */
export function makeEnvironment(source: ObjectSource): Environment {
  const id = settingOf(source.object, "panoramaId");
  const light: EnvironmentLook = {
    scenery: settingOf(source.object, "scenery") as EnvironmentLook["scenery"],
    panorama: typeof id === "string" ? source.assets.panorama(id) : undefined,
    intensity: 1,
    turn: 0,
  };
  const read = (): Record<string, number> => ({ intensity: light.intensity, turn: light.turn });
  return {
    root: new Group(),
    light,
    update(frame) {
      light.intensity = numberAt(source, frame, "intensity");
      light.turn = numberAt(source, frame, "turn");
    },
    read: (property) => read()[property],
    drawnParts: () => ({ intensity: [light.intensity], turn: [light.turn] }),
    dispose() {},
  };
}
