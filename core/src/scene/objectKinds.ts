/** A property that holds one number. */
export interface NumberProperty {
  type: "number";
  label: string;
  help: string;
  unit: "" | "m" | "°" | "×" | "cd" | "lx";
  min: number;
  max: number;
  step: number;
  default: number;
}

/** A property that holds three numbers, x (right), y (up), z (towards the viewer). */
export interface VectorProperty {
  type: "vector";
  label: string;
  help: string;
  unit: NumberProperty["unit"];
  min: number;
  max: number;
  step: number;
  default: readonly [number, number, number];
  /** Shown and bound as one number until its axes are taken apart. */
  uniform: boolean;
}

export interface ColourProperty {
  type: "colour";
  label: string;
  help: string;
  default: string;
}

export type Property = NumberProperty | VectorProperty | ColourProperty;

export interface ObjectKindDeclaration {
  label: string;
  help: string;
  /** Exactly one is always there, whether the document mentions it or not; its id is the kind's name. */
  singleton: boolean;
  properties: Record<string, Property>;
}

const number = (
  label: string,
  unit: NumberProperty["unit"],
  range: [min: number, max: number, step: number],
  value: number,
  help: string,
): NumberProperty => ({
  type: "number",
  label,
  help,
  unit,
  min: range[0],
  max: range[1],
  step: range[2],
  default: value,
});

const vector = (
  label: string,
  unit: NumberProperty["unit"],
  range: [min: number, max: number, step: number],
  value: readonly [number, number, number],
  help: string,
  uniform = false,
): VectorProperty => ({
  type: "vector",
  label,
  help,
  unit,
  min: range[0],
  max: range[1],
  step: range[2],
  default: value,
  uniform,
});

const colour = (label: string, value: string, help: string): ColourProperty => ({
  type: "colour",
  label,
  help,
  default: value,
});

const PLACE: [number, number, number] = [-1000, 1000, 0.01];
const TURN: [number, number, number] = [-3600, 3600, 1];

const placed = {
  position: vector("Position", "m", PLACE, [0, 0, 0], "Where it is: right, up, towards the viewer."),
};

const solid = {
  ...placed,
  rotation: vector("Rotation", "°", TURN, [0, 0, 0], "How it is turned about each axis."),
  scale: vector("Scale", "×", [0, 100, 0.01], [1, 1, 1], "How many times its own size.", true),
};

const material = {
  colour: colour("Colour", "#d8cdb8", "What light shows on its surface."),
  roughness: number("Roughness", "", [0, 1, 0.01], 0.6, "0 mirrors, 1 is dull."),
  metalness: number("Metalness", "", [0, 1, 0.01], 0, "0 is paint or paper, 1 is bare metal."),
  emissionColour: colour("Glow colour", "#ffb347", "The colour it shines in by itself."),
  emissionStrength: number("Glow", "×", [0, 50, 0.01], 0, "How strongly it shines by itself."),
  opacity: number("Opacity", "", [0, 1, 0.01], 1, "0 cannot be seen, 1 hides what is behind."),
};

/**
 * Every kind of thing that can be on the stage, with its bindable properties: the one table the schema, the
 * sheet, the evaluator and the docs read. Lengths are metres.
 */
export const OBJECT_KINDS = {
  camera: {
    label: "Camera",
    help: "The eye the stage is seen through.",
    singleton: true,
    properties: {
      position: vector("Position", "m", PLACE, [0, 2.4, 9], "Where the eye is."),
      target: vector("Looks at", "m", PLACE, [0, 1.2, 0], "The point in the middle of the picture."),
      fieldOfView: number("Field of view", "°", [5, 150, 1], 45, "Height of the picture as an angle."),
    },
  },
  backdrop: {
    label: "Backdrop",
    help: "What is behind everything.",
    singleton: true,
    properties: {
      top: colour("Above", "#071318", "Colour of the sky overhead."),
      bottom: colour("Below", "#14323a", "Colour at the foot of the picture."),
    },
  },
  box: {
    label: "Box",
    help: "A block standing on its base.",
    singleton: false,
    properties: {
      ...solid,
      size: vector("Size", "m", [0.001, 1000, 0.01], [1, 1, 1], "Width, height and depth at scale 1."),
      ...material,
    },
  },
  sphere: {
    label: "Sphere",
    help: "A ball about its centre.",
    singleton: false,
    properties: {
      ...solid,
      radius: number("Radius", "m", [0.001, 500, 0.01], 0.5, "Radius at scale 1."),
      ...material,
    },
  },
  ring: {
    label: "Ring",
    help: "Copies of a block standing in a circle, each on its base and facing outwards.",
    singleton: false,
    properties: {
      ...solid,
      count: number("Copies", "", [1, 512, 1], 24, "How many stand in the ring."),
      radius: number("Radius", "m", [0, 500, 0.01], 3, "From the middle to each copy."),
      size: vector("Copy size", "m", [0.001, 1000, 0.01], [0.2, 1, 0.2], "Width, height, depth of a copy."),
      growth: number("Growth", "×", [0, 100, 0.01], 1, "Height of each copy, as a multiple of its size."),
      ...material,
    },
  },
  pointLight: {
    label: "Lamp",
    help: "Light from a point, the same in all directions.",
    singleton: false,
    properties: {
      ...placed,
      colour: colour("Colour", "#ffd9a0", "Colour of the light."),
      intensity: number("Strength", "cd", [0, 2000, 0.1], 30, "Luminous intensity."),
      reach: number("Reach", "m", [0, 1000, 0.1], 0, "Where it ends; 0 fades by the inverse square alone."),
    },
  },
  sunLight: {
    label: "Moonlight",
    help: "Light from far away, in one direction.",
    singleton: false,
    properties: {
      position: vector("From", "m", PLACE, [4, 8, 3], "The direction it comes from, towards the origin."),
      colour: colour("Colour", "#9fc4d8", "Colour of the light."),
      intensity: number("Strength", "lx", [0, 100, 0.01], 1, "Illuminance on a surface that faces it."),
    },
  },
  ambientLight: {
    label: "Ambient light",
    help: "Light from everywhere, without shadows or direction.",
    singleton: false,
    properties: {
      colour: colour("Colour", "#88a8b0", "Colour of the light."),
      intensity: number("Strength", "lx", [0, 100, 0.01], 0.4, "How much of it there is."),
    },
  },
} as const satisfies Record<string, ObjectKindDeclaration>;

export type ObjectKind = keyof typeof OBJECT_KINDS;
export const OBJECT_KIND_NAMES = Object.keys(OBJECT_KINDS) as ObjectKind[];
export const SINGLETON_KINDS = OBJECT_KIND_NAMES.filter((kind) => OBJECT_KINDS[kind].singleton);

/** The declared properties of a kind, in the order they are shown. */
export function propertiesOf(kind: ObjectKind): Record<string, Property> {
  return OBJECT_KINDS[kind].properties;
}
