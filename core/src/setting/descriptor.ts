/**
 * How everything that can be set is declared: the settings of sounds, measures, shaping steps, cues and objects, and
 * the properties that bindings move. The schema, the interface, the command line and the docs read these declarations.
 */
import type { CurvePoint } from "../dsp/maths/curve";

export const UNITS = [
  "",
  "m",
  "mm",
  "nm",
  "EV",
  "K",
  "°",
  "×",
  "cd",
  "lx",
  "s",
  "ms",
  "Hz",
  "note",
  "BPM",
  "beats",
  "bands",
  "frames",
  "samples",
  "dB",
  "dBFS",
  "dB/s",
  "dB/octave",
  "/s",
  "/m",
  "m/s",
  "m/s²",
  "/s²",
  "°/s",
  "kg",
  "N·s",
] as const;
export type Unit = (typeof UNITS)[number];

/** A colour at a place along a gradient. */
export interface ColourStop {
  /** 0..1 */
  at: number;
  colour: string;
}
/** A point of a path, in metres. */
export type PathPoint = [number, number, number];
/** Any value a setting can have. */
/** Numbers by name. */
export type NamedNumbers = Record<string, number>;
export type SettingValue =
  | string
  | number
  | boolean
  | null
  | ColourStop[]
  | PathPoint[]
  | CurvePoint[]
  | NamedNumbers
  | string[]
  | [number, number, number];

/** Condition on another setting beside it, without which this one has no effect. */
export interface When {
  setting: string;
  is: readonly (string | number | boolean)[];
}

interface Basics {
  label: string;
  help: string;
  when?: When;
}

export interface NumberSetting extends Basics {
  type: "number";
  unit: Unit;
  min: number;
  max: number;
  /** Difference made by one press of an arrow key; values between are allowed unless `whole`. */
  step: number;
  default: number;
  whole?: true;
  /** The value may also be `null`; these words say what that means. */
  orNone?: string;
  /** Scale of a slider's travel: times are perceived in ratios. */
  travel?: "linear" | "square";
  /** Values without end are drawn as a field that is wide enough for this many characters. */
  chars?: number;
  /** In a row of fields, the words before it instead of its label: "from … to …". */
  before?: string;
}

export interface ChoiceSetting<V extends string | number = string | number> extends Basics {
  type: "choice";
  values: readonly V[];
  /** Words for each value. */
  choices: Readonly<Record<V, string>>;
  default: V;
}

export interface SwitchSetting extends Basics {
  type: "switch";
  default: boolean;
}

export interface ColourSetting extends Basics {
  type: "colour";
  default: string;
}

/** Three numbers: x (right), y (up), z (towards the viewer). */
export interface VectorSetting extends Basics {
  type: "vector";
  unit: Unit;
  min: number;
  max: number;
  step: number;
  default: readonly [number, number, number];
  /** Shown and bound as one number until its axes are taken apart. */
  uniform: boolean;
}

export interface TextSetting extends Basics {
  type: "text";
  maxLength: number;
  default: string;
}

/** Targets of a reference. */
export type ReferenceTarget =
  | "sound"
  | "picture"
  | "model"
  | "material"
  | "panorama"
  | "lut"
  | "program"
  | "object"
  | "strand"
  | "mark";

/** The id of something else in the document, or none. */
export interface ReferenceSetting extends Basics {
  type: "reference";
  to: ReferenceTarget;
  /** For objects: of these kinds only. */
  kinds?: readonly string[];
  /** For objects: only those that move freely, or whose copies are placed by cues. */
  which?: "moving" | "placedByCues";
  /** Meaning of no reference, if it has one. */
  orNone?: string;
  default: null;
}

/** Ids of several things in the document, in order. */
export interface ReferencesSetting extends Basics {
  type: "references";
  to: ReferenceTarget;
  kinds?: readonly string[];
  default: readonly string[];
}

/** The key of a property of the object that a reference beside it leads to. */
export interface PropertySetting extends Basics {
  type: "property";
  /** The key of that reference. */
  of: string;
  /** Only properties of these types. */
  types?: readonly ("number" | "vector" | "colour")[];
  default: "";
}

/** A value for the property that a setting beside it names: a number, three numbers, or a colour. */
export interface RestSetting extends Basics {
  type: "rest";
  /** The key of the setting that names the property. */
  of: string;
  default: 0;
}

export interface StopsSetting extends Basics {
  type: "stops";
  default: readonly ColourStop[];
}

export interface PathSetting extends Basics {
  type: "path";
  default: readonly PathPoint[];
}

export interface CurveSetting extends Basics {
  type: "curve";
  default: readonly CurvePoint[];
}

/** Numbers that a program lets its users set, by their names there; what is missing is at its default. */
export interface ValuesSetting extends Basics {
  type: "values";
  default: Readonly<NamedNumbers>;
}

export type Setting =
  | NumberSetting
  | ChoiceSetting
  | SwitchSetting
  | ColourSetting
  | VectorSetting
  | TextSetting
  | ReferenceSetting
  | StopsSetting
  | PathSetting
  | CurveSetting
  | ValuesSetting
  | ReferencesSetting
  | PropertySetting
  | RestSetting;
export type Settings = Readonly<Record<string, Setting>>;

/** The value that a declared setting holds. */
export type ValueOf<S extends Setting> = S extends NumberSetting
  ? S extends { orNone: string }
    ? number | null
    : number
  : S extends ChoiceSetting<infer V>
    ? V
    : S extends SwitchSetting
      ? boolean
      : S extends VectorSetting
        ? [number, number, number]
        : S extends StopsSetting
          ? ColourStop[]
          : S extends PathSetting
            ? PathPoint[]
            : S extends CurveSetting
              ? CurvePoint[]
              : S extends ReferenceSetting
                ? string | null
                : S extends ValuesSetting
                  ? NamedNumbers
                  : S extends ReferencesSetting
                    ? string[]
                    : S extends RestSetting
                      ? number | string | [number, number, number]
                      : string;
export type ValuesOf<S extends Settings> = { -readonly [K in keyof S]: ValueOf<S[K]> };

type Range = readonly [min: number, max: number, step: number];
type Extra<S extends Basics> = Partial<Omit<S, "type" | "label" | "help" | "default">>;

export const number = <const E extends Extra<NumberSetting>>(
  label: string,
  unit: Unit,
  [min, max, step]: Range,
  value: number,
  help: string,
  extra?: E,
): NumberSetting & E => ({
  type: "number",
  label,
  help,
  unit,
  min,
  max,
  step,
  default: value,
  ...(extra as E),
});

/** A whole number. */
export const whole = <const E extends Extra<NumberSetting>>(
  label: string,
  [min, max]: readonly [min: number, max: number],
  value: number,
  help: string,
  extra?: E,
): NumberSetting & E => ({
  ...number(label, "", [min, max, 1], value, help),
  whole: true,
  ...(extra as E),
});

export const choice = <const C extends Readonly<Record<string, string>>>(
  label: string,
  choices: C,
  value: keyof C & string,
  help: string,
  extra: Extra<ChoiceSetting> = {},
): ChoiceSetting<keyof C & string> => ({
  type: "choice",
  label,
  help,
  choices,
  values: Object.keys(choices) as (keyof C & string)[],
  default: value,
  ...(extra as object),
});

/** A choice between numbers. */
export const numberChoice = <const V extends number>(
  label: string,
  values: readonly V[],
  value: V,
  help: string,
  words: (value: V) => string = String,
): ChoiceSetting<V> => ({
  type: "choice",
  label,
  help,
  values,
  choices: Object.fromEntries(values.map((one) => [one, words(one)])) as Record<V, string>,
  default: value,
});

export type NumberLimits = Pick<NumberSetting, "min" | "max" | "step">;

/** The limits and the step of a number, as the field that edits it takes them. */
export const numberLimits = ({ min, max, step }: NumberLimits) => ({ min, max, step });

export const toggle = (
  label: string,
  value: boolean,
  help: string,
  extra: Extra<SwitchSetting> = {},
): SwitchSetting => ({ type: "switch", label, help, default: value, ...extra });

export const colour = (
  label: string,
  value: string,
  help: string,
  extra: Extra<ColourSetting> = {},
): ColourSetting => ({ type: "colour", label, help, default: value, ...extra });

export const vector = (
  label: string,
  unit: Unit,
  [min, max, step]: Range,
  value: readonly [number, number, number],
  help: string,
  extra: Extra<VectorSetting> = {},
): VectorSetting => ({
  type: "vector",
  label,
  help,
  unit,
  min,
  max,
  step,
  default: value,
  uniform: false,
  ...extra,
});

export const text = (
  label: string,
  value: string,
  help: string,
  maxLength: number,
  extra: Extra<TextSetting> = {},
): TextSetting => ({ type: "text", label, help, default: value, maxLength, ...extra });

export const reference = (
  label: string,
  to: ReferenceSetting["to"],
  help: string,
  extra: Extra<ReferenceSetting> = {},
): ReferenceSetting => ({ type: "reference", label, help, to, default: null, ...extra });

/** A reference to one object of some kinds. */
export const objectOf = <const K extends readonly string[]>(
  label: string,
  help: string,
  kinds?: K,
  orNone?: string,
): ReferenceSetting => ({
  ...reference(label, "object", help),
  ...(kinds && { kinds }),
  ...(orNone !== undefined && { orNone }),
});

/** A value as near to `value` as a number's limits allow. */
export const clampTo = ({ min, max }: Pick<NumberSetting, "min" | "max">, value: number): number =>
  Math.min(max, Math.max(min, value));

/** The default values of some settings, as a fresh copy. */
export function defaultsOf<S extends Settings>(settings: S): ValuesOf<S> {
  return Object.fromEntries(
    Object.entries(settings).map(([key, setting]) => [key, copyOf(setting.default)]),
  ) as ValuesOf<S>;
}

function copyOf(value: Setting["default"]): unknown {
  if (!Array.isArray(value)) return typeof value === "object" && value !== null ? { ...value } : value;
  return value.map((one: unknown) =>
    Array.isArray(one) ? [...one] : typeof one === "object" && one !== null ? { ...one } : one,
  );
}
