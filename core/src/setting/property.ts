import {
  type ColourSetting,
  colour as colourSetting,
  type NumberSetting,
  number as numberSetting,
  type Setting,
  type Unit,
  type VectorSetting,
  vector as vectorSetting,
} from "./descriptor";
import type { PaletteRole } from "./palettes";

/** Sections of an object's sheet, in the order they are read. */
export const SECTIONS = {
  main: "",
  program: "Program",
  place: "Place",
  surface: "Surface",
  copies: "Formation",
  variety: "Variety",
  wake: "Wake",
  solid: "Solid body",
  visitors: "For visitors",
  parts: "Parts",
  grading: "Colour grading",
} as const;
export type Section = keyof typeof SECTIONS;

/** Ways to bind a property, beside setting its value. */
interface Traits {
  section: Section;
  /** Copies in a formation may each have a number of their own. */
  perCopy?: true;
  /** Its integral over time is seen: it is a speed, or a count per second. */
  integrates?: true;
  /** It counts at cues only: a kick emits that many at once. */
  atCues?: true;
  /** It is not drawn: it is about how bodies and visitors move. */
  unseen?: true;
  /** A rate starts over after this much. */
  wraps?: number;
  /** It is on from this value up, and off below. */
  switchesAt?: number;
  /** A new binding begins in this mode. */
  bindsAs?: "kick";
  /** A new binding moves this axis; without it the upright one. */
  bindsAxis?: "x" | "y" | "z";
  /** The part of the scene's palette that a colour uses; a colour without one never changes with the palette. */
  role?: PaletteRole;
}

/** A property that bindings can move: a declared setting, and how a binding shows best. */
export type NumberProperty = NumberSetting &
  Traits & {
    visible: number;
    /** Words for its whole values from 0 up, where those stand for things. */
    words?: readonly string[];
  };
export type VectorProperty = VectorSetting & Traits & { visible: number };
export type ColourProperty = ColourSetting & Traits;
export type Property = NumberProperty | VectorProperty | ColourProperty;
/** A setting of an object: chosen by hand, not moved by bindings. */
export type ObjectSetting = Setting & { section: Section };

type Range = readonly [min: number, max: number, step: number];
type More = Partial<Traits> & { when?: Setting["when"] };

/**
 * @param visible  a change that is plain to see, in the property's unit; new bindings span it
 */
export const number = (
  label: string,
  unit: Unit,
  range: Range,
  value: number,
  visible: number,
  help: string,
  more: More = {},
): NumberProperty => ({
  ...numberSetting(label, unit, range, value, help),
  visible,
  section: "main",
  ...more,
});

/** A property that holds a whole number. */
export const count = (
  label: string,
  [min, max]: readonly [min: number, max: number],
  value: number,
  visible: number,
  help: string,
  more: More = {},
): NumberProperty => ({ ...number(label, "", [min, max, 1], value, visible, help, more) });

/** @param visible  see {@link number} */
export const vector = (
  label: string,
  unit: Unit,
  range: Range,
  value: readonly [number, number, number],
  visible: number,
  help: string,
  more: More & { uniform?: boolean } = {},
): VectorProperty => ({
  ...vectorSetting(label, unit, range, value, help),
  visible,
  section: "main",
  ...more,
});

export const colour = (label: string, value: string, help: string, more: More = {}): ColourProperty => ({
  ...colourSetting(label, value, help),
  section: "main",
  ...more,
});

/** Puts a setting into a section of the sheet. */
export const within = <S extends Setting>(section: Section, setting: S): S & { section: Section } => ({
  ...setting,
  section,
});
