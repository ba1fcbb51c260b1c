import { choice, reference, toggle } from "../setting/descriptor";
import { DEFAULT_PALETTE, PALETTES } from "../setting/palettes";
import { colour, number, vector, within } from "../setting/property";
import type { ObjectKindDeclaration } from "./declaration";
import {
  formationSettings,
  formed,
  onCamera,
  PLACE,
  SHARE,
  solid,
  spokenSettings,
  surface,
  surfaceSettings,
} from "./shared";

const { sky } = PALETTES[DEFAULT_PALETTE];
const { when: _inFormationsOnly, ...formationSeed } = formationSettings.seed;
const inSky = { setting: "fixedTo", is: ["sky"] } as const;
const plainColours = { setting: "colours", is: ["few"] } as const;
const graded = { section: "grading" } as const;
const withImage = { setting: "hasPicture", is: [true] } as const;

/** Values at which properties of the lens change nothing; at any other, the image goes through passes for them. */
export const LENS_NEUTRAL = {
  autoExposure: 0,
  bloom: 0,
  feedback: 0,
  fringing: 0,
  vignette: 0,
  defocus: 0,
  temperature: 0,
  saturation: 1,
  contrast: 1,
  lift: 0,
  gamma: 1,
  gain: 1,
} as const;

/** Kinds of which every scene has exactly one, and kinds made by arranging other objects. */
export const ALWAYS = {
  camera: {
    label: "Camera",
    help: "The viewpoint the stage is seen from.",
    singleton: true,
    can: {},
    properties: {
      position: vector("Position", "m", PLACE, [0, 2.4, 9], 2, "Where the camera is."),
      target: vector("Target", "m", PLACE, [0, 1.2, 0], 1, "The point in the middle of the image."),
      fieldOfView: number(
        "Field of view",
        "°",
        [5, 150, 1],
        45,
        20,
        "Height of the image as an angle; of an upright image, its width.",
      ),
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
    settings: { seed: formationSeed },
  },
  backdrop: {
    label: "Backdrop",
    help: "What is behind everything.",
    singleton: true,
    can: {},
    properties: {
      top: colour("Top colour", sky.top, "Colour of the sky overhead.", { role: "top" }),
      horizon: colour("Horizon colour", sky.horizon, "Colour of the sky at the horizon.", {
        when: inSky,
        role: "horizon",
      }),
      bottom: colour("Bottom colour", sky.bottom, "Colour at the bottom, or below the horizon.", {
        when: plainColours,
        role: "bottom",
      }),
      horizonSpread: number(
        "Horizon spread",
        "",
        [0.01, 1, 0.01],
        0.35,
        0.4,
        "Share of the sky over which the horizon’s colour passes into the others.",
        { when: inSky },
      ),
      stars: number("Stars", "", SHARE, 0, 0.6, "How many there are.", { when: inSky }),
      twinkle: number("Twinkle", "", SHARE, 0.4, 0.6, "How far stars change their brightness.", {
        when: inSky,
      }),
      clouds: number("Clouds", "", SHARE, 0, 0.6, "Share of the sky that they cover.", { when: inSky }),
      cloudColour: colour("Cloud colour", "#3c5a63", "Colour of the clouds.", { when: inSky }),
      cloudSize: number("Cloud size", "×", [0.1, 10, 0.01], 1, 1, "Size of the clouds.", { when: inSky }),
      cloudSpeed: number("Cloud speed", "×", [-20, 20, 0.01], 0.3, 2, "Speed of the clouds.", {
        integrates: true,
        when: inSky,
      }),
      pictureAmount: number("Image amount", "", SHARE, 1, 1, "0 is the colours alone, 1 the image alone.", {
        when: withImage,
      }),
    },
    settings: {
      fixedTo: within(
        "main",
        choice(
          "Fixed to",
          { sky: "the sky", image: "the image" },
          "sky",
          "A sky turns with the camera and is seen in reflections; colours fixed to the image always fill it alike.",
        ),
      ),
      colours: within(
        "main",
        choice(
          "Colours",
          { few: "top, horizon, bottom", stops: "a gradient" },
          "few",
          "What its colours are set by.",
        ),
      ),
      gradient: within("main", {
        type: "stops",
        label: "Gradient colours",
        help: "From straight down at 0 over the horizon at 0.5 to straight up at 1.",
        when: { setting: "colours", is: ["stops"] },
        default: [
          { at: 0.2, colour: sky.bottom },
          { at: 0.5, colour: sky.horizon },
          { at: 0.62, colour: "#27474f" },
          { at: 1, colour: sky.top },
        ],
      }),
      seed: formationSeed,
      ...onCamera("hidden"),
      hasPicture: within("main", toggle("With an image", false, "Lays an image over the colours.")),
      pictureId: within(
        "main",
        reference("Image", "picture", "The image behind everything.", { when: withImage }),
      ),
    },
  },
  environment: {
    label: "Environment light",
    help: "Light and reflections from all round the stage.",
    singleton: true,
    can: {},
    properties: {
      intensity: number("Intensity", "×", [0, 20, 0.01], 1, 1, "Strength of the light from all round."),
      turn: number(
        "Rotation",
        "°",
        [-3600, 3600, 1],
        0,
        90,
        "Turns the surroundings about the upright axis.",
        {
          wraps: 360,
        },
      ),
    },
    settings: {
      scenery: within(
        "main",
        choice(
          "Surroundings",
          {
            harbour: "harbour at night",
            dawn: "dawn",
            studio: "studio",
            indoor: "indoors",
            panorama: "an image of your own",
            none: "none",
          },
          "harbour",
          "Where the light comes from.",
        ),
      ),
      panoramaId: within(
        "main",
        reference("Image", "panorama", "A panorama as HDR, EXR or KTX2.", {
          when: { setting: "scenery", is: ["panorama"] },
        }),
      ),
    },
  },
  lens: {
    label: "Air and lens",
    help: "Between the stage and the eye: haze, exposure, colours, focus, bloom and feedback.",
    singleton: true,
    can: {},
    properties: {
      exposure: number("Exposure", "EV", [-8, 8, 0.01], 0, 1, "Each step of 1 doubles the light."),
      autoExposure: number(
        "Automatic exposure",
        "",
        SHARE,
        0,
        0.7,
        "How far the mean brightness of the image is brought to middle grey; 0 leaves it to the exposure alone.",
      ),
      fogColour: colour("Fog colour", sky.horizon, "Colour that distant things fade into.", {
        role: "horizon",
        when: { setting: "fogOfBackdrop", is: [false] },
      }),
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
      occlusion: number("Ambient occlusion", "", SHARE, 0.7, 0.7, "How dark creases and contacts are."),
      occlusionRadius: number(
        "Occlusion radius",
        "m",
        [0.01, 20, 0.01],
        0.8,
        1,
        "How far occlusion reaches.",
        {},
      ),
      defocus: number("Defocus", "", SHARE, 0, 0.6, "Blur of what lies nearer or farther than the focus."),
      focusDistance: number(
        "Focus distance",
        "m",
        [0, 1000, 0.01],
        0,
        4,
        "Distance of what is sharp; 0 follows the camera’s target.",
      ),
      focusRange: number("Focus range", "m", [0.05, 500, 0.05], 3, 3, "Depth of what is sharp."),
      temperature: number(
        "Temperature",
        "",
        [-1, 1, 0.01],
        0,
        0.5,
        "Below 0 colder, above 0 warmer.",
        graded,
      ),
      saturation: number(
        "Saturation",
        "×",
        [0, 3, 0.01],
        1,
        0.6,
        "0 is grey, 1 leaves colours as they are.",
        graded,
      ),
      contrast: number("Contrast", "×", [0.2, 3, 0.01], 1, 0.4, "About middle grey.", graded),
      lift: vector("Lift", "", [-0.5, 0.5, 0.005], [0, 0, 0], 0.08, "Raises dark parts: red, green, blue.", {
        ...graded,
        uniform: true,
      }),
      gamma: vector(
        "Gamma",
        "",
        [0.2, 5, 0.01],
        [1, 1, 1],
        0.5,
        "Brightens middle parts: red, green, blue.",
        {
          ...graded,
          uniform: true,
        },
      ),
      gain: vector("Gain", "×", [0, 4, 0.01], [1, 1, 1], 0.5, "Multiplies bright parts: red, green, blue.", {
        ...graded,
        uniform: true,
      }),
      lutAmount: number("LUT amount", "", SHARE, 1, 1, "0 leaves the colours, 1 is the LUT’s.", {
        when: { setting: "hasLut", is: [true] },
        section: "grading",
      }),
    },
    settings: {
      toneMapping: within(
        "main",
        choice(
          "Tone mapping",
          { filmic: "filmic", neutral: "neutral" },
          "filmic",
          "How light beyond the screen’s range is shown: rolled off like film, or colours kept as they are set.",
        ),
      ),
      fogOfBackdrop: within(
        "main",
        toggle("Fog takes the horizon’s colour", true, "Distant things fade into the backdrop."),
      ),
      hasLut: within("grading", toggle("With a LUT", false, "Maps colours by a LUT file (.cube).")),
      lutId: within(
        "grading",
        reference("LUT", "lut", "The table that maps the colours.", {
          when: { setting: "hasLut", is: [true] },
        }),
      ),
    },
  },
} as const satisfies Record<string, ObjectKindDeclaration>;

export const ARRANGING = {
  group: {
    label: "Group",
    help: "Moves, turns, scales and repeats the objects in it as one.",
    can: { placement: "turned", copies: "formation", grouped: true, holdsObjects: true, pointable: true },
    properties: { ...solid, ...formed },
    settings: { ...formationSettings, ...spokenSettings },
  },
  material: {
    label: "Material",
    help: "A surface that several objects share.",
    can: { shared: true },
    properties: surface,
    settings: surfaceSettings,
  },
} as const satisfies Record<string, ObjectKindDeclaration>;
