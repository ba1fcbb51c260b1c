import { type TObject, Type } from "@sinclair/typebox";
import { FRAME_RATE_HZ } from "../../constants";
import { dbToLevel, levelToDb, SILENCE_DB, safeLevel } from "../../dsp/level/decibel";
import { drawnCurve } from "../../dsp/maths/curve";
import { platform } from "../../platform";
import { choice, defaultsOf, number, type Settings, type ValuesOf } from "../../setting/descriptor";
import { settingSchemas } from "../../setting/schema";
import { follower } from "./follow";

/** One frame's numbers, `width` of them from `at`, in place; may remember earlier frames. */
export type FrameStep = (values: Float32Array, at: number) => void;

/** Requirements of a step on the window before it. */
interface WindowScale {
  window: { on: boolean; scale: string; rangeDb: number };
}

interface Step<S extends Settings> {
  label: string;
  help: string;
  onByDefault: boolean;
  /** Only fans have it: it reads several numbers at once. */
  fansOnly?: true;
  settings: S;
  /**
   * Begins the step afresh for frames of `width` numbers: levels before the window, 0..1 after it. Whole sounds and
   * live inputs go through the same one.
   */
  start(settings: ValuesOf<S>, width: number, all: WindowScale): FrameStep;
}

function step<const S extends Settings>(declaration: Step<S>): Step<S> {
  return declaration;
}

/** A number that goes through a step by itself. */
function each(width: number, one: (value: number) => number): FrameStep {
  return (values, at) => {
    for (let i = at; i < at + width; i++) values[i] = one(values[i]);
  };
}

/** Numbers of a frame that each have a memory of their own. */
function eachAlone(width: number, make: () => (value: number) => number): FrameStep {
  const steps = Array.from({ length: width }, make);
  return (values, at) => {
    for (let i = 0; i < width; i++) values[at + i] = steps[i](values[at + i]);
  };
}

function largest(values: Float32Array, at: number, width: number): number {
  let most = 0;
  for (let i = at; i < at + width; i++) if (values[i] > most) most = values[i];
  return most;
}

/** Beyond this a number says nothing; it keeps products finite whatever the settings are. */
const MOST = 1e6;
const LEAST_LINEAR_CEILING = 0.05;

const IN_DB = { setting: "scale", is: ["dB"] } as const;
const LINEAR = { setting: "scale", is: ["linear"] } as const;

/** The shaping steps in the order they apply, declared once for the schema, the bench, the evaluator and the docs. */
export const SHAPING_STEPS = {
  gain: step({
    label: "Gain",
    help: "Makes the level louder or quieter before anything else.",
    onByDefault: true,
    settings: { db: number("Gain", "dB", [-40, 60, 0.1], 0, "Gain before anything else.") },
    start({ db }, width) {
      const gain = dbToLevel(db);
      return each(width, (value) => value * gain);
    },
  }),
  window: step({
    label: "Window",
    help: "Maps floor to 0 and ceiling to 1, in dB or linearly; off, the number passes unchanged.",
    onByDefault: true,
    settings: {
      scale: choice(
        "Scale",
        { dB: "in dB", linear: "linear" },
        "dB",
        "Even steps in dB, or of the number itself.",
      ),
      floorDb: number("Floor", "dBFS", [-120, 0, 0.1], -60, "The level that becomes 0.", { when: IN_DB }),
      rangeDb: number("Range", "dB", [0.1, 120, 0.1], 50, "From the floor to the level that becomes 1.", {
        when: IN_DB,
      }),
      low: number("Low", "", [0, 24_000, 0.001], 0, "The number that becomes 0.", { when: LINEAR }),
      high: number("High", "", [0, 24_000, 0.001], 1, "The number that becomes 1.", { when: LINEAR }),
    },
    start({ scale, floorDb, rangeDb, low, high }, width) {
      if (scale === "linear") {
        const span = Math.max(1e-6, high - low);
        return each(width, (value) => Math.max(0, (value - low) / span));
      }
      return each(width, (value) =>
        Math.max(0, (Math.max(levelToDb(value), SILENCE_DB) - floorDb) / rangeDb),
      );
    },
  }),
  autoRange: step({
    label: "Auto-range",
    help: "The ceiling follows recent peaks and falls at this speed, so that quiet parts stay lively; 0 is off.",
    onByDefault: false,
    settings: {
      fallDbPerS: number("Fall speed", "dB/s", [0, 60, 0.1], 3, "How fast the ceiling falls; 0 leaves it."),
      leastDb: number("Minimum range", "dB", [1, 60, 1], 12, "The ceiling stays this far above the floor.", {
        when: { setting: "window.scale", is: ["dB"] },
      }),
    },
    start({ fallDbPerS, leastDb }, width, { window }) {
      if (fallDbPerS === 0) return () => {};
      const inDb = window.on && window.scale === "dB";
      const fall = fallDbPerS / FRAME_RATE_HZ / window.rangeDb;
      const shrink = dbToLevel(-fallDbPerS / FRAME_RATE_HZ);
      const least = inDb ? leastDb / window.rangeDb : LEAST_LINEAR_CEILING;
      let ceiling = 1;
      return (values, at) => {
        ceiling = Math.max(largest(values, at, width), inDb ? ceiling - fall : ceiling * shrink, least);
        for (let i = at; i < at + width; i++) values[i] /= ceiling;
      };
    },
  }),
  relative: step({
    label: "Relative",
    help: "Divides each frame by its largest band, so that the shape shows at any level; the minimum keeps silence silent.",
    onByDefault: false,
    fansOnly: true,
    settings: {
      least: number("Minimum", "", [0.01, 1, 0.01], 0.1, "A largest band below this counts as this."),
    },
    start:
      ({ least }, width) =>
      (values, at) => {
        const most = Math.max(largest(values, at, width), least);
        for (let i = at; i < at + width; i++) values[i] /= most;
      },
  }),
  neighbours: step({
    label: "Neighbours",
    help: "Averages each band with this many on either side.",
    onByDefault: false,
    fansOnly: true,
    settings: {
      bands: { ...number("Either side", "bands", [0, 64, 1], 1, "Bands on either side."), whole: true },
    },
    start({ bands }, width) {
      const copy = new Float32Array(width);
      return (values, at) => {
        for (let i = 0; i < width; i++) copy[i] = values[at + i];
        for (let i = 0; i < width; i++) {
          const [from, to] = [Math.max(0, i - bands), Math.min(width - 1, i + bands)];
          let sum = 0;
          for (let k = from; k <= to; k++) sum += copy[k];
          values[at + i] = sum / (to - from + 1);
        }
      };
    },
  }),
  gate: step({
    label: "Gate",
    help: "Numbers below the threshold are 0; once open, it closes only below the threshold less the hysteresis.",
    onByDefault: false,
    settings: {
      mark: number("Threshold", "", [0, 1, 0.01], 0.2, "Numbers below it are 0."),
      slack: number(
        "Hysteresis",
        "",
        [0, 1, 0.01],
        0.05,
        "Once open, it closes this far below the threshold.",
      ),
    },
    start: ({ mark, slack }, width) =>
      eachAlone(width, () => {
        let open = false;
        return (value) => {
          open = value >= (open ? mark - slack : mark);
          return open ? value : 0;
        };
      }),
  }),
  curve: step({
    label: "Curve",
    help: "A power, or a drawn curve from 0..1 to 0..1.",
    onByDefault: false,
    settings: {
      way: choice("Kind", { power: "power", drawn: "drawn" }, "power", "A power, or a curve through points."),
      power: number(
        "Power",
        "",
        [0.1, 8, 0.05],
        2,
        "Above 1 keeps small numbers small, below 1 lifts them.",
        {
          when: { setting: "way", is: ["power"] },
        },
      ),
      points: {
        type: "curve",
        label: "Points",
        help: "Points of the drawn curve.",
        when: { setting: "way", is: ["drawn"] },
        default: [
          { at: 0, value: 0 },
          { at: 0.5, value: 0.25 },
          { at: 1, value: 1 },
        ],
      },
    },
    start({ way, power, points }, width) {
      if (way === "drawn") return each(width, drawnCurve(points));
      return each(width, (value) => Math.min(MOST, value ** power));
    },
  }),
  follow: step({
    label: "Attack, hold, release",
    help: "How quickly the number rises and falls: time constants, 63 % of the way. Hold keeps it up before it falls.",
    onByDefault: true,
    settings: {
      attackMs: number("Attack", "ms", [0, 2000, 1], 5, "Time constant of a rise.", { travel: "square" }),
      releaseMs: number("Release", "ms", [0, 5000, 1], 120, "Time constant of a fall.", { travel: "square" }),
      holdMs: number("Hold", "ms", [0, 5000, 10], 0, "Time at the top before it falls.", {
        travel: "square",
      }),
    },
    start: ({ attackMs, releaseMs, holdMs }, width) =>
      eachAlone(width, () => follower(attackMs, releaseMs, holdMs)),
  }),
  average: step({
    label: "Average",
    help: "The mean of this many frames, 10 ms each, up to now.",
    onByDefault: false,
    settings: { frames: { ...number("Over", "frames", [1, 400, 1], 8, "Frames of 10 ms."), whole: true } },
    start({ frames }, width) {
      const past = new Float32Array(frames * width);
      const sums = new Float64Array(width);
      let next = 0;
      return (values, at) => {
        const slot = next * width;
        for (let i = 0; i < width; i++) {
          sums[i] += values[at + i] - past[slot + i];
          past[slot + i] = values[at + i];
          values[at + i] = Math.max(0, sums[i] / frames);
        }
        next = (next + 1) % frames;
      };
    },
  }),
  clamp: step({
    label: "Clamp",
    help: "Keeps the number between 0 and 1.",
    onByDefault: true,
    settings: {},
    start: (_settings, width) => each(width, (value) => Math.min(1, Math.max(0, value))),
  }),
  output: step({
    label: "Output",
    help: "Multiplies the finished number by the scale and adds the offset.",
    onByDefault: false,
    settings: {
      scale: number("Scale", "", [-100, 100, 0.01], 1, "Multiplies the finished number."),
      offset: number("Offset", "", [-100, 100, 0.01], 0, "Added to the finished number."),
    },
    start: ({ scale, offset }, width) => each(width, (value) => value * scale + offset),
  }),
};

export type StepName = keyof typeof SHAPING_STEPS;
export const STEP_NAMES = Object.keys(SHAPING_STEPS) as StepName[];

type StepState<N extends StepName> = { on: boolean } & ValuesOf<(typeof SHAPING_STEPS)[N]["settings"]>;
export type Shaping = { [N in StepName]: StepState<N> };
/** Some settings of some steps. */
export type ShapingChange = { [N in StepName]?: Partial<StepState<N>> };

/** The declared settings of a step. */
export const stepSettings = (name: StepName): Settings => SHAPING_STEPS[name].settings;

const stepSchema = (name: StepName): TObject =>
  Type.Object(
    {
      on: Type.Boolean(),
      ...settingSchemas(stepSettings(name)),
    },
    { additionalProperties: false },
  );

export const ShapingSchema = Type.Unsafe<Shaping>(
  Type.Object(Object.fromEntries(STEP_NAMES.map((name) => [name, stepSchema(name)])), {
    additionalProperties: false,
  }),
);

/** Kind of number that a measure gives: decides what its shaping begins with. */
export type MeasureUnit = "level" | "loudness" | "hz" | "strength" | "share";

/** Differences from the steps' defaults for each unit: a share needs no window, and is followed as it is. */
const BY_UNIT: Record<MeasureUnit, ShapingChange> = {
  level: {},
  loudness: { window: { floorDb: -50, rangeDb: 40 }, follow: { on: false } },
  hz: { window: { scale: "linear", low: 80, high: 4000 }, follow: { attackMs: 20, releaseMs: 200 } },
  strength: { window: { scale: "linear", low: 0, high: 0.3 }, follow: { attackMs: 0, releaseMs: 120 } },
  share: { window: { on: false, scale: "linear" }, follow: { on: false } },
};

/** Shaping as a new strand gets it. */
export function defaultShaping(unit: MeasureUnit = "level"): Shaping {
  const shaping = Object.fromEntries(
    STEP_NAMES.map((name) => [
      name,
      {
        on: SHAPING_STEPS[name].onByDefault,
        ...defaultsOf(stepSettings(name)),
      },
    ]),
  ) as Shaping;
  changeShaping(shaping, BY_UNIT[unit]);
  return shaping;
}

/** Applies some settings, in place. */
export function changeShaping(shaping: Shaping, change: ShapingChange): void {
  for (const [name, settings] of Object.entries(change)) {
    Object.assign(shaping[name as StepName], platform.structuredClone(settings));
  }
}

/**
 * Applies every step that is on, in order.
 *
 * @param raw  numbers at 100 frames a second, `width` a frame; read, not changed
 * @returns as many shaped numbers, finite whatever `raw` holds; within 0..1 when clamp is on and output off
 */
export function shape(raw: Float32Array, shaping: Shaping, width = 1): Float32Array {
  const next = shaper(shaping, width);
  const values = Float32Array.from(raw);
  for (let at = 0; at + width <= values.length; at += width) next(values, at);
  return values;
}

/** The steps that are on, as one that takes frame after frame: the same numbers as {@link shape} gives. */
export function shaper(shaping: Shaping, width = 1): FrameStep {
  const steps = STEP_NAMES.filter((name) => shaping[name].on)
    .filter((name) => width > 1 || !("fansOnly" in SHAPING_STEPS[name]))
    .map((name) => {
      const { start } = SHAPING_STEPS[name] as unknown as Step<Settings>;
      return start(shaping[name] as never, width, shaping);
    });
  return (values, at) => {
    for (let i = at; i < at + width; i++) values[i] = safeLevel(values[i]);
    for (let s = 0; s < steps.length; s++) steps[s](values, at);
  };
}
