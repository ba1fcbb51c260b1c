import { Color, Group } from "three";
import { type Frame, numberAt, type ObjectSource, type RenderedObject } from "../renderedObject";
import { setColour } from "./lights";

/** What the lens does to the image, as it is now. */
export interface LensLook {
  fogColour: Color;
  fog: number;
  bloom: number;
  bloomFrom: number;
  bloomReach: number;
  fringing: number;
  feedback: number;
  feedbackGrowth: number;
  feedbackTurn: number;
  vignette: number;
}
const NUMBERS = [
  "fog",
  "bloom",
  "bloomFrom",
  "bloomReach",
  "fringing",
  "feedback",
  "feedbackGrowth",
  "feedbackTurn",
  "vignette",
] as const;

export interface Lens extends RenderedObject {
  look: LensLook;
}

export function makeLens(source: ObjectSource): Lens {
  const look: LensLook = {
    fogColour: new Color(),
    fog: 0,
    bloom: 0,
    bloomFrom: 1,
    bloomReach: 0.5,
    fringing: 0,
    feedback: 0,
    feedbackGrowth: 1,
    feedbackTurn: 0,
    vignette: 0,
  };
  return {
    root: new Group(),
    look,
    update(frame: Frame) {
      setColour(look.fogColour, source, frame, "fogColour");
      for (const key of NUMBERS) look[key] = numberAt(source, frame, key);
    },
    read: (property) =>
      property === "fogColour" ? look.fogColour.toArray() : look[property as (typeof NUMBERS)[number]],
    drawnParts: () => ({
      fogColour: look.fogColour.toArray(),
      ...Object.fromEntries(NUMBERS.map((key) => [key, [look[key]]])),
    }),
    dispose() {},
  };
}
