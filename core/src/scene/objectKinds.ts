import {
  blendSetting,
  body,
  bodySettings,
  formationSettings,
  formed,
  glowing,
  LENGTH,
  placed,
  SHARE,
  solid,
  surface,
  surfaceSettings,
} from "./families";
import {
  choice,
  colour,
  number,
  type ObjectSetting,
  type Property,
  reference,
  type SettingValue,
  toggle,
  vector,
  whole,
} from "./properties";

/** Where in the list of things to put on the stage a kind stands. */
export const SHELVES = {
  shapes: "Shapes",
  drawings: "Drawn by sound",
  moving: "Going on by themselves",
  lights: "Lights",
  around: "Surroundings",
} as const;
export type Shelf = keyof typeof SHELVES;

export interface ObjectKindDeclaration {
  label: string;
  help: string;
  /** Exactly one is always there, whether the document mentions it or not; its id is the kind's name. */
  singleton: boolean;
  /** `undefined` for what is not put on the stage by hand. */
  shelf?: Shelf;
  /** It is made of copies whatever its settings: the points, bands or bodies of a drawing. */
  alwaysCopies?: true;
  properties: Record<string, Property>;
  settings: Record<string, ObjectSetting>;
}

const PLACE: [number, number, number] = [-1000, 1000, 0.01];
const GLOW: [number, number, number] = [0, 50, 0.01];
const size = vector("Size", "m", LENGTH, [1, 1, 1], "Width, height and depth at scale 1.");
const radius = number("Radius", "m", [0.001, 500, 0.01], 0.5, "Radius at scale 1.");
const height = number("Height", "m", LENGTH, 1, "Height at scale 1.");
const anchor = choice(
  "Stands on",
  { base: "its base", centre: "its centre", corner: "a corner" },
  "base",
  "The point that stays where it is when the size changes.",
);
const { position, visibility } = placed;

/** A drawing: it stands somewhere, has a colour of its own and fades away behind itself. */
const drawn = {
  ...solid,
  ...glowing,
  trail: number("Trail", "s", [0, 5, 0.05], 0, "How long what was drawn stays, fading."),
};
const drawnSettings = { blend: blendSetting };
const thickness = number("Thickness", "m", [0.002, 5, 0.002], 0.04, "How thick its lines are.");
const bend = number("Bend", "", SHARE, 0, "0 is straight, 1 a whole circle.");
const level = number(
  "Level",
  "",
  [0, 4, 0.01],
  0.1,
  "How far each part is out: bind a fan, and each takes its band.",
  {
    perCopy: true,
  },
);
const parts = (most: number, value: number, help: string) => ({
  ...number("Parts", "", [1, most, 1], value, help),
});
const listens = reference(
  "Draws",
  "sound",
  "The sound whose waveform it follows; the first that is heard, if none.",
);
const variety = { seed: formationSettings.seed };

/**
 * Every kind of thing that can be on the stage, with its bindable properties and its settings: the one table the
 * schema, the sheet, the evaluator and the docs read. Lengths are metres.
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
      orbit: number("Round by", "°", [-36_000, 36_000, 1], 0, "How far it has gone round what it looks at.", {
        wraps: 360,
      }),
      orbitSpeed: number(
        "Going round",
        "°/s",
        [-360, 360, 0.5],
        0,
        "How fast it goes round what it looks at.",
        {
          integrates: true,
        },
      ),
      drift: number("Drift", "m", [0, 20, 0.01], 0, "How far it wanders slowly to all sides."),
      shake: number(
        "Shake",
        "m",
        [0, 10, 0.01],
        0,
        "How far it trembles: bind it to kick, and cues shake it.",
      ),
    },
    settings: variety,
  },
  backdrop: {
    label: "Backdrop",
    help: "What is behind everything.",
    singleton: true,
    properties: {
      top: colour("Above", "#071318", "Colour of the sky overhead."),
      bottom: colour("Below", "#14323a", "Colour at the foot of the picture."),
      pictureAmount: number("Picture amount", "", SHARE, 1, "0 is the colours alone, 1 the picture alone.", {
        when: { setting: "hasPicture", is: [true] },
      }),
    },
    settings: {
      hasPicture: toggle("With a picture", false, "Lays a picture over the colours."),
      pictureId: reference("Picture", "picture", "The picture behind everything.", {
        when: { setting: "hasPicture", is: [true] },
      }),
    },
  },
  lens: {
    label: "Air and lens",
    help: "What lies between the stage and the eye: fog, bloom and what the picture keeps of itself.",
    singleton: true,
    properties: {
      fogColour: colour("Fog colour", "#14323a", "What far things fade into."),
      fog: number("Fog", "/s", [0, 1, 0.001], 0, "How much each metre takes away."),
      bloom: number("Bloom", "×", [0, 3, 0.01], 0, "How far bright things shine over their edges."),
      bloomFrom: number("Bloom from", "", [0, 4, 0.01], 0.8, "How bright a thing must be to bloom."),
      bloomReach: number("Bloom reach", "", SHARE, 0.5, "How wide the bloom is."),
      fringing: number("Colour fringing", "", SHARE, 0, "How far colours part towards the edges."),
      feedback: number(
        "Feedback",
        "",
        [0, 0.98, 0.01],
        0,
        "How much of the picture a 60th of a second ago stays.",
      ),
      feedbackGrowth: number(
        "Feedback growth",
        "×",
        [0.8, 1.25, 0.001],
        1,
        "How what stays grows, 60 times a second.",
      ),
      feedbackTurn: number(
        "Feedback turn",
        "°",
        [-20, 20, 0.05],
        0,
        "How what stays turns, 60 times a second.",
      ),
      vignette: number("Vignette", "", SHARE, 0, "How dark the corners are."),
    },
    settings: {},
  },
  box: {
    label: "Box",
    help: "A block on its base, its centre or a corner.",
    singleton: false,
    shelf: "shapes",
    properties: body({ size }),
    settings: { anchor, ...bodySettings },
  },
  sphere: {
    label: "Sphere",
    help: "A ball about its centre.",
    singleton: false,
    shelf: "shapes",
    properties: body({ radius }),
    settings: bodySettings,
  },
  cylinder: {
    label: "Cylinder",
    help: "A drum standing on its base.",
    singleton: false,
    shelf: "shapes",
    properties: body({ radius, height }),
    settings: { anchor, ...bodySettings },
  },
  cone: {
    label: "Cone",
    help: "A cone standing on its base.",
    singleton: false,
    shelf: "shapes",
    properties: body({ radius, height }),
    settings: { anchor, ...bodySettings },
  },
  torus: {
    label: "Torus",
    help: "A hoop lying flat about its centre.",
    singleton: false,
    shelf: "shapes",
    properties: body({
      radius: { ...radius, default: 0.8, help: "From its middle to the middle of the tube." },
      tube: number("Tube", "m", [0.001, 100, 0.002], 0.15, "Radius of the tube."),
    }),
    settings: bodySettings,
  },
  plane: {
    label: "Plane",
    help: "A flat sheet, upright and facing the viewer.",
    singleton: false,
    shelf: "shapes",
    properties: body({ size: { ...size, default: [1.6, 1, 1], help: "Width and height at scale 1." } }),
    settings: { anchor, ...bodySettings },
  },
  icosphere: {
    label: "Icosphere",
    help: "A ball of triangles, from twenty flat sides up.",
    singleton: false,
    shelf: "shapes",
    properties: body({ radius }),
    settings: {
      detail: whole("Detail", [0, 5], 1, "Each step makes four triangles of one."),
      ...bodySettings,
    },
  },
  text: {
    label: "Text",
    help: "Words on a sheet that is clear around them.",
    singleton: false,
    shelf: "shapes",
    properties: body({ height: { ...height, default: 0.6, help: "Height of a line at scale 1." } }),
    settings: {
      text: {
        type: "text",
        label: "Words",
        help: "What it says.",
        section: "main",
        maxLength: 400,
        default: "Lanterns",
      },
      ...bodySettings,
    },
  },
  picture: {
    label: "Picture",
    help: "A PNG, JPEG, WebP or SVG as a sheet; what is clear in it stays clear.",
    singleton: false,
    shelf: "shapes",
    properties: body({ height }),
    settings: { pictureId: reference("Shows", "picture", "The picture it shows."), anchor, ...bodySettings },
  },
  model: {
    label: "Model",
    help: "A glTF model (GLB), whole or one of its parts.",
    singleton: false,
    shelf: "shapes",
    properties: body({}),
    settings: {
      modelId: reference("Shows", "model", "The model it shows."),
      part: {
        type: "text",
        label: "Part",
        help: "Name of one part; empty shows all.",
        section: "main",
        maxLength: 200,
        default: "",
      },
      ...bodySettings,
    },
  },
  group: {
    label: "Group",
    help: "Moves, turns, sizes and repeats what is in it as one.",
    singleton: false,
    properties: { ...solid, ...formed },
    settings: { ...formationSettings },
  },
  material: {
    label: "Material",
    help: "A surface that several objects share.",
    singleton: false,
    properties: surface,
    settings: surfaceSettings,
  },
  waveform: {
    label: "Waveform",
    help: "A line that a sound itself draws.",
    singleton: false,
    shelf: "drawings",
    properties: {
      ...drawn,
      width: number("Width", "m", LENGTH, 6, "From end to end; once round, if it is bent."),
      swing: number("Swing", "m", [0, 100, 0.01], 1.2, "How far full scale goes out."),
      span: number("Span", "ms", [2, 1000, 1], 40, "How much of the sound is seen at once."),
      thickness,
      bend,
    },
    settings: { soundId: listens, ...drawnSettings },
  },
  spectrum: {
    label: "Spectrum",
    help: "A row of levels as a line, a filled shape or bars.",
    singleton: false,
    shelf: "drawings",
    alwaysCopies: true,
    properties: {
      ...drawn,
      copies: parts(1024, 48, "Points or bars of the row; a fan is dealt to them."),
      level,
      width: number("Width", "m", LENGTH, 6, "From end to end; once round, if it is bent."),
      rise: number("Rise", "m", [0, 100, 0.01], 2, "How high a level of 1 is."),
      thickness,
      bend,
    },
    settings: {
      drawnAs: choice(
        "Drawn as",
        { line: "a line", filled: "a filled shape", bars: "bars" },
        "filled",
        "How the levels are joined.",
      ),
      ...drawnSettings,
    },
  },
  outlines: {
    label: "Outlines",
    help: "Shapes about one middle, each answering a band of its own.",
    singleton: false,
    shelf: "drawings",
    alwaysCopies: true,
    properties: {
      ...drawn,
      copies: parts(128, 8, "How many there are; a fan is dealt to them."),
      level,
      inner: number("Innermost", "m", [0, 100, 0.01], 0.4, "Radius of the innermost."),
      spacing: number("Spacing", "m", [0, 100, 0.01], 0.25, "From each to the next."),
      swell: number("Swell", "m", [0, 100, 0.01], 0.3, "How much wider a level of 1 makes one."),
      thickness,
    },
    settings: { sides: whole("Sides", [3, 96], 96, "Corners of each; many look round."), ...drawnSettings },
  },
  nest: {
    label: "Nested boxes",
    help: "Frames of boxes inside each other, growing from a corner or the centre.",
    singleton: false,
    shelf: "drawings",
    alwaysCopies: true,
    properties: {
      ...drawn,
      copies: parts(128, 8, "How many there are; a fan is dealt to them."),
      level,
      size: {
        ...size,
        default: [3, 2, 0.01],
        help: "Width, height and depth of the outermost at a level of 1.",
      },
      least: number("Least", "", SHARE, 0.1, "Share of its size that each keeps in silence."),
      thickness,
    },
    settings: {
      growsFrom: choice(
        "Grows from",
        {
          centre: "the centre",
          bottomLeft: "bottom left",
          bottomRight: "bottom right",
          topLeft: "top left",
          topRight: "top right",
        },
        "centre",
        "The point that all of them share.",
      ),
      ...drawnSettings,
    },
  },
  ribbon: {
    label: "Ribbon",
    help: "The recent past of a strand as a band that streams away.",
    singleton: false,
    shelf: "drawings",
    properties: {
      ...solid,
      ...glowing,
      level: { ...level, perCopy: undefined, help: "How high it is now: bind a strand." },
      rise: number("Rise", "m", [0, 100, 0.01], 2, "How high a level of 1 is."),
      width: number("Width", "m", [0.01, 100, 0.01], 0.6, "From edge to edge."),
      lasting: number("Lasting", "s", [0.1, 20, 0.1], 4, "How much of the past is seen."),
      flow: vector(
        "Streaming",
        "m/s",
        [-100, 100, 0.01],
        [0, 0, -2],
        "Where the past moves to, each second.",
      ),
    },
    settings: drawnSettings,
  },
  particles: {
    label: "Particles",
    help: "Sparks that rise, spread, fall and fade.",
    singleton: false,
    shelf: "moving",
    properties: {
      ...placed,
      rate: number("Rate", "/s", [0, 2000, 1], 40, "How many begin in a second."),
      burst: number(
        "Burst",
        "",
        [0, 2000, 1],
        0,
        "How many begin at once: bind it to kick, and each cue throws so many.",
        {
          atCues: true,
        },
      ),
      direction: vector("Towards", "", [-1, 1, 0.01], [0, 1, 0], "The way they set out."),
      speed: number("Speed", "m/s", [0, 100, 0.01], 1.5, "How fast they set out."),
      spread: number("Spread", "°", [0, 180, 1], 25, "How far from that way they may set out."),
      from: number("Begin within", "m", [0, 100, 0.01], 0.1, "Radius of the ball they begin in."),
      life: number("Life", "s", [0.05, 10, 0.05], 2, "How long each of them lasts."),
      gravity: number(
        "Gravity",
        "m/s²",
        [-50, 50, 0.1],
        -0.6,
        "How fast they are drawn downwards; below 0 they rise.",
      ),
      size: number("Size", "m", [0.001, 10, 0.005], 0.06, "How large they begin."),
      endSize: number("Size at the end", "m", [0, 10, 0.005], 0.02, "How large they end."),
      colour: colour("Colour", "#ffcf6b", "The colour they begin in."),
      middleColour: colour("Half-way colour", "#ff8a5a", "The colour they have half-way."),
      endColour: colour("End colour", "#5a1d2e", "The colour they end in."),
      glow: number("Glow", "×", GLOW, 1.4, "How strongly they shine."),
      opacity: number("Opacity", "", SHARE, 1, "How much they cover; each fades to nothing at its end."),
      cap: number("At most", "", [1, 20_000, 1], 2000, "The oldest go when there would be more."),
    },
    settings: {
      blend: { ...blendSetting, default: "add", section: "main" },
      seed: formationSettings.seed,
    },
  },
  orbits: {
    label: "Orbits",
    help: "Bodies that circle, each leaving a trail.",
    singleton: false,
    shelf: "moving",
    properties: {
      ...solid,
      bodies: number("Bodies", "", [1, 64, 1], 6, "How many circle."),
      speed: number("Speed", "°/s", [-1440, 1440, 1], 60, "How fast they go round; below 0 the other way.", {
        integrates: true,
      }),
      speedSpread: number("Speeds by chance", "", SHARE, 0, "How much slower or faster a body may be."),
      radius: number(
        "Radius",
        "m",
        [-500, 500, 0.01],
        2,
        "From the middle to each; below 0 it is on the far side.",
      ),
      climb: number("Height", "m", [-500, 500, 0.01], 0, "How high they circle."),
      tilt: number("Tilt", "°", [-180, 180, 1], 0, "How far their circle is tipped.", { wraps: 360 }),
      waveRadius: number(
        "Wave on radius",
        "m",
        [0, 100, 0.01],
        0,
        "How far the sound’s full scale moves a body out.",
      ),
      waveHeight: number(
        "Wave on height",
        "m",
        [0, 100, 0.01],
        0,
        "How far the sound’s full scale moves a body up.",
      ),
      bodySize: number("Body size", "m", [0.005, 50, 0.005], 0.16, "Width of each body."),
      trail: number("Trail", "s", [0, 6, 0.05], 1.2, "How long their way is seen."),
      ...glowing,
      emissionStrength: { ...glowing.emissionStrength, default: 1 },
    },
    settings: { soundId: listens, blend: { ...blendSetting, default: "add" }, seed: formationSettings.seed },
  },
  pointLight: {
    label: "Lamp",
    help: "Light from a point, the same in all directions.",
    singleton: false,
    shelf: "lights",
    properties: {
      position,
      colour: colour("Colour", "#ffd9a0", "Colour of the light."),
      intensity: number("Strength", "cd", [0, 2000, 0.1], 30, "Luminous intensity."),
      reach: number("Reach", "m", [0, 1000, 0.1], 0, "Where it ends; 0 fades by the inverse square alone."),
      visibility,
    },
    settings: {},
  },
  spotLight: {
    label: "Spotlight",
    help: "Light from a point in a cone.",
    singleton: false,
    shelf: "lights",
    properties: {
      position: { ...position, default: [0, 5, 3] },
      target: vector("Aimed at", "m", PLACE, [0, 0, 0], "The point in the middle of its light."),
      colour: colour("Colour", "#ffe6bf", "Colour of the light."),
      intensity: number("Strength", "cd", [0, 5000, 0.1], 120, "Luminous intensity."),
      angle: number("Opening", "°", [1, 85, 1], 24, "From the middle of the cone to its edge."),
      softness: number("Softness", "", SHARE, 0.4, "0 is a sharp edge, 1 none at all."),
      reach: number("Reach", "m", [0, 1000, 0.1], 0, "Where it ends; 0 fades by the inverse square alone."),
      visibility,
    },
    settings: {},
  },
  sunLight: {
    label: "Moonlight",
    help: "Light from far away, in one direction.",
    singleton: false,
    shelf: "lights",
    properties: {
      position: vector("From", "m", PLACE, [4, 8, 3], "The direction it comes from, towards the origin."),
      colour: colour("Colour", "#9fc4d8", "Colour of the light."),
      intensity: number("Strength", "lx", [0, 100, 0.01], 1, "Illuminance on a surface that faces it."),
      visibility,
    },
    settings: {},
  },
  ambientLight: {
    label: "Ambient light",
    help: "Light from everywhere, without shadows or direction.",
    singleton: false,
    shelf: "lights",
    properties: {
      colour: colour("Colour", "#88a8b0", "Colour of the light."),
      intensity: number("Strength", "lx", [0, 100, 0.01], 0.4, "How much of it there is."),
      visibility,
    },
    settings: {},
  },
  ground: {
    label: "Ground",
    help: "A floor, plain or with a grid of lines.",
    singleton: false,
    shelf: "around",
    properties: {
      position,
      extent: number("Extent", "m", [1, 1000, 1], 60, "From edge to edge."),
      colour: colour("Colour", "#10272f", "Colour of the floor."),
      roughness: surface.roughness,
      metalness: surface.metalness,
      lineColour: colour("Line colour", "#3d5a57", "Colour of the lines."),
      lineGlow: number("Line glow", "×", GLOW, 0.6, "How strongly the lines shine."),
      lineEvery: number("Line every", "m", [0, 50, 0.1], 1, "From line to line; 0 draws none."),
      visibility,
    },
    settings: {},
  },
  water: {
    label: "Water",
    help: "A surface of moving waves.",
    singleton: false,
    shelf: "around",
    properties: {
      position,
      extent: number("Extent", "m", [1, 1000, 1], 120, "From edge to edge."),
      colour: colour("Colour", "#0a2329", "Colour of the water."),
      roughness: { ...surface.roughness, default: 0.25 },
      metalness: { ...surface.metalness, default: 0.5 },
      waves: number("Waves", "m", [0, 5, 0.005], 0.06, "How high the waves are."),
      waveLength: number("Wave length", "m", [0.2, 100, 0.1], 3, "From crest to crest."),
      waveSpeed: number("Wave speed", "m/s", [-20, 20, 0.01], 0.8, "How fast they run.", {
        integrates: true,
      }),
      opacity: number("Opacity", "", SHARE, 1, "0 cannot be seen, 1 hides what is below."),
      visibility,
    },
    settings: {},
  },
} as const satisfies Record<string, ObjectKindDeclaration>;

export type ObjectKind = keyof typeof OBJECT_KINDS;
export const OBJECT_KIND_NAMES = Object.keys(OBJECT_KINDS) as ObjectKind[];
export const SINGLETON_KINDS = OBJECT_KIND_NAMES.filter((kind) => OBJECT_KINDS[kind].singleton);

const declared = (kind: ObjectKind): ObjectKindDeclaration => OBJECT_KINDS[kind];

/** The declared properties of a kind, in the order they are shown. */
export const propertiesOf = (kind: ObjectKind): Record<string, Property> => declared(kind).properties;

/** The declared settings of a kind, in the order they are shown. */
export const settingsOf = (kind: ObjectKind): Record<string, ObjectSetting> => declared(kind).settings;

/** What of an object decides which of its properties have an effect. */
export interface Configured {
  kind: ObjectKind;
  settings: Readonly<Record<string, SettingValue>>;
}

/** A setting's value: the object's own, or the kind's default. */
export function settingOf({ kind, settings }: Configured, key: string): SettingValue {
  return settings[key] ?? settingsOf(kind)[key]?.default ?? null;
}

/** Whether a property or setting has any effect with the object's settings as they are. */
export function isInUse(object: Configured, declaration: Property | ObjectSetting): boolean {
  const { when } = declaration;
  if (!when) return true;
  if (!when.is.includes(settingOf(object, when.setting))) return false;
  const needed = settingsOf(object.kind)[when.setting];
  return !needed || isInUse(object, needed);
}

/** The properties of an object that have an effect, in the order they are shown. */
export function propertiesInUse(object: Configured): Record<string, Property> {
  const all = propertiesOf(object.kind);
  // A surface that is shared belongs to the material.
  const isShared = object.kind !== "material" && settingOf(object, "materialId") !== null;
  return Object.fromEntries(
    Object.entries(all).filter(
      ([key, property]) =>
        isInUse(object, property) && !(isShared && property.section === "surface" && key in surface),
    ),
  );
}

/** Whether an object is made of copies, each of which may have numbers of its own. */
export function hasCopies(object: Configured): boolean {
  if (declared(object.kind).alwaysCopies) return true;
  return "formation" in settingsOf(object.kind) && settingOf(object, "formation") !== "none";
}

/** Whether it is a thing with a surface, drawn once for each of its copies. */
export function isBody(kind: ObjectKind): boolean {
  return "wakeRate" in propertiesOf(kind);
}

/** Whether things can be put into it, or it into a group. */
export function isGroupable(kind: ObjectKind): boolean {
  return !declared(kind).singleton && kind !== "material";
}

/** Whether it has a place on the stage that handles can move. */
export const isPlaced = (kind: ObjectKind): boolean =>
  "position" in propertiesOf(kind) && !declared(kind).singleton;
export const isTurnable = (kind: ObjectKind): boolean => "rotation" in propertiesOf(kind);
