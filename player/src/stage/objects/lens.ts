import { settingOf } from "@bumbrel/core/kinds/table";
import { Color, Group, Vector3 } from "three";
import type { ToneMappingMode } from "../image/toneMapping";
import { type Frame, numberAt, type ObjectSource, type RenderedObject } from "../renderedObject";
import { setColour } from "./lights";

const NUMBERS = [
  "exposure",
  "autoExposure",
  "fog",
  "bloom",
  "bloomFrom",
  "bloomReach",
  "fringing",
  "feedback",
  "feedbackGrowth",
  "feedbackTurn",
  "vignette",
  "occlusion",
  "occlusionRadius",
  "defocus",
  "focusDistance",
  "focusRange",
  "temperature",
  "saturation",
  "contrast",
  "lutAmount",
] as const;
const VECTORS = ["lift", "gamma", "gain"] as const;

/** Present effect of the lens on the image. */
export type LensLook = Record<(typeof NUMBERS)[number], number> &
  Record<(typeof VECTORS)[number], Vector3> & {
    fogColour: Color;
    toneMapping: ToneMappingMode;
    /** True if fog has the colour of the backdrop's horizon rather than its own. */
    fogOfBackdrop: boolean;
    /** Light of the brightest colour of the backdrop: what is no brighter does not bloom. */
    backdropLight: number;
  };

export interface Lens extends RenderedObject {
  look: LensLook;
}

export function makeLens(source: ObjectSource): Lens {
  const look = {
    ...(Object.fromEntries(NUMBERS.map((key) => [key, 0])) as Record<(typeof NUMBERS)[number], number>),
    lift: new Vector3(),
    gamma: new Vector3(1, 1, 1),
    gain: new Vector3(1, 1, 1),
    fogColour: new Color(),
    toneMapping: settingOf(source.object, "toneMapping") as ToneMappingMode,
    fogOfBackdrop: settingOf(source.object, "fogOfBackdrop") === true,
    backdropLight: 0,
  };
  // Before the first frame it is as it rests, so that what it needs can be loaded ahead.
  const update = (frame: Frame) => {
    if (!look.fogOfBackdrop) setColour(look.fogColour, source, frame, "fogColour");
    for (const key of NUMBERS) look[key] = numberAt(source, frame, key);
    for (const key of VECTORS) {
      look[key].set(
        numberAt(source, frame, key, 0),
        numberAt(source, frame, key, 1),
        numberAt(source, frame, key, 2),
      );
    }
  };
  return {
    root: new Group(),
    look,
    update,
    read: (property) => {
      const value = look[property as keyof LensLook];
      return typeof value === "number" ? value : value instanceof Object ? value.toArray() : undefined;
    },
    drawnParts: () => ({
      fogColour: look.fogColour.toArray(),
      ...Object.fromEntries(NUMBERS.map((key) => [key, [look[key]]])),
      ...Object.fromEntries(VECTORS.map((key) => [key, look[key].toArray()])),
    }),
    dispose() {},
  };
}
