import { reference, toggle } from "../setting/descriptor";
import { colour, number, vector, within } from "../setting/property";
import type { ObjectKindDeclaration } from "./declaration";
import { formationSettings, formed, PLACE, SHARE, solid, surface, surfaceSettings } from "./shared";

const withImage = { setting: "hasPicture", is: [true] } as const;

/** What every scene has exactly one of, and what is made by arranging other objects. */
export const ALWAYS = {
  camera: {
    label: "Camera",
    help: "The viewpoint the stage is seen from.",
    singleton: true,
    can: {},
    properties: {
      position: vector("Position", "m", PLACE, [0, 2.4, 9], 2, "Where the camera is."),
      target: vector("Target", "m", PLACE, [0, 1.2, 0], 1, "The point in the middle of the image."),
      fieldOfView: number("Field of view", "°", [5, 150, 1], 45, 20, "Height of the image as an angle."),
      orbit: number("Orbit angle", "°", [-36_000, 36_000, 1], 0, 45, "Angle around the target.", {
        wraps: 360,
      }),
      orbitSpeed: number("Orbit speed", "°/s", [-360, 360, 0.5], 0, 40, "Speed around the target.", {
        integrates: true,
      }),
      drift: number("Drift amount", "m", [0, 20, 0.01], 0, 1, "How far it wanders slowly in all directions."),
      shake: number(
        "Shake amount",
        "m",
        [0, 10, 0.01],
        0,
        0.3,
        "How far it shakes; bound to kick, each cue shakes it.",
        {
          bindsAs: "kick",
        },
      ),
    },
    settings: { seed: formationSettings.seed },
  },
  backdrop: {
    label: "Backdrop",
    help: "What is behind everything.",
    singleton: true,
    can: {},
    properties: {
      top: colour("Top colour", "#071318", "Colour of the sky overhead."),
      bottom: colour("Bottom colour", "#14323a", "Colour at the bottom of the image."),
      pictureAmount: number("Image amount", "", SHARE, 1, 1, "0 is the colours alone, 1 the image alone.", {
        when: withImage,
      }),
    },
    settings: {
      hasPicture: within("main", toggle("With an image", false, "Lays an image over the colours.")),
      pictureId: within(
        "main",
        reference("Image", "picture", "The image behind everything.", { when: withImage }),
      ),
    },
  },
  lens: {
    label: "Air and lens",
    help: "Between the stage and the eye: fog, bloom, feedback and vignette.",
    singleton: true,
    can: {},
    properties: {
      fogColour: colour("Fog colour", "#14323a", "Colour that distant things fade into."),
      fog: number(
        "Fog density",
        "/m",
        [0, 1, 0.001],
        0,
        0.08,
        "Share of the light that each metre takes away.",
      ),
      bloom: number("Bloom", "×", [0, 3, 0.01], 0, 1, "How far bright areas shine over their edges."),
      bloomFrom: number(
        "Bloom threshold",
        "",
        [0, 4, 0.01],
        0.8,
        0.8,
        "Brightness from which an area blooms.",
      ),
      bloomReach: number("Bloom radius", "", SHARE, 0.5, 0.5, "How wide the bloom is."),
      fringing: number("Colour fringing", "", SHARE, 0, 1, "How far colours separate towards the edges."),
      feedback: number(
        "Feedback",
        "",
        [0, 0.98, 0.01],
        0,
        0.9,
        "Share of the image of 1/60 s ago that stays.",
      ),
      feedbackGrowth: number(
        "Feedback zoom",
        "×",
        [0.8, 1.25, 0.001],
        1,
        0.04,
        "Growth of what stays, 60 times a second.",
      ),
      feedbackTurn: number(
        "Feedback rotation",
        "°",
        [-20, 20, 0.05],
        0,
        2,
        "Rotation of what stays, 60 times a second.",
      ),
      vignette: number("Vignette", "", SHARE, 0, 1, "How dark the corners are."),
    },
    settings: {},
  },
} as const satisfies Record<string, ObjectKindDeclaration>;

export const ARRANGING = {
  group: {
    label: "Group",
    help: "Moves, turns, scales and repeats the objects in it as one.",
    can: { placement: "turned", copies: "formation", grouped: true, holdsObjects: true, pointable: true },
    properties: { ...solid, ...formed },
    settings: { ...formationSettings },
  },
  material: {
    label: "Material",
    help: "A surface that several objects share.",
    can: { shared: true },
    properties: surface,
    settings: surfaceSettings,
  },
} as const satisfies Record<string, ObjectKindDeclaration>;
