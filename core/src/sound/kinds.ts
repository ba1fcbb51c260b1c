import { type Static, type TSchema, Type } from "@sinclair/typebox";
import { NOISE_KINDS, SWEEP_KINDS, TONE_KINDS } from "../dsp/tone/tone";
import { ENCODED_FORMATS } from "../format/samples/encoded";
import {
  choice,
  defaultsOf,
  number,
  numberChoice,
  type Settings,
  text,
  toggle,
  type ValuesOf,
  whole,
} from "../setting/descriptor";
import { closed, Id, MAX_NAME_LENGTH, Name, oneOf, orNull, settingSchemas, tagged } from "../setting/schema";
import { CLOCK_CURVE_SETTINGS, CLOCK_SETTINGS } from "./clock";
import { PLACE_SETTINGS, RUNS, STRIP_SETTINGS } from "./mix";
import type { SignalPart } from "./signal";

/** Origin of a sound's samples: stored bytes, its settings alone, or a device, live. */
export type SoundOrigin = "stored" | "made" | "live";

interface SoundKindDeclaration {
  label: string;
  help: string;
  origin: SoundOrigin;
  /** Parts of it that strands can read. */
  offers: readonly SignalPart[];
  /** True if the audience hears a new one. */
  heardAtFirst: boolean;
  /** Files that become such a sound, for stored kinds. */
  files?: { extensions: readonly string[]; types: readonly string[]; words: string };
  settings: Settings;
  /** Parts of the document beside settings. */
  fields?: Readonly<Record<string, TSchema>>;
}

/** Longest made sound: half an hour. */
export const MAX_MADE_S = 1800;
/** Frequencies of tones. */
export const TONE_HZ = [1, 23_000, 0.1] as const;
export const INPUT_BUFFERS = [128, 256, 512, 1024, 2048, 4096] as const;

const made = {
  on: toggle("On", true, "Off, it is silent."),
  seconds: number("Length", "s", [0.1, MAX_MADE_S, 0.1], 10, "Length of the sound.", { chars: 6 }),
  levelDb: number(
    "Level",
    "dB",
    [-80, 0, 0.1],
    0,
    "Peak of a tone or click; of a noise, relative to its loudest.",
    {
      chars: 5,
    },
  ),
};
const words = <const T extends readonly string[]>(values: T) =>
  Object.fromEntries(values.map((value) => [value, value])) as { [K in T[number]]: string };
/** A device by its id in this browser, and by its name elsewhere; `null` is the one that ships with Bumbrel. */
const Device = orNull(Type.Object({ id: Type.String({ maxLength: 256 }), name: Name }, closed));
const storedId = { storedId: Id };

/** Every kind of sound: the one table that schema, views, file chooser, analysis, command line and docs read. */
export const SOUND_KINDS = {
  file: {
    label: "Sound file",
    help: "A recording in any format the browser decodes.",
    origin: "stored",
    offers: ["samples"],
    heardAtFirst: true,
    files: {
      extensions: [".wav", ...Object.values(ENCODED_FORMATS).flatMap(({ extensions }) => extensions)],
      types: ["audio/*"],
      words: ["WAV", ...Object.values(ENCODED_FORMATS).map(({ label }) => label)].join(", "),
    },
    settings: {},
    fields: storedId,
  },
  tone: {
    label: "Tone",
    help: "Sine, triangle, square or sawtooth, steady or sweeping.",
    origin: "made",
    offers: ["samples"],
    heardAtFirst: true,
    settings: {
      ...made,
      waveform: choice("Waveform", words(TONE_KINDS), "sine", "Shape of the wave; all are band-limited."),
      hz: number(
        "Frequency",
        "Hz",
        TONE_HZ,
        440,
        "Frequency, or that at the start of a sweep; a note can be typed.",
        {
          chars: 7,
        },
      ),
      toHz: number("Sweep to", "Hz", TONE_HZ, 440, "Frequency at the end of a sweep.", {
        chars: 7,
        orNone: "steady",
      }),
      sweep: choice("Sweep", words(SWEEP_KINDS), "logarithmic", "How a sweep moves between its frequencies."),
    },
  },
  noise: {
    label: "Noise",
    help: "White, pink or brown noise.",
    origin: "made",
    offers: ["samples"],
    heardAtFirst: true,
    settings: {
      ...made,
      colour: choice(
        "Noise colour",
        words(NOISE_KINDS),
        "pink",
        "White is level; pink falls by 3 dB an octave, brown by 6.",
      ),
      seed: whole("Seed", [0, 4_294_967_295], 1, "Another number gives another noise of the same kind.", {
        chars: 4,
      }),
    },
  },
  clock: {
    label: "Clock",
    help: "Beats, bars and a drawn curve, with an optional click.",
    origin: "made",
    offers: ["beats", "curve", "samples"],
    heardAtFirst: false,
    settings: { ...made, ...CLOCK_SETTINGS },
    fields: {
      anchor: Type.Object({ timeS: Type.Number(), beat: Type.Number() }, closed),
      curve: Type.Object(settingSchemas(CLOCK_CURVE_SETTINGS), closed),
    },
  },
  notes: {
    label: "Note file",
    help: "A Standard MIDI File; a short tone is heard on each note.",
    origin: "stored",
    offers: ["notes", "controls", "beats", "samples"],
    heardAtFirst: true,
    files: { extensions: [".mid", ".midi"], types: ["audio/midi"], words: "MIDI" },
    settings: {},
    fields: storedId,
  },
  table: {
    label: "Table",
    help: "Numbers over time as CSV with a time_s column; never heard, read by strands as they are.",
    origin: "stored",
    offers: ["columns"],
    heardAtFirst: false,
    files: { extensions: [".csv"], types: ["text/csv"], words: "CSV" },
    settings: {},
    fields: storedId,
  },
  input: {
    label: "Input",
    help: "A microphone or interface; a simulated one ships with Bumbrel.",
    origin: "live",
    offers: ["samples"],
    heardAtFirst: false,
    settings: {
      channel: whole("Channel", [0, 31], 0, "Which of the device’s channels, from 0.", {
        orNone: "all channels",
      } as { orNone: string }),
      rateHz: whole("Sample rate", [8000, 192_000], 48_000, "The rate asked of the device.", {
        orNone: "the device’s own rate",
      } as { orNone: string }),
      bufferSamples: numberChoice(
        "Buffer",
        INPUT_BUFFERS,
        256,
        "Samples gathered before they are handed on: fewer is sooner, more is safer.",
      ),
      echoCancelling: toggle("Echo cancelling", false, "Changes levels; leave it off for music."),
      noiseSuppression: toggle("Noise suppression", false, "Changes levels; leave it off for music."),
    },
    fields: { device: Device },
  },
  keys: {
    label: "Keys",
    help: "A keyboard or controller, or one on the screen.",
    origin: "live",
    offers: ["notes", "controls"],
    heardAtFirst: false,
    settings: {},
    fields: { device: Device },
  },
} as const satisfies Record<string, SoundKindDeclaration>;

export type SoundKind = keyof typeof SOUND_KINDS;
export const SOUND_KIND_NAMES = Object.keys(SOUND_KINDS) as SoundKind[];
export const soundKind = (kind: SoundKind): SoundKindDeclaration => SOUND_KINDS[kind];

export const PlaceSchema = Type.Unsafe<Place>(Type.Object(settingSchemas(PLACE_SETTINGS), closed));
/** Position of a sound on the stage. */
export type Place = ValuesOf<typeof PLACE_SETTINGS>;

const running = {
  runs: oneOf(RUNS),
  /** True if it repeats at its own length for as long as it runs. */
  loops: Type.Boolean(),
};
const strip = {
  muted: Type.Boolean(),
  faderDb: settingSchemas(STRIP_SETTINGS).faderDb,
  pan: settingSchemas(STRIP_SETTINGS).pan,
};

export const CAPTION_SETTING = text(
  "Caption",
  "",
  "Shown and read out to visitors who want captions, whenever the sound starts; empty shows none.",
  120,
);

/** Fields that all kinds of sound have in common. */
export interface SoundBasics {
  id: string;
  name: string;
  /** True if the audience hears it; otherwise only strands listen to it. */
  heard: boolean;
  muted: boolean;
  faderDb: number;
  /** −1 left, 1 right; equal power. */
  pan: number;
  /** The bus it goes to; `null` goes straight to the output. */
  busId: string | null;
  /** The group it starts, seeks and loops with; the group's way of running then counts, not the sound's. */
  groupId: string | null;
  runs: (typeof RUNS)[number];
  loops: boolean;
  place: Place | null;
  /** Shown to visitors who want captions whenever the sound starts; without it there is none. */
  caption?: string;
}

type FieldsOf<K extends SoundKind> = (typeof SOUND_KINDS)[K] extends { fields: infer F }
  ? { [P in keyof F]: F[P] extends TSchema ? Static<F[P]> : never }
  : unknown;
type SettingsOf<K extends SoundKind> = ValuesOf<(typeof SOUND_KINDS)[K]["settings"]>;
export type SoundOf<K extends SoundKind> = {
  [P in K]: SoundBasics & { kind: P } & SettingsOf<P> & FieldsOf<P>;
}[K];
export type Sound = SoundOf<SoundKind>;
export type LiveSound = SoundOf<"input" | "keys">;
export type InputSound = SoundOf<"input">;
export type ClockSound = SoundOf<"clock">;
/** A sound that is computed from its settings, and so needs no bytes anywhere. */
export type MadeSound = SoundOf<"tone" | "noise" | "clock">;
/** A sound whose bytes are stored. */
export type StoredSound = SoundOf<"file" | "notes" | "table">;

export const isLive = (sound: Sound): sound is LiveSound => SOUND_KINDS[sound.kind].origin === "live";
/** True for a sound of a kind that this version knows; another version may have written others. */
export const isKnownSound = (value: unknown): value is Sound =>
  typeof value === "object" &&
  value !== null &&
  "kind" in value &&
  Object.hasOwn(SOUND_KINDS, String(value.kind));
export const isMade = (sound: Sound): sound is MadeSound => SOUND_KINDS[sound.kind].origin === "made";
export const isStored = (sound: Sound): sound is StoredSound => SOUND_KINDS[sound.kind].origin === "stored";

export const SoundSchema = Type.Unsafe<Sound>(
  tagged(
    SOUND_KIND_NAMES.map((kind) => {
      const { settings, fields = {} } = soundKind(kind);
      return Type.Object(
        {
          id: Id,
          name: Name,
          heard: Type.Boolean(),
          ...strip,
          busId: orNull(Id),
          groupId: orNull(Id),
          ...running,
          place: orNull(Type.Object(settingSchemas(PLACE_SETTINGS), closed)),
          caption: Type.Optional(settingSchemas({ caption: CAPTION_SETTING }).caption),
          kind: Type.Literal(kind),
          ...settingSchemas(settings),
          ...fields,
        },
        closed,
      );
    }),
  ),
);

/** A named mix that sounds go to; it goes to the output. */
export const BusSchema = Type.Object({ id: Id, name: Name, ...strip }, closed);
export type Bus = Static<typeof BusSchema>;

/** Sounds that start, seek and loop as one, at the length of the longest. */
export const GroupSchema = Type.Object({ id: Id, name: Name, ...running }, closed);
export type Group = Static<typeof GroupSchema>;

/** A place on the stage as it is when a sound is first given one. */
export function newPlace(change: Partial<Place> = {}): Place {
  return { ...defaultsOf(PLACE_SETTINGS), ...change };
}

/** Initial values of the fields that every sound has. */
export function newSoundBasics(id: string, name: string) {
  return {
    id,
    name: name.slice(0, MAX_NAME_LENGTH),
    heard: true,
    muted: false,
    faderDb: 0,
    pan: 0,
    busId: null,
    groupId: null,
    runs: "tape",
    loops: false,
    place: null,
  } as const;
}

/** The parts that strands can read of a kind of sound, of a bus or of other strands, before any of it has arrived. */
export function partsOf(kind: SoundKind | "bus" | "strands" | "zone"): ReadonlySet<SignalPart> {
  if (kind === "zone") return new Set(["zone"]);
  if (kind === "strands") return new Set(["strands"]);
  return new Set(kind === "bus" ? SOUND_KINDS.file.offers : SOUND_KINDS[kind].offers);
}
