import { type Static, type TObject, Type } from "@sinclair/typebox";
import { AnswerSchema } from "../action/answer";
import { MAX_CODE, PROGRAM_KIND_NAMES } from "../program/kinds";
import { COLOUR_MIXES } from "../setting/colour";
import { number, type SettingValue, toggle } from "../setting/descriptor";
import { PALETTE_IDS } from "../setting/palettes";
import type { Property } from "../setting/property";
import {
  ColourStops,
  closed,
  Id,
  Name,
  oneOf,
  orNull,
  PropertyKey,
  Seed,
  Share,
  settingSchemas,
  tagged,
} from "../setting/schema";
import { BusSchema, GroupSchema, SoundSchema } from "../sound/kinds";
import { TAPS } from "../sound/mix";
import { SOUND_PART_NAMES } from "../sound/parts";
import { CueSettingsSchema } from "../strand/cues";
import { MeasureSchema } from "../strand/measures/table";
import { ShapingSchema } from "../strand/shape/shaping";
import { AXES } from "./axes";
import { MAX_ITEMS, SCENE_FORMAT, SCENE_VERSION, type SceneList } from "./sceneLimits";
import { TRY_OUT_NAMES } from "./take/tryOuts";

export { AXES, type Axis } from "./axes";
export { TRY_OUT_NAMES, TRY_OUTS, type TryOut } from "./take/tryOuts";

/** Hues a strand can own: numbers of a colour-blind-safe set that the interface defines. */
export const HUE_COUNT = 8;
export const STRAND_SHAPES = [
  "circle",
  "diamond",
  "wave",
  "comb",
  "triangle",
  "square",
  "cross",
  "crescent",
] as const;
export type StrandShape = (typeof STRAND_SHAPES)[number];

/** The part of a sound that is heard; all of it without one. */
const part = Type.Optional(oneOf(SOUND_PART_NAMES));

/** Source that a strand listens to. */
export const ListensToSchema = tagged([
  Type.Object({ kind: Type.Literal("nothing") }, closed),
  Type.Object({ kind: Type.Literal("sound"), id: Id, tap: oneOf(TAPS), part }, closed),
  Type.Object({ kind: Type.Literal("bus"), id: Id, tap: oneOf(TAPS), part }, closed),
  /** A zone on the stage: how near its middle visitors or things are. */
  Type.Object({ kind: Type.Literal("zone"), id: Id }, closed),
  /** Other strands, shaped, in the order they are combined. */
  Type.Object({ kind: Type.Literal("strands"), ids: Type.Array(Id, { maxItems: 16 }) }, closed),
]);
export type ListensTo = Static<typeof ListensToSchema>;

/** The parts of a strand that are tuned. */
const tuning = { measure: MeasureSchema, shaping: ShapingSchema, cues: CueSettingsSchema };

export const StrandSchema = Type.Object(
  {
    id: Id,
    name: Name,
    hue: Type.Integer({ minimum: 0, maximum: HUE_COUNT - 1 }),
    shape: oneOf(STRAND_SHAPES),
    listensTo: ListensToSchema,
    /** A muted strand drives nothing; what it would drive rests. */
    muted: Type.Boolean(),
    ...tuning,
  },
  closed,
);
export type Strand = Static<typeof StrandSchema>;

/** A property's resting value. */
export type RestValue = number | [number, number, number] | string;

/**
 * The kinds of object there are. `kinds/` adds them by declaration merging, so that the document can name them without
 * depending on them.
 */
// biome-ignore lint/suspicious/noEmptyInterface: it is filled where kinds are declared
export interface ObjectKinds {}
export type ObjectKind = keyof ObjectKinds & string;

/**
 * An object on the stage. Properties that `rest` leaves out rest at their declared default, and settings that
 * `settings` leaves out have the kind's default. Which of them exist is declared by the kind.
 */
export interface StageObject {
  id: string;
  name: string;
  kind: ObjectKind;
  /** The group it is in; it moves with it. */
  parentId: string | null;
  /** Hidden, it is not drawn; its numbers are evaluated all the same. */
  hidden: boolean;
  /** Locked, it is not chosen or moved on the stage. */
  locked: boolean;
  settings: Record<string, SettingValue>;
  rest: Record<string, RestValue>;
  /** Properties of its own, beside those of its kind: declared by what it shows. */
  own?: Record<string, Property>;
  /** Ids of the strands, sounds and images that its program reads, by the keys of the program's values. */
  links?: Record<string, string>;
}

/** A named time on the tape. */
export const MarkSchema = Type.Object(
  {
    id: Id,
    name: Name,
    timeS: Type.Number({ minimum: 0, maximum: 24 * 3600 }),
    /** A section of the piece begins here. */
    beginsSection: Type.Boolean(),
  },
  closed,
);
export type Mark = Static<typeof MarkSchema>;

/** How a walking, orbiting or still visitor looks at a scene in a window. */
export const LOOKS = {
  camera: "from where the camera is",
  orbit: "round it",
  walk: "walking in it",
} as const;
export type LookWay = keyof typeof LOOKS;
/** Cameras that delivered pages offer the scene to be seen through. */
export const CAMERA_OFFERS = {
  none: "no camera",
  front: "the front camera",
  back: "the back camera",
} as const;
export type CameraOffer = keyof typeof CAMERA_OFFERS;
/** How a scene is met where it is delivered. */
export const MeetingSchema = Type.Object(
  {
    look: oneOf(Object.keys(LOOKS) as LookWay[]),
    camera: oneOf(Object.keys(CAMERA_OFFERS) as CameraOffer[]),
    /** True if it is offered in headsets: all round, and in the visitor's room. */
    headset: Type.Boolean(),
    room: Type.Boolean(),
  },
  closed,
);
export type Meeting = Static<typeof MeetingSchema>;
export const newMeeting = (): Meeting => ({ look: "camera", camera: "none", headset: false, room: false });

/** Use of the chosen take in a delivered scene: left out, or played until somebody comes. */
export const TAKE_USES = { none: "leave it out", demo: "play it until somebody comes" } as const;
export type TakeUse = keyof typeof TAKE_USES;

const Pixels = Type.Integer({ minimum: 1, maximum: 8192 });
/** Kinds of file that a scene shows or is shown by, and what they are called. */
export const ASSET_KINDS = {
  picture: { label: "image", format: "PNG, JPEG or WebP image" },
  model: { label: "model", format: "glTF model (GLB)" },
  panorama: { label: "panorama", format: "HDR, EXR or KTX2 panorama" },
  lut: { label: "LUT", format: "LUT (.cube)" },
  take: { label: "take", format: "take (JSON)" },
} as const;
/** A file that objects show; its bytes are stored apart from the document. */
export const AssetSchema = tagged([
  Type.Object(
    { kind: Type.Literal("picture"), id: Id, name: Name, storedId: Id, widthPx: Pixels, heightPx: Pixels },
    closed,
  ),
  Type.Object(
    {
      kind: Type.Literal("model"),
      id: Id,
      name: Name,
      storedId: Id,
      parts: Type.Array(Type.String({ minLength: 1, maxLength: 200 }), { maxItems: 1024 }),
      triangles: Type.Integer({ minimum: 0 }),
    },
    closed,
  ),
  /** An image of all that is round a place, as light. */
  Type.Object({ kind: Type.Literal("panorama"), id: Id, name: Name, storedId: Id }, closed),
  /** A table that maps colours. */
  Type.Object({ kind: Type.Literal("lut"), id: Id, name: Name, storedId: Id }, closed),
  /** Actions of visitors during one try. */
  Type.Object(
    {
      kind: Type.Literal("take"),
      id: Id,
      name: Name,
      storedId: Id,
      lengthS: Type.Number({ minimum: 0, maximum: 24 * 3600 }),
      tryOut: oneOf(TRY_OUT_NAMES),
    },
    closed,
  ),
]);
export type Asset = Static<typeof AssetSchema>;

const Code = Type.String({ maxLength: MAX_CODE });
/** A piece of code of the user's own; objects use it by its id. */
export const ProgramSchema = Type.Object(
  {
    id: Id,
    name: Name,
    kind: oneOf(PROGRAM_KIND_NAMES),
    /** The last version that worked: what is shown and delivered. */
    code: Code,
    /** Newer text that does not work yet; `null` when there is none. */
    draft: orNull(Code),
  },
  closed,
);
export type Program = Static<typeof ProgramSchema>;

/**
 * - `set`, `add`, `multiply`: the property goes to a value, is raised by it, or is multiplied by it
 * - `rate`: the value is added each second
 * - `kick`: at each cue the value is added, and dies away
 */
export const BINDING_MODES = ["set", "add", "multiply", "rate", "kick"] as const;
export type BindingMode = (typeof BINDING_MODES)[number];

/** How a fan's numbers are handed to copies. */
export const DEALS = {
  order: "in order",
  reversed: "reversed",
  mirrored: "mirrored",
  shuffled: "shuffled",
  place: "by place",
  one: "one for all",
} as const;
export type DealKind = keyof typeof DEALS;

/** Ends of a binding's input and output ranges. */
export const RANGE_END = number("Range end", "", [-1e6, 1e6, 0.01], 0, "An end of a range.");
/** Settings of a kick. */
export const KICK_SETTINGS = {
  decayMs: number("Decay", "ms", [1, 60_000, 1], 250, "Time in which a kick falls to 37 %.", { chars: 5 }),
  alternate: toggle("Alternate sides", false, "Every other kick goes the other way."),
};
/** The power curve between input and output. */
export const CURVE_SETTINGS = {
  power: number("Power", "", [0.05, 20, 0.05], 1, "Above 1 keeps small shares small, below 1 lifts them."),
};
const Finite = settingSchemas({ end: RANGE_END }).end;
/** The parts of a binding that are tuned. */
const ranges = {
  mode: oneOf(BINDING_MODES),
  /** Axes of a vector that move; all of them makes a scale grow evenly. Ignored for other properties. */
  axes: Type.Array(oneOf(AXES), { minItems: 1, maxItems: 3, uniqueItems: true }),
  /** Strand values that stand for the two ends of the output. */
  input: Type.Object({ low: Finite, high: Finite }, closed),
  /** Between input and output: a power of the share, or a drawn line. */
  curve: tagged([
    Type.Object({ kind: Type.Literal("power"), ...settingSchemas(CURVE_SETTINGS) }, closed),
    Type.Object(
      {
        kind: Type.Literal("drawn"),
        points: Type.Array(Type.Object({ at: Share, value: Share }, closed), { minItems: 1, maxItems: 32 }),
      },
      closed,
    ),
  ]),
  output: tagged([
    Type.Object({ kind: Type.Literal("range"), low: Finite, high: Finite }, closed),
    Type.Object({ kind: Type.Literal("colours"), stops: ColourStops, mix: oneOf(COLOUR_MIXES) }, closed),
  ]),
  /** How a fan is dealt to copies; of other strands every copy has the same. */
  deal: Type.Object(
    {
      kind: oneOf(Object.keys(DEALS) as DealKind[]),
      seed: Seed,
    },
    closed,
  ),
  ...settingSchemas(KICK_SETTINGS),
};
export const BindingSchema = Type.Object(
  {
    id: Id,
    strandId: Id,
    objectId: Id,
    property: PropertyKey,
    ...ranges,
  },
  closed,
);
export type Binding = Static<typeof BindingSchema>;
/** Keys of the parts of a binding that are tuned. */
export const TUNED_OF_BINDING = Object.keys(ranges) as (keyof typeof ranges)[];

/** Devices whose limits a scene's weight is compared with. */
export const BUDGETS = ["desktop", "phone", "headset"] as const;
/** Steps of rendering quality, the finest first; the numbers are the same at each. */
export const QUALITY_STEPS = {
  film: "film",
  desktop: "desktop",
  headset: "headset",
  phone: "phone",
  plain: "plain, no effects",
} as const;
export type QualityStep = keyof typeof QUALITY_STEPS;
/** A step, or `auto`: that of the budget, and a lower one while frames take too long. */
export const QUALITIES = ["auto", ...(Object.keys(QUALITY_STEPS) as QualityStep[])] as const;
export type Quality = (typeof QUALITIES)[number];

const upTo = (list: SceneList) => ({ maxItems: MAX_ITEMS[list] });

/** A named state of all tunings; what has been added since is not in it. */
export const KeepSchema = Type.Object(
  {
    id: Id,
    name: Name,
    strands: Type.Array(Type.Object({ id: Id, ...tuning }, closed), upTo("strands")),
    bindings: Type.Array(Type.Object({ id: Id, ...ranges }, closed), upTo("bindings")),
    programs: Type.Array(Type.Pick(ProgramSchema, ["id", "code"], closed), upTo("programs")),
  },
  closed,
);
export type Keep = Static<typeof KeepSchema>;

/** Flashes measured when the picture was last looked through; `null` before that. */
export const FlashingSchema = Type.Object(
  {
    /** The most flashes within a second, general or red. */
    most: Type.Integer({ minimum: 0, maximum: 1000 }),
    /** Stretches of the tape with more than are allowed. */
    stretches: Type.Array(
      Type.Object(
        {
          fromS: Type.Number({ minimum: 0 }),
          toS: Type.Number({ minimum: 0 }),
          flashes: Type.Integer({ minimum: 0, maximum: 1000 }),
          isRed: Type.Boolean(),
        },
        closed,
      ),
      { maxItems: 64 },
    ),
  },
  closed,
);
export type Flashing = Static<typeof FlashingSchema>;

/** Stretch of the tape that loops; `null` loops all of it. */
const Stretch = orNull(
  Type.Object({ fromS: Type.Number({ minimum: 0 }), toS: Type.Number({ minimum: 0 }) }, closed),
);

/**
 * The schema of a scene: everything in a project that is not stored bytes, the only truth for undo, autosave, export
 * and the player.
 *
 * @param objects  the schema of each kind of object
 */
export function sceneSchema(objects: readonly TObject[]) {
  return Type.Object(
    {
      format: Type.Literal(SCENE_FORMAT),
      version: Type.Literal(SCENE_VERSION),
      name: Name,
      /** One line of what it is or teaches, for lists of projects. */
      about: Type.String({ maxLength: 200 }),
      loop: Type.Boolean(),
      stretch: Stretch,
      sounds: Type.Array(SoundSchema, upTo("sounds")),
      buses: Type.Array(BusSchema, upTo("buses")),
      groups: Type.Array(GroupSchema, upTo("groups")),
      strands: Type.Array(StrandSchema, upTo("strands")),
      objects: Type.Array(Type.Unsafe<StageObject>(tagged(objects)), upTo("objects")),
      assets: Type.Array(AssetSchema, upTo("assets")),
      programs: Type.Array(ProgramSchema, upTo("programs")),
      budget: oneOf(BUDGETS),
      quality: oneOf(QUALITIES),
      palette: Type.Object({ id: oneOf(PALETTE_IDS), seed: Seed }, closed),
      bindings: Type.Array(BindingSchema, upTo("bindings")),
      answers: Type.Array(AnswerSchema, upTo("answers")),
      marks: Type.Array(MarkSchema, upTo("marks")),
      /** True if the tape plays as soon as a visitor comes; otherwise an answer starts it. */
      beginsAtOnce: Type.Boolean(),
      meeting: MeetingSchema,
      /** The take that films and thumbnails show, and what delivered pages do with it. */
      takeId: orNull(Id),
      takeUse: oneOf(Object.keys(TAKE_USES) as TakeUse[]),
      /** True if the picture is limited so that it never flashes more than WCAG 2.3.1 allows. */
      limitsFlashes: Type.Boolean(),
      flashing: orNull(FlashingSchema),
      keeps: Type.Array(KeepSchema, upTo("keeps")),
    },
    { ...closed, $id: "https://bumbrel.invalid/scene.schema.json", title: "Bumbrel scene" },
  );
}
export type Scene = Static<ReturnType<typeof sceneSchema>>;
