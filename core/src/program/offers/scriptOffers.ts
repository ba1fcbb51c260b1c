import { SCRIPT_PAST_S } from "../scripts/scriptLimits";
import { CANVAS_OFFERS, CANVAS_SPECIALS } from "./canvasOffers";
import type { Member, Offer } from "./glslOffers";

const member = (signature: string, help: string): Member => ({
  name: /^[\w$]+/.exec(signature.replace(/^readonly /, ""))![0],
  signature,
  help,
});

/** Something that scripts are given, with its members. */
export interface ScriptType {
  name: string;
  help: string;
  extends?: string;
  members: readonly Member[];
}

const STRAND: ScriptType = {
  name: "Strand",
  help: "A strand of the project.",
  members: [
    member("readonly value: number", "Its number now, 0 to 1; of a fan, the mean of its bands."),
    member("before(seconds: number): number", `Its number as it was up to ${SCRIPT_PAST_S} s ago.`),
  ],
};
const FAN: ScriptType = {
  name: "Fan",
  help: "A fan of the project: a strand with a row of numbers.",
  extends: "Strand",
  members: [
    member("readonly length: number", "How many bands it has."),
    member("band(index: number, secondsAgo?: number): number", "The number of a band, counted from 0."),
    member(
      "at(share: number, secondsAgo?: number): number",
      "Its number from the lowest band at 0 to the highest at 1.",
    ),
    member("atHz(hz: number, secondsAgo?: number): number", "Its number at a frequency in Hz."),
  ],
};
const SOUND: ScriptType = {
  name: "Sound",
  help: "A sound of the project.",
  members: [
    member(
      "level(hz: number, secondsAgo?: number): number",
      "Level at a frequency in Hz: a share of full scale.",
    ),
    member(
      "wave(milliseconds: number): number",
      "Sample up to 10 ms before (negative) or after now, −1 to 1.",
    ),
  ],
};
const PICTURE: ScriptType = {
  name: "Picture",
  help: "An image of the project.",
  members: [
    member("readonly width: number", "In pixels; 0 without an image."),
    member("readonly height: number", "In pixels."),
  ],
};
const GRADIENT: ScriptType = {
  name: "Gradient",
  help: "A gradient to fill or draw lines with.",
  members: [member("addColorStop(at: number, colour: string): void", "Adds a colour at a place, 0 to 1.")],
};
const CANVAS: ScriptType = {
  name: "Canvas",
  help: "What a drawing is drawn on: a 2D canvas, in pixels from the top left.",
  members: [...CANVAS_OFFERS, ...CANVAS_SPECIALS].map(({ name, signature, help }) => ({
    name,
    signature,
    help,
  })),
};

const timed = [
  member("readonly time: number", "Seconds on the tape."),
  member("readonly step: number", "Number of this call since the beginning of the tape."),
  member("readonly memory: Memory", "What it keeps from one call to the next: put anything in it."),
  member("random(): number", "A random number from 0 to 1, always the same at a time."),
];
const FRAME: ScriptType = {
  name: "Frame",
  help: "What a drawing is given for each picture, 60 times a second.",
  members: [
    member("readonly width: number", "Width of the canvas, in pixels."),
    member("readonly height: number", "Height of the canvas, in pixels."),
    ...timed,
  ],
};
const MOMENT: ScriptType = {
  name: "Moment",
  help: "What a number is given for each of its frames, 100 times a second.",
  members: [
    member("readonly sound: Sound", "The sound that it listens to; silence if it listens to strands."),
    member("readonly strands: readonly Fan[]", "The strands that it is made of."),
    ...timed,
  ],
};

/** Types that both kinds of script may name. */
const COMMON = [STRAND, FAN, SOUND];
/** Values that drawings and numbers are given: the one table that type checks, completion and docs read. */
export const SCRIPT_TYPES = {
  drawing: [CANVAS, FRAME, ...COMMON, PICTURE, GRADIENT],
  number: [MOMENT, ...COMMON],
} as const satisfies Record<string, readonly ScriptType[]>;

/** The function that each kind of script defines. */
export const SCRIPT_FUNCTIONS = {
  drawing: {
    name: "draw",
    signature: "draw(canvas: Canvas, frame: Frame, set: Exposed): void",
    help: "Draws a picture. The canvas is empty each time.",
  },
  number: {
    name: "next",
    signature: "next(moment: Moment, set: Exposed): number | readonly number[]",
    help: "Gives the next number; a row of them where the program says how many: const bands = 12;",
  },
} as const satisfies Record<string, Member>;

/** Functions that scripts may use beside the language's own, with their code. */
export const SCRIPT_OFFERS: readonly Offer[] = [
  {
    name: "clamp",
    signature: "clamp(value: number, low: number, high: number): number",
    help: "The nearest number between two others.",
    code: "function clamp(value, low, high) { return Math.min(high, Math.max(low, value)); }",
  },
  {
    name: "mix",
    signature: "mix(from: number, to: number, share: number): number",
    help: "A number between two others: the first at 0, the second at 1.",
    code: "function mix(from, to, share) { return from + (to - from) * share; }",
  },
  {
    name: "smoothstep",
    signature: "smoothstep(low: number, high: number, value: number): number",
    help: "Rises smoothly from 0 to 1 between two numbers.",
    code: "function smoothstep(low, high, value) { const t = clamp((value - low) / (high - low), 0, 1); return t * t * (3 - 2 * t); }",
  },
  {
    name: "randomAt",
    signature: "randomAt(x: number, y?: number): number",
    help: "A random number from 0 to 1, always the same for the same numbers.",
    code: "function randomAt(x, y = 0) { const s = Math.sin(x * 127.1 + y * 311.7) * 43758.5453; return s - Math.floor(s); }",
  },
];

/** Types by other names, that stand in `interface Exposed`. */
const ALIASES = `type Whole = number;
type Choice = string;
type Colour = string;
type Vector = readonly [number, number, number];
type Memory = Record<string, any>;`;

/** Declarations of all that a kind of script is given, for type checks: TypeScript. */
export function scriptDeclarations(kind: keyof typeof SCRIPT_TYPES): string {
  const types = SCRIPT_TYPES[kind].map(({ name, help, members, ...rest }) => {
    const lines = members.map((one) => `  /** ${one.help} */\n  ${one.signature};`);
    const base = "extends" in rest ? ` extends ${rest.extends}` : "";
    return `/** ${help} */\ninterface ${name}${base} {\n${lines.join("\n")}\n}`;
  });
  const functions = SCRIPT_OFFERS.map(
    ({ signature, help }) => `/** ${help} */\ndeclare function ${signature};`,
  );
  return [ALIASES, ...types, ...functions].join("\n");
}
