/** Properties and settings that several kinds of object share. */
import {
  choice,
  colour,
  number,
  type ObjectSetting,
  type Property,
  reference,
  toggle,
  vector,
  whole,
} from "./properties";

const PLACE: [number, number, number] = [-1000, 1000, 0.01];
const TURN: [number, number, number] = [-3600, 3600, 1];
export const LENGTH: [number, number, number] = [0.001, 1000, 0.01];
export const SHARE: [number, number, number] = [0, 1, 0.01];

/** Copies a formation holds at most. */
export const MOST_COPIES = 4096;
/** Copies that a wake leaves behind at most, all of a formation's counted as one. */
export const MOST_WAKE = 512;

const inPlace = { section: "place" } as const;

const visibility = number("Shown", "", SHARE, 1, "It is seen from 0.5 up, and gone below.", inPlace);

/** What only stands somewhere. */
export const placed = {
  position: vector("Position", "m", PLACE, [0, 0, 0], "Where it is: right, up, towards the viewer.", inPlace),
  visibility,
};

/** What also has a way round and a size. */
export const solid = {
  position: placed.position,
  rotation: vector("Rotation", "°", TURN, [0, 0, 0], "How it is turned about each axis.", {
    ...inPlace,
    wraps: 360,
  }),
  scale: vector("Scale", "×", [0, 100, 0.01], [1, 1, 1], "How many times its own size.", {
    ...inPlace,
    uniform: true,
  }),
  spin: number("Spin", "°/s", [-3600, 3600, 1], 0, "How fast it goes on turning about its upright axis.", {
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

export const blendSetting = choice(
  "Blend",
  BLENDS,
  "normal",
  "How its light joins what is behind.",
  onSurface,
);

/** Glow and cover of anything with a colour of its own. */
export const glowing = {
  colour: colour("Colour", "#d8cdb8", "What light shows on its surface.", ofEach),
  emissionColour: colour("Glow colour", "#ffb347", "The colour it shines in by itself.", ofEach),
  emissionStrength: number("Glow", "×", [0, 50, 0.01], 0, "How strongly it shines by itself.", ofEach),
  opacity: number("Opacity", "", SHARE, 1, "0 cannot be seen, 1 hides what is behind.", ofEach),
};

const onGradient = { setting: "gradientAlong", is: ["object", "copies", "time"] } as const;

export const surface = {
  ...glowing,
  roughness: number("Roughness", "", SHARE, 0.6, "0 mirrors, 1 is dull.", onSurface),
  metalness: number("Metalness", "", SHARE, 0, "0 is paint or paper, 1 is bare metal.", onSurface),
  gradientAmount: number("Gradient amount", "", SHARE, 1, "0 is the colour alone, 1 the gradient alone.", {
    ...onSurface,
    when: onGradient,
  }),
  gradientShift: number("Gradient shift", "×", [-100, 100, 0.01], 0, "How far the gradient is moved along.", {
    ...onSurface,
    wraps: 1,
    when: onGradient,
  }),
  tiling: number("Tiling", "×", [0.01, 100, 0.01], 1, "How often the picture goes across.", onSurface),
};

export const surfaceSettings = {
  gradientAlong: choice(
    "Gradient",
    { none: "none", object: "along the object", copies: "along the copies", time: "over time" },
    "none",
    "Colours along the object from foot to top, from copy to copy, or as time goes by.",
    onSurface,
  ),
  gradient: {
    type: "stops",
    label: "Colours",
    help: "Any number of colours, each at a place from 0 to 1.",
    section: "surface",
    when: onGradient,
    default: [
      { at: 0, colour: "#1d5c63" },
      { at: 0.5, colour: "#e3b563" },
      { at: 1, colour: "#f4ecdc" },
    ],
  },
  textureId: reference("Picture on it", "picture", "A picture that is laid over the surface.", onSurface),
  filtering: choice(
    "Picture seen",
    { smooth: "smooth", sharp: "in sharp squares" },
    "smooth",
    "How the picture looks from near.",
    onSurface,
  ),
  unlit: toggle("Unlit", false, "Shows its colour as it is, whatever light there is.", onSurface),
  blend: blendSetting,
} as const satisfies Record<string, ObjectSetting>;

export const materialReference = reference(
  "Material",
  "material",
  "A material that several objects share; without one the surface is its own.",
  onSurface,
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
} as const;
export type FormationKind = keyof typeof FORMATIONS;
const MANY: FormationKind[] = ["ring", "row", "grid", "spiral", "dome", "path", "scatter"];

const many = { section: "copies", when: { setting: "formation", is: MANY } } as const;
const inForm = (...is: FormationKind[]) =>
  ({ section: "copies", when: { setting: "formation", is } }) as const;
const varied = { section: "variety", when: { setting: "formation", is: MANY } } as const;

/** What a formation of copies is laid out by, and what each copy has for itself. */
export const formed = {
  copies: number("Copies", "", [1, MOST_COPIES, 1], 24, "How many there are.", many),
  reach: number(
    "Reach",
    "m",
    [-500, 500, 0.01],
    3,
    "From the middle to the copies farthest out; below 0 they are on the far side.",
    inForm("ring", "spiral", "dome", "scatter"),
  ),
  spacing: number("Spacing", "m", [0, 100, 0.01], 0.5, "From one copy to the next.", inForm("row", "grid")),
  sweep: number(
    "Sweep",
    "°",
    [-7200, 7200, 1],
    360,
    "The angle the copies go round.",
    inForm("ring", "spiral"),
  ),
  climb: number(
    "Climb",
    "m",
    [-500, 500, 0.01],
    0,
    "How much higher the last copy stands.",
    inForm("ring", "row", "spiral"),
  ),
  copyShift: vector("Shift of each", "m", PLACE, [0, 0, 0], "How far each copy is moved from its place.", {
    ...many,
    perCopy: true,
  }),
  copyTurn: vector("Turn of each", "°", TURN, [0, 0, 0], "How each copy is turned where it stands.", {
    ...many,
    wraps: 360,
    perCopy: true,
  }),
  copyScale: vector("Size of each", "×", [0, 100, 0.01], [1, 1, 1], "How large each copy is.", {
    ...many,
    perCopy: true,
    uniform: true,
  }),
  copyDelay: number(
    "Later by",
    "ms",
    [0, 4000, 1],
    0,
    "How much later each copy hears a strand than the one before it.",
    {
      ...varied,
      when: { setting: "delayIn", is: ["ms"] },
    },
  ),
  copyDelayBeats: number(
    "Later by",
    "beats",
    [0, 8, 0.01],
    0,
    "How much later each copy hears a strand than the one before it, in beats of the project’s clock.",
    {
      ...varied,
      when: { setting: "delayIn", is: ["beats"] },
    },
  ),
  valueSpread: number(
    "Differing by",
    "",
    SHARE,
    0,
    "How far, by chance, a copy’s number may lie beside the strand’s.",
    varied,
  ),
  scaleSpread: number("Sizes by chance", "", SHARE, 0, "How much smaller or larger a copy may be.", varied),
  placeSpread: number(
    "Places by chance",
    "m",
    [0, 100, 0.01],
    0,
    "How far a copy may stand from its place.",
    varied,
  ),
};

/** What only copies with a colour can have. */
const formedColour = {
  hueSpread: number(
    "Hues by chance",
    "°",
    [0, 180, 1],
    0,
    "How far a copy’s hue may lie to either side.",
    varied,
  ),
};

export const formationSettings = {
  formation: choice("Formation", FORMATIONS, "none", "How its copies are placed.", { section: "copies" }),
  facing: choice(
    "Facing",
    { outwards: "outwards", inwards: "inwards", along: "along the line", same: "the same way" },
    "outwards",
    "Which way the copies look.",
    { section: "copies", when: many.when },
  ),
  columns: whole(
    "Columns",
    [0, MOST_COPIES],
    0,
    "Copies in a line of the grid; 0 makes it square.",
    inForm("grid"),
  ),
  path: {
    type: "path",
    label: "Path",
    help: "Points the copies are strung between, as one smooth line.",
    section: "copies",
    when: { setting: "formation", is: ["path"] },
    default: [
      [-4, 0, 0],
      [-1.5, 0, -1.5],
      [1.5, 0, 1.5],
      [4, 0, 0],
    ],
  },
  delayIn: choice(
    "Later in",
    { ms: "milliseconds", beats: "beats" },
    "ms",
    "What the delay is counted in.",
    varied,
  ),
  seed: whole("Seed", [0, 4_294_967_295], 1, "Another number throws the dice anew.", varied),
} as const satisfies Record<string, ObjectSetting>;

const trailing = { section: "wake", when: { setting: "wake", is: [true] } } as const;

/** Copies left behind as time goes by. */
export const waking = {
  wakeRate: number("Left behind", "/s", [0, 60, 0.1], 6, "How many are left behind in a second.", {
    ...trailing,
    integrates: true,
  }),
  wakeLife: number("Lasting", "s", [0.05, 30, 0.05], 3, "How long each of them stays.", trailing),
  wakeDrift: vector(
    "Drifting",
    "m/s",
    [-100, 100, 0.01],
    [0, 0, -1.5],
    "Where they move to, each second.",
    trailing,
  ),
  wakeFade: number("Fading to", "", SHARE, 0, "What is left of their opacity at the end.", trailing),
  wakeGrowth: number("Growing to", "×", [0, 20, 0.01], 1, "Their size at the end.", trailing),
  wakeCap: number("At most", "", [1, MOST_WAKE, 1], 64, "The oldest go when there would be more.", trailing),
};

export const wakeSettings = {
  wake: toggle("Leaves a wake", false, "Copies stay behind as they were, and drift away.", {
    section: "wake",
  }),
} as const satisfies Record<string, ObjectSetting>;

/** A thing with a surface, of which there may be many and which may leave a wake. */
export const body = <S extends Record<string, Property>>(shape: S) => ({
  ...solid,
  ...shape,
  growth: number("Growth", "×", [0, 100, 0.01], 1, "Its length along the axis it grows on.", {
    perCopy: true,
  }),
  ...surface,
  ...formed,
  ...formedColour,
  ...waking,
});

export const growthSettings = {
  growsAlong: choice(
    "Grows",
    { x: "sideways", y: "upwards", z: "towards the viewer" },
    "y",
    "The axis that growth lengthens.",
  ),
} as const satisfies Record<string, ObjectSetting>;

export const bodySettings = {
  ...growthSettings,
  materialId: materialReference,
  ...surfaceSettings,
  ...formationSettings,
  ...wakeSettings,
} as const satisfies Record<string, ObjectSetting>;
