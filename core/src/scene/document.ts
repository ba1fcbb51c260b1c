import { type Static, type TSchema, Type } from "@sinclair/typebox";
import { FADER_OFF_DB, FADER_TOP_DB } from "../dsp/decibel";
import { NOISE_KINDS, SWEEP_KINDS, TONE_KINDS } from "../dsp/tone";
import { oneOf, orNull, tagged } from "../schemaParts";
import { CLOCK_SETTINGS } from "../strand/clock";
import { CueSettingsSchema } from "../strand/cue";
import { MeasureSchema } from "../strand/measures";
import { ShapingSchema } from "../strand/shaping";
import { COLOUR_MIXES, HEX_COLOUR_PATTERN } from "./colour";
import { OBJECT_KIND_NAMES, type ObjectKind, propertiesOf, settingsOf } from "./objectKinds";
import type { ObjectSetting, Property, SettingValue } from "./properties";

export const SCENE_FORMAT = "bumbrel-scene";
export const SCENE_VERSION = 4;

const closed = { additionalProperties: false } as const;
const Id = Type.String({ minLength: 1, maxLength: 64, pattern: "^[A-Za-z0-9_-]+$" });
const Name = Type.String({ minLength: 1, maxLength: 120 });
const Colour = Type.String({ pattern: HEX_COLOUR_PATTERN });

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

/** Gain in dB as a fader has it; the lowest is off. */
const FaderDb = Type.Number({ minimum: FADER_OFF_DB, maximum: FADER_TOP_DB });
const Pan = Type.Number({ minimum: -1, maximum: 1 });
const Metres = Type.Number({ minimum: -1000, maximum: 1000 });

/** Where a sound is on the stage, and what its distance from the camera does. */
export const PlaceSchema = Type.Object(
  {
    /** Right, up, towards the viewer. */
    position: Type.Array(Metres, { minItems: 3, maxItems: 3 }),
    referenceM: Type.Number({ minimum: 0.1, maximum: 1000 }),
    maximumM: Type.Number({ minimum: 0.1, maximum: 10_000 }),
    rollOff: Type.Number({ minimum: 0, maximum: 10 }),
    /** Whether what is heard follows the distance to the camera. */
    heardFollows: Type.Boolean(),
    /** Whether what strands read follows the distance between the resting places. */
    analysedFollows: Type.Boolean(),
  },
  closed,
);
export type Place = Static<typeof PlaceSchema>;

/**
 * - `tape`: starts, seeks and loops with the tape
 * - `alone`: has a play button and a position of its own; on a delivered page it starts with the tape
 */
export const RUNS = ["tape", "alone"] as const;
export type Runs = (typeof RUNS)[number];
const running = {
  runs: oneOf(RUNS),
  /** Whether it goes round by itself, at its own length, for as long as it runs. */
  loops: Type.Boolean(),
};

const soundBasics = {
  id: Id,
  name: Name,
  /** Whether it is heard, or only listened to by strands. */
  heard: Type.Boolean(),
  muted: Type.Boolean(),
  faderDb: FaderDb,
  /** −1 left, 1 right; equal-power. */
  pan: Pan,
  /** The bus it goes to; `null` goes straight to the output. */
  busId: orNull(Id),
  /** The group it starts, seeks and loops with; how the group runs then counts, not how the sound does. */
  groupId: orNull(Id),
  ...running,
  place: orNull(PlaceSchema),
};
/** Length of a made sound, and its level: the peak of a tone, relative to the loudest of a noise. */
const madeBasics = {
  /** Off, it is silence. */
  on: Type.Boolean(),
  seconds: Type.Number({ minimum: 0.1, maximum: 1800 }),
  levelDb: Type.Number({ minimum: -80, maximum: 0 }),
};
const ToneHz = Type.Number({ minimum: 1, maximum: 23_000 });

export const FileSoundSchema = Type.Object(
  {
    ...soundBasics,
    kind: Type.Literal("file"),
    /** The stored sound it plays; sounds are kept apart from documents, which only point to them. */
    storedId: Id,
  },
  closed,
);
export const ToneSoundSchema = Type.Object(
  {
    ...soundBasics,
    ...madeBasics,
    kind: Type.Literal("tone"),
    waveform: oneOf(TONE_KINDS),
    hz: ToneHz,
    /** Where a sweep ends; `null` for a tone that stays. */
    toHz: orNull(ToneHz),
    sweep: oneOf(SWEEP_KINDS),
  },
  closed,
);
export const NoiseSoundSchema = Type.Object(
  {
    ...soundBasics,
    ...madeBasics,
    kind: Type.Literal("noise"),
    colour: oneOf(NOISE_KINDS),
    seed: Type.Integer({ minimum: 0, maximum: 4_294_967_295 }),
  },
  closed,
);
/** A beat clock; what is heard of it is a click on each tick. */
export const ClockSoundSchema = Type.Object(
  { ...soundBasics, ...madeBasics, kind: Type.Literal("clock"), ...CLOCK_SETTINGS },
  closed,
);
/** A Standard MIDI File; what is heard of it is a short tone on each note. */
export const NotesSoundSchema = Type.Object(
  { ...soundBasics, kind: Type.Literal("notes"), storedId: Id },
  closed,
);

/** A table of numbers over time, as CSV; it is never heard, and is read by strands as it stands. */
export const TableSoundSchema = Type.Object(
  { ...soundBasics, kind: Type.Literal("table"), storedId: Id },
  closed,
);

/** A device by its id in this browser, and by its name elsewhere; `null` is the made-up one. */
const Device = orNull(Type.Object({ id: Type.String({ maxLength: 256 }), name: Name }, closed));

export const INPUT_BUFFERS = [128, 256, 512, 1024, 2048, 4096] as const;
/** A microphone or interface. */
export const InputSoundSchema = Type.Object(
  {
    ...soundBasics,
    kind: Type.Literal("input"),
    device: Device,
    /** Which of the device's channels, from 0; `null` mixes all of them. */
    channel: orNull(Type.Integer({ minimum: 0, maximum: 31 })),
    /** The rate asked of the device; `null` leaves it to the device. */
    rateHz: orNull(Type.Integer({ minimum: 8000, maximum: 192_000 })),
    /** Samples that are gathered before they are handed on. */
    bufferSamples: oneOf(INPUT_BUFFERS),
    echoCancelling: Type.Boolean(),
    noiseSuppression: Type.Boolean(),
  },
  closed,
);
/** A keyboard or knob box, played live. */
export const KeysSoundSchema = Type.Object(
  { ...soundBasics, kind: Type.Literal("keys"), device: Device },
  closed,
);

export const SoundSchema = tagged([
  FileSoundSchema,
  ToneSoundSchema,
  NoiseSoundSchema,
  ClockSoundSchema,
  NotesSoundSchema,
  TableSoundSchema,
  InputSoundSchema,
  KeysSoundSchema,
]);
export type Sound = Static<typeof SoundSchema>;
/** A sound that happens now and has no samples ahead of time. */
export type LiveSound = Extract<Sound, { kind: "input" | "keys" }>;
export type InputSound = Extract<Sound, { kind: "input" }>;
export type ClockSound = Extract<Sound, { kind: "clock" }>;

export const isLive = (sound: Sound): sound is LiveSound => sound.kind === "input" || sound.kind === "keys";

/** A named mix that sounds go to; it goes to the output. */
export const BusSchema = Type.Object(
  { id: Id, name: Name, faderDb: FaderDb, pan: Pan, muted: Type.Boolean() },
  closed,
);
export type Bus = Static<typeof BusSchema>;

/** Sounds that start, seek and loop as one, at the length of the longest. */
export const GroupSchema = Type.Object({ id: Id, name: Name, ...running }, closed);
export type Group = Static<typeof GroupSchema>;

/** Before a fader, or after it. */
export const TAPS = ["before", "after"] as const;
export type Tap = (typeof TAPS)[number];

/** What a strand listens to. */
export const ListensToSchema = tagged([
  Type.Object({ kind: Type.Literal("nothing") }, closed),
  Type.Object({ kind: Type.Literal("sound"), id: Id, tap: oneOf(TAPS) }, closed),
  Type.Object({ kind: Type.Literal("bus"), id: Id, tap: oneOf(TAPS) }, closed),
  /** Other strands, shaped, in the order they are combined. */
  Type.Object({ kind: Type.Literal("strands"), ids: Type.Array(Id, { maxItems: 16 }) }, closed),
]);
export type ListensTo = Static<typeof ListensToSchema>;

/** What of a strand is tuned. */
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

/** What a property's resting value may be. */
export type RestValue = number | [number, number, number] | string;

function restSchema(property: Property): TSchema {
  switch (property.type) {
    case "number":
      return Type.Number({ minimum: property.min, maximum: property.max });
    case "vector":
      return Type.Array(Type.Number({ minimum: property.min, maximum: property.max }), {
        minItems: 3,
        maxItems: 3,
      });
    case "colour":
      return Colour;
  }
}

const ColourStops = Type.Array(
  Type.Object({ at: Type.Number({ minimum: 0, maximum: 1 }), colour: Colour }, closed),
  {
    minItems: 1,
    maxItems: 32,
  },
);

function settingSchema(setting: ObjectSetting): TSchema {
  switch (setting.type) {
    case "choice":
      return oneOf(Object.keys(setting.choices));
    case "switch":
      return Type.Boolean();
    case "whole":
      return Type.Integer({ minimum: setting.min, maximum: setting.max });
    case "text":
      return Type.String({ maxLength: setting.maxLength });
    case "reference":
      return orNull(Id);
    case "stops":
      return ColourStops;
    case "path":
      return Type.Array(Type.Array(Metres, { minItems: 3, maxItems: 3 }), { minItems: 2, maxItems: 64 });
  }
}

/**
 * An object on the stage. Properties that `rest` leaves out rest at the kind's default, and settings that `settings`
 * leaves out are the kind's default.
 */
export interface StageObject {
  id: string;
  name: string;
  kind: ObjectKind;
  /** The group it is in; it moves with it. */
  parentId: string | null;
  /** Hidden, it is not drawn; the numbers go on. */
  hidden: boolean;
  /** Locked, it is not chosen or moved on the stage. */
  locked: boolean;
  settings: Record<string, SettingValue>;
  rest: Record<string, RestValue>;
}

const some = (schemas: Record<string, TSchema>) => Type.Partial(Type.Object(schemas, closed));
const mapped = <T>(record: Record<string, T>, to: (value: T) => TSchema) =>
  Object.fromEntries(Object.entries(record).map(([key, value]) => [key, to(value)]));

export const StageObjectSchema = Type.Unsafe<StageObject>(
  tagged(
    OBJECT_KIND_NAMES.map((kind) =>
      Type.Object(
        {
          id: Id,
          name: Name,
          kind: Type.Literal(kind),
          parentId: orNull(Id),
          hidden: Type.Boolean(),
          locked: Type.Boolean(),
          settings: some(mapped(settingsOf(kind), settingSchema)),
          rest: some(mapped(propertiesOf(kind), restSchema)),
        },
        closed,
      ),
    ),
  ),
);

const Pixels = Type.Integer({ minimum: 1, maximum: 8192 });
/** A picture or model that objects show; its bytes are kept apart from the document, which only points to them. */
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
]);
export type Asset = Static<typeof AssetSchema>;

/**
 * - `set`, `add`, `multiply`: the property goes to a value, is raised by it, or is multiplied by it
 * - `rate`: the value is added each second
 * - `kick`: at each cue the value is added, and dies away
 */
export const BINDING_MODES = ["set", "add", "multiply", "rate", "kick"] as const;
export type BindingMode = (typeof BINDING_MODES)[number];
export const AXES = ["x", "y", "z"] as const;
export type Axis = (typeof AXES)[number];

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

const Finite = Type.Number({ minimum: -1e6, maximum: 1e6 });
const Share = Type.Number({ minimum: 0, maximum: 1 });
/** What of a binding is tuned. */
const ranges = {
  mode: oneOf(BINDING_MODES),
  /** Axes of a vector that move; all of them makes a scale grow evenly. Ignored for other properties. */
  axes: Type.Array(oneOf(AXES), { minItems: 1, maxItems: 3, uniqueItems: true }),
  /** Strand values that stand for the two ends of the output. */
  input: Type.Object({ low: Finite, high: Finite }, closed),
  /** Between input and output: a power of the share, or a drawn line. */
  curve: tagged([
    Type.Object({ kind: Type.Literal("power"), power: Type.Number({ minimum: 0.05, maximum: 20 }) }, closed),
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
      seed: Type.Integer({ minimum: 0, maximum: 4_294_967_295 }),
    },
    closed,
  ),
  /** Of a kick: the time in which it falls to 37 %, and whether every other one goes the other way. */
  decayMs: Type.Number({ minimum: 1, maximum: 60_000 }),
  alternate: Type.Boolean(),
};
export const BindingSchema = Type.Object(
  {
    id: Id,
    strandId: Id,
    objectId: Id,
    property: Type.String({ minLength: 1, maxLength: 64 }),
    ...ranges,
  },
  closed,
);
export type Binding = Static<typeof BindingSchema>;
/** The names of what of a binding is tuned. */
export const TUNED_OF_BINDING = Object.keys(ranges) as (keyof typeof ranges)[];

/** What a scene's weight is held against. */
export const BUDGETS = ["desktop", "phone", "headset"] as const;
/** How much is spent on the picture; the numbers are the same. */
export const QUALITIES = ["full", "lighter", "lightest"] as const;
export type Quality = (typeof QUALITIES)[number];

/** A named state of all tunings; what has been added since is not in it. */
export const KeepSchema = Type.Object(
  {
    id: Id,
    name: Name,
    strands: Type.Array(Type.Object({ id: Id, ...tuning }, closed), { maxItems: 1024 }),
    bindings: Type.Array(Type.Object({ id: Id, ...ranges }, closed), { maxItems: 16_384 }),
  },
  closed,
);
export type Keep = Static<typeof KeepSchema>;

/** The whole of a project that is not sound: the only truth for undo, autosave, export and the player. */
export const SceneSchema = Type.Object(
  {
    format: Type.Literal(SCENE_FORMAT),
    version: Type.Literal(SCENE_VERSION),
    name: Name,
    loop: Type.Boolean(),
    /** The stretch that loops; `null` loops the whole tape. */
    stretch: orNull(
      Type.Object({ fromS: Type.Number({ minimum: 0 }), toS: Type.Number({ minimum: 0 }) }, closed),
    ),
    sounds: Type.Array(SoundSchema, { maxItems: 256 }),
    buses: Type.Array(BusSchema, { maxItems: 64 }),
    groups: Type.Array(GroupSchema, { maxItems: 64 }),
    strands: Type.Array(StrandSchema, { maxItems: 1024 }),
    objects: Type.Array(StageObjectSchema, { maxItems: 4096 }),
    assets: Type.Array(AssetSchema, { maxItems: 256 }),
    budget: oneOf(BUDGETS),
    quality: oneOf(QUALITIES),
    bindings: Type.Array(BindingSchema, { maxItems: 16_384 }),
    keeps: Type.Array(KeepSchema, { maxItems: 64 }),
  },
  { ...closed, $id: "https://bumbrel.invalid/scene.schema.json", title: "Bumbrel scene" },
);
export type Scene = Static<typeof SceneSchema>;
