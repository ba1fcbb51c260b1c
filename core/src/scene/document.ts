import { type Static, type TSchema, Type } from "@sinclair/typebox";
import { FADER_OFF_DB, FADER_TOP_DB } from "../dsp/decibel";
import { NOISE_KINDS, SWEEP_KINDS, TONE_KINDS } from "../dsp/tone";
import { oneOf, orNull, tagged } from "../schemaParts";
import { MeasureSchema } from "../strand/measures";
import { ShapingSchema } from "../strand/shaping";
import { COLOUR_MIXES, HEX_COLOUR_PATTERN } from "./colour";
import { OBJECT_KIND_NAMES, type ObjectKind, type Property, propertiesOf } from "./objectKinds";

export const SCENE_FORMAT = "bumbrel-scene";
export const SCENE_VERSION = 1;

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

const soundBasics = {
  id: Id,
  name: Name,
  /** Whether it is heard, or only listened to by strands. */
  heard: Type.Boolean(),
  faderDb: Type.Number({ minimum: FADER_OFF_DB, maximum: FADER_TOP_DB }),
};
/** Length of a tone or noise, and its level: the peak of a tone, relative to the loudest of a noise. */
const madeBasics = {
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
export const SoundSchema = tagged([FileSoundSchema, ToneSoundSchema, NoiseSoundSchema]);
export type Sound = Static<typeof SoundSchema>;

export const StrandSchema = Type.Object(
  {
    id: Id,
    name: Name,
    hue: Type.Integer({ minimum: 0, maximum: HUE_COUNT - 1 }),
    shape: oneOf(STRAND_SHAPES),
    soundId: orNull(Id),
    measure: MeasureSchema,
    shaping: ShapingSchema,
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

/** An object on the stage. Properties that `rest` leaves out rest at the kind's default. */
export interface StageObject {
  id: string;
  name: string;
  kind: ObjectKind;
  rest: Record<string, RestValue>;
}

export const StageObjectSchema = Type.Unsafe<StageObject>(
  tagged(
    OBJECT_KIND_NAMES.map((kind) =>
      Type.Object(
        {
          id: Id,
          name: Name,
          kind: Type.Literal(kind),
          rest: Type.Partial(
            Type.Object(
              Object.fromEntries(
                Object.entries(propertiesOf(kind)).map(([key, property]) => [key, restSchema(property)]),
              ),
              closed,
            ),
          ),
        },
        closed,
      ),
    ),
  ),
);

export const BINDING_MODES = ["set", "add", "multiply"] as const;
export type BindingMode = (typeof BINDING_MODES)[number];
export const AXES = ["x", "y", "z"] as const;
export type Axis = (typeof AXES)[number];

const Finite = Type.Number({ minimum: -1e6, maximum: 1e6 });
export const BindingSchema = Type.Object(
  {
    id: Id,
    strandId: Id,
    objectId: Id,
    property: Type.String({ minLength: 1, maxLength: 64 }),
    mode: oneOf(BINDING_MODES),
    /** Axes of a vector that move; all of them makes a scale grow evenly. Ignored for other properties. */
    axes: Type.Array(oneOf(AXES), { minItems: 1, maxItems: 3, uniqueItems: true }),
    /** Strand values that stand for the two ends of the output. */
    input: Type.Object({ low: Finite, high: Finite }, closed),
    output: tagged([
      Type.Object({ kind: Type.Literal("range"), low: Finite, high: Finite }, closed),
      Type.Object(
        { kind: Type.Literal("colours"), from: Colour, to: Colour, mix: oneOf(COLOUR_MIXES) },
        closed,
      ),
    ]),
  },
  closed,
);
export type Binding = Static<typeof BindingSchema>;

/** The whole of a project that is not sound: the only truth for undo, autosave, export and the player. */
export const SceneSchema = Type.Object(
  {
    format: Type.Literal(SCENE_FORMAT),
    version: Type.Literal(SCENE_VERSION),
    name: Name,
    loop: Type.Boolean(),
    sounds: Type.Array(SoundSchema, { maxItems: 256 }),
    strands: Type.Array(StrandSchema, { maxItems: 1024 }),
    objects: Type.Array(StageObjectSchema, { maxItems: 4096 }),
    bindings: Type.Array(BindingSchema, { maxItems: 16_384 }),
  },
  { ...closed, $id: "https://bumbrel.invalid/scene.schema.json", title: "Bumbrel scene" },
);
export type Scene = Static<typeof SceneSchema>;
