/** Sections of an object's sheet, in the order they are read. */
export const SECTIONS = {
  main: "",
  place: "Place",
  surface: "Surface",
  copies: "Formation",
  variety: "Variety",
  wake: "Wake",
} as const;
export type Section = keyof typeof SECTIONS;

export type Unit = "" | "m" | "°" | "×" | "cd" | "lx" | "s" | "ms" | "beats" | "/s" | "m/s" | "m/s²" | "°/s";

/** What a property or setting needs of the object's settings to have any effect. */
export interface When {
  setting: string;
  is: readonly SettingValue[];
}

interface PropertyBasics {
  label: string;
  help: string;
  section: Section;
  /** Its copies in a formation may each have a number of their own. */
  perCopy?: true;
  when?: When;
}

/** A property that holds one number. */
export interface NumberProperty extends PropertyBasics {
  type: "number";
  unit: Unit;
  min: number;
  max: number;
  step: number;
  default: number;
  /** What is seen is its sum over time: a speed, or so many a second. */
  integrates?: true;
  /** It counts at cues only: a kick makes so many at once. */
  atCues?: true;
  /** What a rate adds up to begins anew after so much. */
  wraps?: number;
}

/** A property that holds three numbers, x (right), y (up), z (towards the viewer). */
export interface VectorProperty extends PropertyBasics {
  type: "vector";
  unit: Unit;
  min: number;
  max: number;
  step: number;
  default: readonly [number, number, number];
  /** Shown and bound as one number until its axes are taken apart. */
  uniform: boolean;
  wraps?: number;
}

export interface ColourProperty extends PropertyBasics {
  type: "colour";
  default: string;
}

export type Property = NumberProperty | VectorProperty | ColourProperty;

type Extra = Partial<
  Pick<NumberProperty, "section" | "perCopy" | "when" | "integrates" | "atCues" | "wraps">
>;
type Range = [min: number, max: number, step: number];

export const number = (
  label: string,
  unit: Unit,
  [min, max, step]: Range,
  value: number,
  help: string,
  extra: Extra = {},
): NumberProperty => ({
  type: "number",
  label,
  help,
  section: "main",
  unit,
  min,
  max,
  step,
  default: value,
  ...extra,
});

export const vector = (
  label: string,
  unit: Unit,
  [min, max, step]: Range,
  value: readonly [number, number, number],
  help: string,
  extra: Extra & { uniform?: boolean } = {},
): VectorProperty => ({
  type: "vector",
  label,
  help,
  section: "main",
  unit,
  min,
  max,
  step,
  default: value,
  uniform: false,
  ...extra,
});

export const colour = (label: string, value: string, help: string, extra: Extra = {}): ColourProperty => ({
  type: "colour",
  label,
  help,
  section: "main",
  default: value,
  ...extra,
});

/** A colour at a place along a gradient. */
export interface ColourStop {
  /** 0..1 */
  at: number;
  colour: string;
}
/** A point of a path, in metres. */
export type PathPoint = [number, number, number];
export type SettingValue = string | number | boolean | null | ColourStop[] | PathPoint[];

interface SettingBasics {
  label: string;
  help: string;
  section: Section;
  when?: When;
}
export interface ChoiceSetting extends SettingBasics {
  type: "choice";
  choices: Readonly<Record<string, string>>;
  default: string;
}
export interface SwitchSetting extends SettingBasics {
  type: "switch";
  default: boolean;
}
export interface WholeSetting extends SettingBasics {
  type: "whole";
  min: number;
  max: number;
  default: number;
}
export interface TextSetting extends SettingBasics {
  type: "text";
  maxLength: number;
  default: string;
}
/** The id of something else in the scene, or none. */
export interface ReferenceSetting extends SettingBasics {
  type: "reference";
  to: "sound" | "picture" | "model" | "material";
  default: null;
}
export interface StopsSetting extends SettingBasics {
  type: "stops";
  default: ColourStop[];
}
export interface PathSetting extends SettingBasics {
  type: "path";
  default: PathPoint[];
}

/** What of an object is chosen and stays, as against properties, which strands can move. */
export type ObjectSetting =
  | ChoiceSetting
  | SwitchSetting
  | WholeSetting
  | TextSetting
  | ReferenceSetting
  | StopsSetting
  | PathSetting;

type SettingExtra = Partial<Pick<SettingBasics, "section" | "when">>;

export const choice = (
  label: string,
  choices: Readonly<Record<string, string>>,
  value: string,
  help: string,
  extra: SettingExtra = {},
): ChoiceSetting => ({ type: "choice", label, choices, default: value, help, section: "main", ...extra });

export const toggle = (
  label: string,
  value: boolean,
  help: string,
  extra: SettingExtra = {},
): SwitchSetting => ({ type: "switch", label, default: value, help, section: "main", ...extra });

export const whole = (
  label: string,
  [min, max]: [number, number],
  value: number,
  help: string,
  extra: SettingExtra = {},
): WholeSetting => ({ type: "whole", label, min, max, default: value, help, section: "main", ...extra });

export const reference = (
  label: string,
  to: ReferenceSetting["to"],
  help: string,
  extra: SettingExtra = {},
): ReferenceSetting => ({ type: "reference", label, to, default: null, help, section: "main", ...extra });
