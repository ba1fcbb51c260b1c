import { colour, number } from "../../setting/property";
import type { ObjectKindDeclaration } from "../declaration";
import { GLOW, onCamera, placed, SHARE, solidBody, solidSettings, surface, visibility } from "../shared";

const { position } = placed;
/** Flat surfaces mirror what stands on them, and end softly. */
const flat = {
  edgeFade: number(
    "Edge fade",
    "",
    SHARE,
    0.5,
    0.5,
    "Share of its extent over which it fades out towards the edge.",
  ),
};
const reflection = number("Reflection", "", SHARE, 0.5, 0.5, "How clearly what stands on it is mirrored.");
const SURROUNDING = { placement: "moved", grouped: true } as const;

export const SURROUNDINGS = {
  ground: {
    label: "Ground",
    help: "A floor, plain or with a grid of lines.",
    shelf: "around",
    can: { ...SURROUNDING, solid: true },
    properties: {
      position,
      extent: number("Extent", "m", [1, 1000, 1], 60, 60, "From edge to edge."),
      colour: colour("Colour", "#10272f", "Colour of the floor.", { role: "floor" }),
      roughness: surface.roughness,
      metalness: surface.metalness,
      reflection: { ...reflection, default: 0.3 },
      contactShadow: number(
        "Contact shadow",
        "",
        SHARE,
        0.6,
        0.4,
        "How dark it is below what stands on it or floats just above it.",
      ),
      contactReach: number(
        "Contact reach",
        "m",
        [0.01, 20, 0.01],
        0.5,
        0.5,
        "Height up to which things darken it.",
      ),
      ...flat,
      lineColour: colour("Line colour", "#3d5a57", "Colour of the lines.", { role: "line" }),
      lineGlow: number("Line emission", "×", GLOW, 0.6, 3, "Strength of the lines’ light."),
      lineEvery: number("Line spacing", "m", [0, 50, 0.1], 1, 1, "From line to line; 0 draws none."),
      visibility,
      bounce: solidBody.bounce,
      friction: solidBody.friction,
    },
    settings: {
      solid: {
        ...solidSettings.solid,
        values: ["none", "fixed"],
        choices: { none: "no", fixed: "yes" },
        default: "fixed",
        help: "Whether bodies and visitors stand on it.",
      },
      ...onCamera("hidden"),
    },
  },
  water: {
    label: "Water",
    help: "A surface of moving waves.",
    shelf: "around",
    can: SURROUNDING,
    properties: {
      position,
      extent: number("Extent", "m", [1, 1000, 1], 120, 60, "From edge to edge."),
      colour: colour("Colour", "#0a2329", "Colour of the water.", { role: "floor" }),
      roughness: { ...surface.roughness, default: 0.12 },
      metalness: { ...surface.metalness, default: 0.2 },
      reflection: { ...reflection, default: 0.8 },
      ...flat,
      waves: number("Wave height", "m", [0, 5, 0.005], 0.06, 0.3, "Height of the waves."),
      waveLength: number("Wavelength", "m", [0.2, 100, 0.1], 3, 4, "From crest to crest."),
      waveSpeed: number("Wave speed", "m/s", [-20, 20, 0.01], 0.8, 2, "Speed of the waves.", {
        integrates: true,
      }),
      opacity: number("Opacity", "", SHARE, 1, 1, "0 is invisible, 1 hides what is below."),
      visibility,
    },
    settings: { ...onCamera("hidden") },
  },
} as const satisfies Record<string, ObjectKindDeclaration>;
