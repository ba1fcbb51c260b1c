import { toggle } from "../../setting/descriptor";
import { colour, number, vector, within } from "../../setting/property";
import type { ObjectKindDeclaration } from "../declaration";
import { PLACE, placed, SHARE, visibility } from "../shared";

const { position } = placed;
const falloff = number(
  "Falloff distance",
  "m",
  [0, 1000, 0.1],
  0,
  10,
  "Where the light ends; 0 fades by the inverse square alone.",
);
const LAMP = { placement: "moved", grouped: true, pointable: true } as const;

const casting = {
  shadowSoftness: number("Shadow softness", "", SHARE, 0.4, 0.6, "0 is a sharp edge, 1 a very soft one.", {
    when: { setting: "castsShadows", is: [true] },
  }),
};
const castingSettings = {
  castsShadows: within("main", toggle("Casts shadows", true, "What stands in its light throws a shadow.")),
};

export const LIGHTS = {
  pointLight: {
    label: "Lamp",
    help: "Light from a point, the same in all directions.",
    shelf: "lights",
    can: LAMP,
    properties: {
      position,
      colour: colour("Colour", "#ffd9a0", "Colour of the light.", { role: "lamp" }),
      intensity: number("Intensity", "cd", [0, 2000, 0.1], 30, 120, "Luminous intensity."),
      reach: falloff,
      ...casting,
      visibility,
    },
    settings: castingSettings,
  },
  spotLight: {
    label: "Spotlight",
    help: "Light from a point in a cone.",
    shelf: "lights",
    can: LAMP,
    properties: {
      position: { ...position, default: [0, 5, 3] },
      target: vector("Target", "m", PLACE, [0, 0, 0], 2, "The point in the middle of its light."),
      colour: colour("Colour", "#ffe6bf", "Colour of the light.", { role: "lamp" }),
      intensity: number("Intensity", "cd", [0, 5000, 0.1], 120, 400, "Luminous intensity."),
      angle: number("Cone angle", "°", [1, 85, 1], 24, 20, "From the middle of the cone to its edge."),
      softness: number("Edge softness", "", SHARE, 0.4, 0.6, "0 is a sharp edge, 1 has none."),
      reach: falloff,
      ...casting,
      visibility,
    },
    settings: castingSettings,
  },
  sunLight: {
    label: "Sun or moon",
    help: "Light from far away, in one direction.",
    shelf: "lights",
    can: LAMP,
    properties: {
      position: vector("Direction from", "m", PLACE, [4, 8, 3], 6, "It shines from here towards the origin."),
      colour: colour("Colour", "#9fc4d8", "Colour of the light.", { role: "lamp" }),
      intensity: number("Intensity", "lx", [0, 100, 0.01], 1, 3, "Illuminance on a surface that faces it."),
      ...casting,
      visibility,
    },
    settings: castingSettings,
  },
  ambientLight: {
    label: "Ambient light",
    help: "Light from everywhere, without shadows or direction.",
    shelf: "lights",
    can: { grouped: true },
    properties: {
      colour: colour("Colour", "#88a8b0", "Colour of the light.", { role: "lamp" }),
      intensity: number("Intensity", "lx", [0, 100, 0.01], 0.4, 2, "Illuminance on every surface."),
      visibility,
    },
    settings: {},
  },
} as const satisfies Record<string, ObjectKindDeclaration>;
