import { type TObject, type TSchema, Type } from "@sinclair/typebox";
import { FRAME_RATE_HZ } from "../constants";
import { type CurvePoint, drawnCurve } from "../dsp/curve";
import { dbToLevel, levelToDb, SILENCE_DB, safeLevel } from "../dsp/decibel";
import { platform } from "../platform";
import { oneOf } from "../schemaParts";
import { follower } from "./follow";

/** A number of a shaping step, as shown beside a slider. */
export interface NumberSetting {
  label: string;
  unit: "dB" | "dBFS" | "dB/s" | "ms" | "Hz" | "bands" | "frames" | "";
  min: number;
  max: number;
  step: number;
  default: number;
  /** Shown for measures that are felt in dB, or for those that are not; else for both. */
  when?: "dB" | "linear" | "power" | "drawn";
}
/** A choice between ways of working. */
export interface ChoiceSetting {
  label: string;
  choices: Readonly<Record<string, string>>;
  default: string;
}
/** A drawn curve. */
export interface PointsSetting {
  label: string;
  points: true;
  when?: "drawn";
  default: readonly CurvePoint[];
}
export type Setting = NumberSetting | ChoiceSetting | PointsSetting;
type ValueOf<S extends Setting> = S extends { points: true }
  ? CurvePoint[]
  : S extends { choices: Readonly<Record<infer C, string>> }
    ? C
    : number;
type ValuesOf<S extends Record<string, Setting>> = { -readonly [K in keyof S]: ValueOf<S[K]> };

/** One frame's numbers, `width` of them from `at`, in place; may remember earlier frames. */
export type FrameStep = (values: Float32Array, at: number) => void;

/** What a step may ask of the window before it. */
interface WindowScale {
  window: { on: boolean; scale: string; rangeDb: number };
}

interface Step<Settings extends Record<string, Setting>> {
  label: string;
  help: string;
  onByDefault: boolean;
  /** Only fans have it: it reads several numbers at once. */
  fansOnly?: true;
  settings: Settings;
  /**
   * Begins the step afresh for frames of `width` numbers: levels before the window, 0..1 after it. Whole sounds and
   * live inputs go through the same one.
   */
  start(settings: ValuesOf<Settings>, width: number, all: WindowScale): FrameStep;
}

function step<const S extends Record<string, Setting>>(declaration: Step<S>): Step<S> {
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

/** The shaping steps in the order they apply, declared once for the schema, the bench, the evaluator and the docs. */
export const SHAPING_STEPS = {
  gain: step({
    label: "Gain",
    help: "Makes the level louder or quieter before anything else.",
    onByDefault: true,
    settings: { db: { label: "Gain", unit: "dB", min: -40, max: 60, step: 0.1, default: 0 } },
    start({ db }, width) {
      const gain = dbToLevel(db);
      return each(width, (value) => value * gain);
    },
  }),
  window: step({
    label: "Window",
    help: "The floor becomes 0 and the ceiling becomes 1, evenly in dB or on a plain scale; off, the number itself goes on.",
    onByDefault: true,
    settings: {
      scale: { label: "Scale", choices: { dB: "in dB", linear: "plain" }, default: "dB" },
      floorDb: { label: "Floor", unit: "dBFS", min: -120, max: 0, step: 0.1, default: -60, when: "dB" },
      rangeDb: { label: "Range", unit: "dB", min: 0.1, max: 120, step: 0.1, default: 50, when: "dB" },
      low: { label: "Low", unit: "", min: 0, max: 24_000, step: 0.001, default: 0, when: "linear" },
      high: { label: "High", unit: "", min: 0, max: 24_000, step: 0.001, default: 1, when: "linear" },
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
    help: "The ceiling comes down to recent peaks at this speed, so that quiet parts stay lively; 0 leaves it where it is.",
    onByDefault: false,
    settings: {
      fallDbPerS: { label: "Falls", unit: "dB/s", min: 0, max: 60, step: 0.1, default: 3 },
      leastDb: { label: "Least range", unit: "dB", min: 1, max: 60, step: 1, default: 12, when: "dB" },
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
    help: "Each frame against its own largest band, so that the shape shows whatever the level; below the least, silence stays silent.",
    onByDefault: false,
    fansOnly: true,
    settings: { least: { label: "Least", unit: "", min: 0.01, max: 1, step: 0.01, default: 0.1 } },
    start:
      ({ least }, width) =>
      (values, at) => {
        const most = Math.max(largest(values, at, width), least);
        for (let i = at; i < at + width; i++) values[i] /= most;
      },
  }),
  neighbours: step({
    label: "Neighbours",
    help: "Each band becomes the mean of itself and this many on either side.",
    onByDefault: false,
    fansOnly: true,
    settings: { bands: { label: "Either side", unit: "bands", min: 0, max: 64, step: 1, default: 1 } },
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
    help: "What stays below the mark is 0; once open it closes only when the number falls below the mark by the slack.",
    onByDefault: false,
    settings: {
      mark: { label: "Mark", unit: "", min: 0, max: 1, step: 0.01, default: 0.2 },
      slack: { label: "Slack", unit: "", min: 0, max: 1, step: 0.01, default: 0.05 },
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
    help: "Bends the number: a power above 1 keeps small ones small, below 1 lifts them; or a curve as drawn.",
    onByDefault: false,
    settings: {
      way: { label: "Way", choices: { power: "power", drawn: "drawn" }, default: "power" },
      power: { label: "Power", unit: "", min: 0.1, max: 8, step: 0.05, default: 2, when: "power" },
      points: {
        label: "Points",
        points: true,
        when: "drawn",
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
    help: "How quickly the number rises and falls: the time to cover 63 % of the way. Hold keeps it up before it falls.",
    onByDefault: true,
    settings: {
      attackMs: { label: "Attack", unit: "ms", min: 0, max: 2000, step: 1, default: 5 },
      releaseMs: { label: "Release", unit: "ms", min: 0, max: 5000, step: 1, default: 120 },
      holdMs: { label: "Hold", unit: "ms", min: 0, max: 5000, step: 10, default: 0 },
    },
    start: ({ attackMs, releaseMs, holdMs }, width) =>
      eachAlone(width, () => follower(attackMs, releaseMs, holdMs)),
  }),
  average: step({
    label: "Average",
    help: "The mean of this many frames, 10 ms each, up to now.",
    onByDefault: false,
    settings: { frames: { label: "Over", unit: "frames", min: 1, max: 400, step: 1, default: 8 } },
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
    help: "Stretches and shifts the finished number: times the scale, plus the offset.",
    onByDefault: false,
    settings: {
      scale: { label: "Scale", unit: "", min: -100, max: 100, step: 0.01, default: 1 },
      offset: { label: "Offset", unit: "", min: -100, max: 100, step: 0.01, default: 0 },
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

export const settingsOf = (name: StepName): Record<string, Setting> => SHAPING_STEPS[name].settings;

const Share = Type.Number({ minimum: 0, maximum: 1 });

/** The points of a drawn curve, from left to right. */
export const CurvePointsSchema = Type.Array(
  Type.Object({ at: Share, value: Share }, { additionalProperties: false }),
  { minItems: 2, maxItems: 64 },
);

export function settingSchema(setting: Setting): TSchema {
  if ("points" in setting) return CurvePointsSchema;
  if ("choices" in setting) return oneOf(Object.keys(setting.choices));
  const limits = { minimum: setting.min, maximum: setting.max, description: setting.unit };
  return setting.step >= 1 && (setting.unit === "bands" || setting.unit === "frames")
    ? Type.Integer(limits)
    : Type.Number(limits);
}

const stepSchema = (name: StepName): TObject =>
  Type.Object(
    {
      on: Type.Boolean(),
      ...Object.fromEntries(
        Object.entries(settingsOf(name)).map(([key, setting]) => [key, settingSchema(setting)]),
      ),
    },
    { additionalProperties: false },
  );

export const ShapingSchema = Type.Unsafe<Shaping>(
  Type.Object(Object.fromEntries(STEP_NAMES.map((name) => [name, stepSchema(name)])), {
    additionalProperties: false,
  }),
);

/** How a measure's number is felt: what its window should be. */
export type MeasureUnit = "level" | "loudness" | "hz" | "strength" | "share";

/** What differs from the steps' defaults for each unit: a share needs no window, and is followed as it is. */
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
        ...Object.fromEntries(
          Object.entries(settingsOf(name)).map(([key, setting]) => [key, structuredCopy(setting.default)]),
        ),
      },
    ]),
  ) as Shaping;
  changeShaping(shaping, BY_UNIT[unit]);
  return shaping;
}

const structuredCopy = (value: Setting["default"]) =>
  typeof value === "object" ? value.map((point) => ({ ...point })) : value;

/** Takes over settings, in place. */
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
      const { start } = SHAPING_STEPS[name] as unknown as Step<Record<string, Setting>>;
      return start(shaping[name] as never, width, shaping);
    });
  return (values, at) => {
    for (let i = at; i < at + width; i++) values[i] = safeLevel(values[i]);
    for (let s = 0; s < steps.length; s++) steps[s](values, at);
  };
}
