/** Properties and settings that several kinds of object share. */
import {
  choice,
  number as numberSetting,
  reference,
  type StopsSetting,
  text,
  toggle,
  whole,
} from "../setting/descriptor";
import {
  colour,
  count,
  number,
  type ObjectSetting,
  type Property,
  vector,
  within,
} from "../setting/property";

export const PLACE = [-1000, 1000, 0.01] as const;
export const LENGTH = [0.001, 1000, 0.01] as const;
export const SHARE = [0, 1, 0.01] as const;
export const GLOW = [0, 50, 0.01] as const;
const TURN = [-3600, 3600, 1] as const;

/** Copies a formation holds at most. */
export const MAX_COPIES = 4096;
/** Copies that a wake leaves behind at most, all of a formation's counted as one. */
export const MAX_WAKE = 512;

const inPlace = { section: "place" } as const;

export const visibility = number("Visible", "", SHARE, 1, 1, "Shown from 0.5 up, hidden below.", {
  ...inPlace,
  switchesAt: 0.5,
});

/** Properties of an object that has a position only. */
export const placed = {
  position: vector("Position", "m", PLACE, [0, 0, 0], 1.5, "Right, up, towards the viewer.", inPlace),
  visibility,
};

/** Properties of an object that can also be turned and scaled. */
export const solid = {
  position: placed.position,
  rotation: vector("Rotation", "°", TURN, [0, 0, 0], 60, "Angle about each axis.", {
    ...inPlace,
    wraps: 360,
  }),
  scale: vector("Scale", "×", [0, 100, 0.01], [1, 1, 1], 0.8, "Times its own size.", {
    ...inPlace,
    uniform: true,
  }),
  spin: number("Spin", "°/s", [-3600, 3600, 1], 0, 180, "Rotation speed about its upright axis.", {
    ...inPlace,
    integrates: true,
  }),
  visibility,
};

const onSurface = { section: "surface" } as const;
const ofEach = { ...onSurface, perCopy: true } as const;

export const BLENDS = {
  normal: "normal",
  add: "add",
  screen: "screen",
  multiply: "multiply",
  difference: "difference",
} as const;
export type Blend = keyof typeof BLENDS;

export const blendSetting = within(
  "surface",
  choice("Blend", BLENDS, "normal", "How its light combines with what is behind."),
);

/** Colour, emission and opacity of anything that is drawn. */
export const glowing = {
  colour: colour("Colour", "#d8cdb8", "Surface colour in light.", { ...ofEach, role: "ink" }),
  emissionColour: colour("Emission colour", "#ffb347", "Colour of its own light.", {
    ...ofEach,
    role: "ink",
  }),
  emissionStrength: number("Emission", "×", GLOW, 0, 3, "Strength of its own light.", ofEach),
  opacity: number("Opacity", "", SHARE, 1, 1, "0 is invisible, 1 hides what is behind.", ofEach),
};

const onGradient = { setting: "gradientAlong", is: ["object", "copies", "time"] } as const;

const onReveal = {
  setting: "revealFrom",
  is: ["left", "right", "bottom", "top", "back", "front", "middle"],
} as const;

/** Finishes of a surface, each with properties of its own. */
export const FINISHES = {
  plain: "plain",
  coated: "clear coat",
  cloth: "cloth",
  glass: "glass",
  pearl: "pearl",
  all: "all of these",
} as const;
export type Finish = keyof typeof FINISHES;
const finished = (is: Finish) => ({ ...onSurface, when: { setting: "finish", is: [is, "all"] } }) as const;

export const surface = {
  ...glowing,
  emissionFalloff: number(
    "Emission falloff",
    "",
    SHARE,
    0.6,
    0.4,
    "0 glows evenly; 1 glows where it faces the camera and fades to its edge, like a flame inside paper.",
    onSurface,
  ),
  roughness: number("Roughness", "", SHARE, 0.6, 1, "0 is a mirror, 1 is matte.", onSurface),
  metalness: number("Metalness", "", SHARE, 0, 1, "0 is paint or paper, 1 is bare metal.", onSurface),
  clearcoat: number("Clear coat", "", SHARE, 1, 1, "Strength of a layer of varnish.", finished("coated")),
  clearcoatRoughness: number(
    "Coat roughness",
    "",
    SHARE,
    0.08,
    0.6,
    "0 is polished, 1 is dull.",
    finished("coated"),
  ),
  sheen: number("Sheen", "", SHARE, 1, 1, "How much fibres catch light at the edges.", finished("cloth")),
  sheenColour: colour("Sheen colour", "#f2ead6", "Colour of that light.", {
    ...finished("cloth"),
    role: "secondInk",
  }),
  transmission: number(
    "Transmission",
    "",
    SHARE,
    0.9,
    0.9,
    "Share of the light that passes through it.",
    finished("glass"),
  ),
  thickness: number(
    "Glass thickness",
    "m",
    [0, 10, 0.01],
    0.3,
    1,
    "The thicker, the more it bends what is behind.",
    finished("glass"),
  ),
  refraction: number(
    "Refractive index",
    "",
    [1, 2.33, 0.01],
    1.45,
    0.5,
    "1 bends nothing; water 1.33, glass 1.5, diamond 2.4.",
    finished("glass"),
  ),
  iridescence: number(
    "Iridescence",
    "",
    SHARE,
    1,
    1,
    "Strength of the colours of a thin film.",
    finished("pearl"),
  ),
  filmThickness: number(
    "Film thickness",
    "nm",
    [50, 1200, 1],
    400,
    300,
    "Thickness of the film: it decides its colours.",
    finished("pearl"),
  ),
  reveal: number("Reveal", "", SHARE, 1, 1, "Share of the object that is there, from an edge on.", {
    ...onSurface,
    when: onReveal,
  }),
  revealSoftness: number(
    "Reveal softness",
    "",
    SHARE,
    0.05,
    0.5,
    "Width of the soft edge of what is revealed.",
    {
      ...onSurface,
      when: onReveal,
    },
  ),
  gradientAmount: number("Gradient amount", "", SHARE, 1, 1, "0 is the colour alone, 1 the gradient alone.", {
    ...onSurface,
    when: onGradient,
  }),
  gradientShift: number("Gradient shift", "×", [-100, 100, 0.01], 0, 0.5, "Moves the gradient along.", {
    ...onSurface,
    wraps: 1,
    when: onGradient,
  }),
  tiling: number("Texture tiling", "×", [0.01, 100, 0.01], 1, 3, "Repeats of the texture across.", onSurface),
};

const gradientStops: StopsSetting = {
  type: "stops",
  label: "Gradient colours",
  help: "Any number of colours, each at a place from 0 to 1.",
  when: onGradient,
  default: [
    { at: 0, colour: "#1d5c63" },
    { at: 0.5, colour: "#e3b563" },
    { at: 1, colour: "#f4ecdc" },
  ],
};

/** Images and models have colours of their own, which take nothing from a palette. */
const { role: _ofThePalette, ...ownColour } = surface.colour;
export const untinted = {
  colour: { ...ownColour, default: "#ffffff", help: "Multiplies its own colours; white leaves them." },
};

export const surfaceSettings = {
  finish: within(
    "surface",
    choice("Finish", FINISHES, "plain", "A coat, fibres, glass or a thin film on top of the plain surface."),
  ),
  gradientAlong: within(
    "surface",
    choice(
      "Gradient",
      { none: "none", object: "along the object", copies: "along the copies", time: "over time" },
      "none",
      "Colours from the foot of the object to its top, from copy to copy, or as time passes.",
    ),
  ),
  gradient: within("surface", gradientStops),
  textureId: within("surface", reference("Texture", "picture", "An image laid over the surface.")),
  filtering: within(
    "surface",
    choice(
      "Texture filter",
      { smooth: "smooth", sharp: "sharp pixels" },
      "smooth",
      "How the texture looks from near.",
    ),
  ),
  revealFrom: within(
    "surface",
    choice(
      "Reveal from",
      {
        none: "none",
        left: "left",
        right: "right",
        bottom: "bottom",
        top: "top",
        back: "back",
        front: "front",
        middle: "middle",
      },
      "none",
      "The edge from which a value uncovers it.",
    ),
  ),
  programId: within(
    "surface",
    reference("Program", "program", "Code of your own that shapes and paints the surface."),
  ),
  unlit: within("surface", toggle("Unlit", false, "Shows its colour as it is, whatever light there is.")),
  blend: blendSetting,
} satisfies Record<string, ObjectSetting>;

export const materialReference = within(
  "surface",
  reference("Material", "material", "A surface that several objects share; without one it has its own."),
);

export const FORMATIONS = {
  none: "one",
  ring: "a ring",
  row: "a row",
  grid: "a grid",
  spiral: "a spiral",
  dome: "a dome",
  path: "along a path",
  scatter: "scattered",
  cues: "placed by cues",
} as const;
export type FormationKind = keyof typeof FORMATIONS;
const MANY: FormationKind[] = ["ring", "row", "grid", "spiral", "dome", "path", "scatter", "cues"];

const inForm = (...is: FormationKind[]) =>
  ({ section: "copies", when: { setting: "formation", is } }) as const;
const many = inForm(...MANY);
const varied = { section: "variety", when: { setting: "formation", is: MANY } } as const;

/** Layout of a formation of copies, and the properties of each copy. */
export const formed = {
  copies: count("Copies", [1, MAX_COPIES], 24, 24, "Number of copies.", many),
  reach: number(
    "Radius",
    "m",
    [-500, 500, 0.01],
    3,
    1.5,
    "From the middle to the outermost copies; negative is the far side.",
    inForm("ring", "spiral", "dome", "scatter"),
  ),
  spacing: number(
    "Spacing",
    "m",
    [0, 100, 0.01],
    0.5,
    0.5,
    "From one copy to the next.",
    inForm("row", "grid"),
  ),
  sweep: number(
    "Sweep angle",
    "°",
    [-7200, 7200, 1],
    360,
    360,
    "The angle the copies are spread over.",
    inForm("ring", "spiral"),
  ),
  climb: number(
    "Climb",
    "m",
    [-500, 500, 0.01],
    0,
    2,
    "Height of the last copy above the first.",
    inForm("ring", "row", "spiral"),
  ),
  copyShift: vector("Copy offset", "m", PLACE, [0, 0, 0], 0.8, "Moves each copy from its place.", {
    ...many,
    perCopy: true,
  }),
  copyTurn: vector("Copy rotation", "°", TURN, [0, 0, 0], 60, "Turns each copy in its place.", {
    ...many,
    wraps: 360,
    perCopy: true,
  }),
  copyScale: vector("Copy scale", "×", [0, 100, 0.01], [1, 1, 1], 0.8, "Size of each copy.", {
    ...many,
    perCopy: true,
    uniform: true,
  }),
  copyDelay: number(
    "Copy delay",
    "ms",
    [0, 4000, 1],
    0,
    120,
    "Each copy follows a strand this much later than the one before it.",
    { ...varied, when: { setting: "delayIn", is: ["ms"] } },
  ),
  copyDelayBeats: number(
    "Copy delay",
    "beats",
    [0, 8, 0.01],
    0,
    0.5,
    "Each copy follows a strand this much later than the one before it, in beats of the project’s clock.",
    { ...varied, when: { setting: "delayIn", is: ["beats"] } },
  ),
  valueSpread: number(
    "Value variation",
    "",
    SHARE,
    0,
    0.5,
    "Random difference of each copy’s number from the strand’s.",
    varied,
  ),
  scaleSpread: number("Size variation", "", SHARE, 0, 0.6, "Random difference in size.", varied),
  shapeSpread: number(
    "Shape variation",
    "",
    SHARE,
    0,
    0.6,
    "Random difference in width, height and depth, each for itself.",
    varied,
  ),
  placeSpread: number(
    "Position variation",
    "m",
    [0, 100, 0.01],
    0,
    0.6,
    "Random offset from its place.",
    varied,
  ),
};

/** Properties that only coloured copies have. */
export const formedColour = {
  hueSpread: number(
    "Hue variation",
    "°",
    [0, 180, 1],
    0,
    60,
    "Random difference in hue, to either side.",
    varied,
  ),
};

export const formationSettings = {
  formation: within("copies", choice("Formation", FORMATIONS, "none", "How its copies are placed.")),
  facing: within(
    "copies",
    choice(
      "Facing",
      { outwards: "outwards", inwards: "inwards", along: "along the line", same: "the same way" },
      "outwards",
      "The way the copies look.",
      { when: many.when },
    ),
  ),
  columns: within(
    "copies",
    whole("Columns", [0, MAX_COPIES], 0, "Copies in a line of the grid; 0 makes it square.", {
      when: inForm("grid").when,
    }),
  ),
  path: within("copies", {
    type: "path",
    label: "Path",
    help: "Points the copies are placed along, joined by a smooth line.",
    when: inForm("path").when,
    default: [
      [-4, 0, 0],
      [-1.5, 0, -1.5],
      [1.5, 0, 1.5],
      [4, 0, 0],
    ],
  }),
  copyLife: within(
    "copies",
    numberSetting(
      "Lifetime",
      "s",
      [0.05, 3600, 0.05],
      6,
      "How long a copy stays that an answer has put there.",
      {
        chars: 5,
        when: inForm("cues").when,
      },
    ),
  ),
  delayIn: within(
    "variety",
    choice("Delay in", { ms: "milliseconds", beats: "beats" }, "ms", "Unit of the copy delay.", {
      when: varied.when,
    }),
  ),
  seed: within(
    "variety",
    whole("Seed", [0, 4_294_967_295], 1, "Another number gives another random arrangement.", {
      when: varied.when,
      chars: 10,
    }),
  ),
} satisfies Record<string, ObjectSetting>;

const trailing = { section: "wake", when: { setting: "wake", is: [true] } } as const;

/** Copies left behind over time. */
export const waking = {
  wakeRate: number("Wake rate", "/s", [0, 60, 0.1], 6, 10, "Copies left behind each second.", {
    ...trailing,
    integrates: true,
  }),
  wakeLife: number("Wake lifetime", "s", [0.05, 30, 0.05], 3, 3, "How long each of them stays.", trailing),
  wakeDrift: vector(
    "Wake drift",
    "m/s",
    [-100, 100, 0.01],
    [0, 0, -1.5],
    2,
    "Velocity of what was left.",
    trailing,
  ),
  wakeFade: number("Fade to", "", SHARE, 0, 1, "Share of the opacity that is left at the end.", trailing),
  wakeGrowth: number("Grow to", "×", [0, 20, 0.01], 1, 2, "Size at the end.", trailing),
  wakeCap: count("Wake limit", [1, MAX_WAKE], 64, 64, "The oldest go when there would be more.", trailing),
};

export const wakeSettings = {
  wake: within("wake", toggle("Leaves a wake", false, "Leaves copies of itself behind, which drift away.")),
} satisfies Record<string, ObjectSetting>;

/** Position of a thing on a camera's picture: before or behind the person. */
export const CAMERA_PLACES = {
  before: "before the person",
  behind: "behind the person",
  background: "instead of the background",
  hidden: "not shown",
} as const;
export const onCamera = (usual: keyof typeof CAMERA_PLACES) => ({
  onCamera: within(
    "place",
    choice(
      "On a camera picture",
      CAMERA_PLACES,
      usual,
      "Where it is drawn when the scene is met through a phone’s camera.",
    ),
  ),
});

/** Reference that a thing keeps its place against. */
export const PINS = {
  world: "the scene",
  view: "the visitor’s view",
  left: "the left hand",
  right: "the right hand",
} as const;
export type Pin = keyof typeof PINS;
export const pinSettings = {
  pinnedTo: within(
    "place",
    choice("Pinned to", PINS, "world", "What it moves with: its position is counted from there."),
  ),
} satisfies Record<string, ObjectSetting>;

/** How a solid body moves. */
export const SOLIDITIES = {
  none: "no",
  fixed: "fixed in its place",
  moving: "moving freely",
  carried: "carried by its bindings, its group or a hand",
} as const;
export type Solidity = keyof typeof SOLIDITIES;
export const SOLID_SHAPES = {
  own: "its own",
  box: "a box",
  ball: "a ball",
  cylinder: "a cylinder",
  hull: "its hull",
} as const;
export type SolidShape = keyof typeof SOLID_SHAPES;

const isSolid = {
  section: "solid",
  unseen: true,
  when: { setting: "solid", is: ["fixed", "moving", "carried"] },
} as const;
const isMoving = {
  section: "solid",
  unseen: true,
  when: { setting: "solid", is: ["moving"] },
} as const;

/** Properties of solid bodies. */
export const solidBody = {
  mass: number("Mass", "kg", [0.001, 100_000, 0.01], 1, 5, "Of each copy.", isMoving),
  bounce: number("Bounce", "", SHARE, 0.3, 0.5, "0 stays where it falls, 1 comes back as high.", isSolid),
  friction: number("Friction", "", [0, 2, 0.01], 0.6, 0.6, "0 slides like ice.", isSolid),
  damping: number(
    "Damping",
    "/s",
    [0, 50, 0.01],
    0.05,
    1,
    "Share of its speed that it loses each second.",
    isMoving,
  ),
  turnDamping: number("Turn damping", "/s", [0, 50, 0.01], 0.3, 1, "The same for its rotation.", isMoving),
  spring: number(
    "Spring",
    "/s²",
    [0, 2000, 1],
    0,
    60,
    "Acceleration back to its own place for each metre away from it; 0 leaves it where it went.",
    isMoving,
  ),
  push: vector(
    "Push",
    "m/s²",
    [-500, 500, 0.1],
    [0, 0, 0],
    20,
    "Acceleration: bound, sound pushes or lifts it.",
    {
      ...isMoving,
      perCopy: true,
    },
  ),
};

export const solidSettings = {
  solid: within(
    "solid",
    choice("Solid", SOLIDITIES, "none", "Whether other bodies bounce off it, and how it moves."),
  ),
  solidShape: within(
    "solid",
    choice("Solid shape", SOLID_SHAPES, "own", "The shape that is reckoned with; hulls are for models.", {
      when: isSolid.when,
    }),
  ),
} satisfies Record<string, ObjectSetting>;

/** Properties of an object with a surface, of which there may be copies and which may leave a wake. */
export const body = <S extends Record<string, Property>>(shape: S) => ({
  ...solid,
  ...shape,
  growth: number("Growth", "×", [0, 100, 0.01], 1, 2, "Length along the axis it grows on.", {
    perCopy: true,
  }),
  ...surface,
  ...formed,
  ...formedColour,
  ...waking,
  ...solidBody,
});

export const growthSettings = {
  growsAlong: within(
    "main",
    choice(
      "Growth axis",
      { x: "sideways", y: "upwards", z: "towards the viewer" },
      "y",
      "The axis that growth lengthens.",
    ),
  ),
} satisfies Record<string, ObjectSetting>;

/** The text that stands for an object where somebody cannot see it. */
export const spokenSettings = {
  spokenLabel: within(
    "visitors",
    text(
      "Spoken label",
      "",
      "Read out to visitors who aim at it by keyboard or come into it; empty reads its name.",
      120,
    ),
  ),
} satisfies Record<string, ObjectSetting>;

const shadowSettings = {
  castsShadow: within(
    "surface",
    toggle("Casts a shadow", true, "Lights throw its shadow on what is behind it."),
  ),
} satisfies Record<string, ObjectSetting>;

export const bodySettings = {
  ...growthSettings,
  materialId: materialReference,
  ...surfaceSettings,
  ...shadowSettings,
  ...formationSettings,
  ...wakeSettings,
  ...solidSettings,
  ...pinSettings,
  ...onCamera("before"),
  ...spokenSettings,
} satisfies Record<string, ObjectSetting>;

/** Abilities of a body with a surface. */
export const BODY = {
  placement: "turned",
  surface: true,
  copies: "formation",
  wake: true,
  grouped: true,
  pointable: true,
  solid: true,
} as const;
