import { HEX_COLOUR_PATTERN } from "../setting/colour";
import { UNITS, type Unit } from "../setting/descriptor";
import { colour, number, type Property, vector } from "../setting/property";
import { EXPOSED_TYPES, type ExposedType, type ProgramLanguage } from "./exposedTypes";

/** Types of values that are chosen from the project instead of being set. */
export const LINKS = ["picture", "strand", "fan", "sound"] as const satisfies readonly ExposedType[];
export type LinkType = (typeof LINKS)[number];
const isLink = (type: ExposedType): type is LinkType => (LINKS as readonly ExposedType[]).includes(type);

/** A value that a program lets its users set. */
export interface Exposed {
  name: string;
  type: ExposedType;
  label: string;
  help: string;
  /** Line of its declaration, from 1. */
  line: number;
  /** How it is set and bound; `undefined` for what is chosen from the project: images, strands, fans and sounds. */
  property: Property | undefined;
}

/** Something about a program that has to be put right, at a line from 1. */
export interface ProgramProblem {
  line: number;
  message: string;
}

export interface ExposedValues {
  values: Exposed[];
  problems: ProgramProblem[];
}

/** Exposed values as the layout of a sandbox names them. */
export const valuesInLayout = (values: readonly Exposed[]) =>
  values.map(({ name, type, property }) => ({
    name,
    type,
    words: property?.type === "number" ? property.words : undefined,
  }));

/** The key of the property of an object that sets a value of its program. */
export const exposedKey = (name: string): string => `program:${name}`;

/** Values that a program exposes at most. */
export const MAX_EXPOSED = 64;

const ALL_TYPES = Object.keys(EXPOSED_TYPES) as ExposedType[];
const typeNames = (types: readonly ExposedType[], language: ProgramLanguage) =>
  [...new Set(types.map((one) => EXPOSED_TYPES[one][language]))].join(", ");
const notHere = (type: string, types: readonly ExposedType[], language: ProgramLanguage) =>
  `A value of the type “${type}” cannot be set here. Use one of ${typeNames(types, language)}.`;

const GLSL_LINE = /^\s*uniform\s+(?:(?:highp|mediump|lowp)\s+)?(\w+)\s+(\w+)\s*;\s*(?:\/\/\s?(.*))?$/;
const SCRIPT_OPENING = /^\s*(?:export\s+)?interface\s+Exposed\b/;
const SCRIPT_LINE = /^\s*(\w+)\s*:\s*(\w+)\s*;\s*(?:\/\/\s?(.*))?$/;

/**
 * Reads what a program exposes. Each value is declared on a line of its own, whose comment says the rest, in any order,
 * and its help after a colon:
 *
 * ```glsl
 * uniform float height; // 0 to 2, default 0.5, m: How far peaks rise.
 * uniform vec3 tint;    // colour, default #ffcc66: Colour of the peaks.
 * uniform int shape;    // round | square, default round: Shape of the tiles.
 * uniform Strand beat;  // The strand that makes it jump.
 * ```
 *
 * In scripts they are the members of `interface Exposed`, with the same comments.
 *
 * @param types  those that its kind of program can have; all of them without it
 * @returns the values that could be read, in order, and what is wrong with the others
 */
export function readExposed(
  code: string,
  language: ProgramLanguage,
  types: readonly ExposedType[] = ALL_TYPES,
): ExposedValues {
  const values: Exposed[] = [];
  const problems: ProgramProblem[] = [];
  let isInside = language === "glsl";
  code.split("\n").forEach((text, i) => {
    const line = i + 1;
    if (language === "script") {
      if (SCRIPT_OPENING.test(text)) isInside = true;
      else if (isInside && /^\s*}/.test(text)) isInside = false;
      if (!isInside || SCRIPT_OPENING.test(text)) return;
    }
    const match = (language === "glsl" ? GLSL_LINE : SCRIPT_LINE).exec(text);
    if (!match) {
      if (language === "glsl" && /^\s*uniform\b/.test(text)) {
        problems.push({
          line,
          message: "A value is declared on a line of its own: “uniform float name; // 0 to 1: What it does.”",
        });
      }
      return;
    }
    const [, first, second, comment = ""] = match;
    const [typeName, name] = language === "glsl" ? [first, second] : [second, first];
    try {
      if (values.some((one) => one.name === name)) throw new Error(`There are two values named “${name}”.`);
      if (values.length === MAX_EXPOSED) throw new Error(`A program exposes ${MAX_EXPOSED} values at most.`);
      const value = readOne(labelOf(name), typeName, comment, language);
      if (!types.includes(value.type)) throw new Error(notHere(typeName, types, language));
      values.push({ name, line, ...value });
    } catch (error) {
      problems.push({ line, message: (error as Error).message });
    }
  });
  return { values, problems };
}

function readOne(
  label: string,
  typeName: string,
  comment: string,
  language: ProgramLanguage,
): Omit<Exposed, "name" | "line"> {
  const candidates = (Object.keys(EXPOSED_TYPES) as ExposedType[]).filter(
    (one) => EXPOSED_TYPES[one][language] === typeName,
  );
  if (candidates.length === 0) {
    throw new Error(
      `A value cannot be of the type “${typeName}”. Use one of ${typeNames(ALL_TYPES, language)}.`,
    );
  }
  if (isLink(candidates[0])) {
    return { type: candidates[0], label, help: helpOf(comment.replace(/^:/, "")), property: undefined };
  }
  const colon = comment.indexOf(":");
  const words = (colon < 0 ? comment : comment.slice(0, colon)).trim();
  const help = helpOf(colon < 0 ? "" : comment.slice(colon + 1));
  const said = readItems(words === "" ? [] : words.split(",").map((one) => one.trim()));
  const type = candidates.find((one) => fits(one, said)) ?? candidates[0];
  return { type, label, help, property: propertyFor(type, label, said, help) };
}

const helpOf = (text: string) => (text.trim() || "A value of the program.").slice(0, 400);

interface Said {
  range?: [low: number, high: number];
  step?: number;
  unit?: Unit;
  isColour: boolean;
  choices?: string[];
  default?: string;
}

/** Text of a comment before its colon. */
function readItems(items: readonly string[]): Said {
  const said: Said = { isColour: false };
  for (const item of items) {
    const range = /^(\S+) to (\S+)$/.exec(item);
    const [, key, value] = /^(default|step)\s+(.+)$/.exec(item) ?? [];
    if (range) said.range = [numberIn(range[1]), numberIn(range[2])];
    else if (key === "step") said.step = numberIn(value);
    else if (key === "default") said.default = value;
    else if (item === "colour") said.isColour = true;
    else if (item.includes("|")) said.choices = item.split("|").map((one) => one.trim());
    else if ((UNITS as readonly string[]).includes(item)) said.unit = item as Unit;
    else {
      throw new Error(
        `“${item}” is not understood. Write a range (0 to 1), a default (default 0.5), a step (step 0.1), a unit (m, s, Hz …), and the help after a colon.`,
      );
    }
  }
  const [low, high] = said.range ?? [0, 1];
  if (!(low < high)) throw new Error(`The range must rise: ${low} to ${high} does not.`);
  return said;
}

function numberIn(text: string): number {
  const value = Number(text);
  if (text === "" || !Number.isFinite(value)) throw new Error(`“${text}” is not a number.`);
  if (Math.abs(value) > 1e6) throw new Error(`${text} is too large: a million at most.`);
  return value;
}

/** Types that share a name in the code are told apart by what is said of them. */
function fits(type: ExposedType, said: Said): boolean {
  if (type === "colour") return said.isColour || said.default?.startsWith("#") === true;
  if (type === "choice") return said.choices !== undefined;
  if (type === "vector" || type === "whole") return !fits(type === "vector" ? "colour" : "choice", said);
  return true;
}

function propertyFor(type: ExposedType, label: string, said: Said, help: string): Property {
  const [low, high] = said.range ?? [0, type === "whole" ? 10 : 1];
  const among = (value: number) => {
    if (value < low || value > high)
      throw new Error(`The default ${value} lies outside of ${low} to ${high}.`);
    return value;
  };
  const start = (otherwise: number) =>
    said.default === undefined ? otherwise : among(numberIn(said.default));
  const nice = 10 ** Math.floor(Math.log10((high - low) / 100));
  const step = said.step ?? nice;
  const unit = said.unit ?? "";
  const more = { section: "program" } as const;
  switch (type) {
    case "colour": {
      const value = said.default ?? "#ffffff";
      if (!new RegExp(HEX_COLOUR_PATTERN).test(value)) {
        throw new Error(`“${value}” is not a colour. Write it as #rrggbb.`);
      }
      return colour(label, value, help, more);
    }
    case "vector": {
      const parts = (said.default ?? "0 0 0").split(/\s+/).map(numberIn);
      if (parts.length !== 3) throw new Error("The default of a vector is three numbers: default 0 1 0.");
      const at = parts.map((one) =>
        said.default === undefined ? Math.min(high, Math.max(low, one)) : among(one),
      );
      return vector(
        label,
        unit,
        [low, high, step],
        at as [number, number, number],
        (high - low) / 2,
        help,
        more,
      );
    }
    case "switch": {
      const value = said.default ?? "off";
      if (value !== "on" && value !== "off") throw new Error("The default of a switch is on or off.");
      return number(label, "", [0, 1, 1], value === "on" ? 1 : 0, 1, help, { ...more, switchesAt: 0.5 });
    }
    case "choice": {
      const choices = said.choices!;
      if (choices.length < 2 || choices.some((one) => one === "") || new Set(choices).size < choices.length) {
        throw new Error("A choice needs two or more different words: calm | wild.");
      }
      const at = said.default === undefined ? 0 : choices.indexOf(said.default);
      if (at < 0) throw new Error(`“${said.default}” is none of ${choices.join(", ")}.`);
      return {
        ...number(label, "", [0, choices.length - 1, 1], at, choices.length - 1, help, more),
        whole: true,
        words: choices,
      };
    }
    case "whole":
      for (const one of [low, high, start(low)]) {
        if (!Number.isInteger(one)) throw new Error(`${one} is not a whole number.`);
      }
      return {
        ...number(
          label,
          unit,
          [low, high, 1],
          start(low),
          Math.max(1, Math.round((high - low) / 2)),
          help,
          more,
        ),
        whole: true,
      };
    default: {
      const middle = Math.min(high, Math.max(low, 0));
      return number(label, unit, [low, high, step], start(middle), (high - low) / 2, help, more);
    }
  }
}

/** The label of a value: its name in words. */
function labelOf(name: string): string {
  const words = name
    .replace(/([a-z0-9])([A-Z])/g, "$1 $2")
    .replace(/_+/g, " ")
    .trim()
    .toLowerCase();
  return words.charAt(0).toUpperCase() + words.slice(1);
}
