import { type TObject, Type } from "@sinclair/typebox";
import { dbToLevel, levelToDb, SILENCE_DB, safeLevel } from "../dsp/decibel";
import { follower } from "./follow";

/** One setting of a shaping step, as shown beside a slider. */
export interface Setting {
  label: string;
  unit: "dB" | "dBFS" | "ms";
  min: number;
  max: number;
  step: number;
  default: number;
}

/** One frame's number in, one out; may remember earlier frames. */
export type FrameStep = (value: number) => number;

interface Step<Settings extends Record<string, Setting>> {
  label: string;
  help: string;
  onByDefault: boolean;
  settings: Settings;
  /**
   * Begins the step afresh: the function it gives takes one frame's number after the other, levels before the
   * window and 0..1 after it. Whole sounds and live inputs go through the same one.
   */
  start(settings: { [S in keyof Settings]: number }): FrameStep;
}

function step<const S extends Record<string, Setting>>(declaration: Step<S>): Step<S> {
  return declaration;
}

/**
 * The shaping steps in the order they apply, declared once for the schema, the bench, the evaluator and
 * the docs.
 */
export const SHAPING_STEPS = {
  gain: step({
    label: "Gain",
    help: "Makes the level louder or quieter before anything else.",
    onByDefault: true,
    settings: { db: { label: "Gain", unit: "dB", min: -40, max: 60, step: 0.1, default: 0 } },
    start({ db }) {
      const gain = dbToLevel(db);
      return (value) => value * gain;
    },
  }),
  window: step({
    label: "Window",
    help: "The floor becomes 0 and the floor plus the range becomes 1, evenly in dB; off, the level itself goes on.",
    onByDefault: true,
    settings: {
      floorDb: { label: "Floor", unit: "dBFS", min: -120, max: 0, step: 0.1, default: -60 },
      rangeDb: { label: "Range", unit: "dB", min: 0.1, max: 120, step: 0.1, default: 50 },
    },
    start({ floorDb, rangeDb }) {
      return (value) => Math.max(0, (Math.max(levelToDb(value), SILENCE_DB) - floorDb) / rangeDb);
    },
  }),
  follow: step({
    label: "Attack and release",
    help: "How quickly the number rises and falls: the time to cover 63 % of the way.",
    onByDefault: true,
    settings: {
      attackMs: { label: "Attack", unit: "ms", min: 0, max: 2000, step: 1, default: 5 },
      releaseMs: { label: "Release", unit: "ms", min: 0, max: 5000, step: 1, default: 120 },
    },
    start: ({ attackMs, releaseMs }) => follower(attackMs, releaseMs),
  }),
  clamp: step({
    label: "Clamp",
    help: "Keeps the number between 0 and 1.",
    onByDefault: true,
    settings: {},
    start: () => (value) => Math.min(1, Math.max(0, value)),
  }),
};

export type StepName = keyof typeof SHAPING_STEPS;
export const STEP_NAMES = Object.keys(SHAPING_STEPS) as StepName[];

type StepState<N extends StepName> = { on: boolean } & {
  [S in keyof (typeof SHAPING_STEPS)[N]["settings"]]: number;
};
export type Shaping = { [N in StepName]: StepState<N> };

const stepSchema = (name: StepName): TObject =>
  Type.Object(
    {
      on: Type.Boolean(),
      ...Object.fromEntries(
        Object.entries(SHAPING_STEPS[name].settings as Record<string, Setting>).map(([key, setting]) => [
          key,
          Type.Number({ minimum: setting.min, maximum: setting.max, description: setting.unit }),
        ]),
      ),
    },
    { additionalProperties: false },
  );

export const ShapingSchema = Type.Unsafe<Shaping>(
  Type.Object(Object.fromEntries(STEP_NAMES.map((name) => [name, stepSchema(name)])), {
    additionalProperties: false,
  }),
);

/** Shaping as a new strand gets it; a share needs no window, and is followed as it is. */
export function defaultShaping(unit: "level" | "share" = "level"): Shaping {
  const shaping = Object.fromEntries(
    STEP_NAMES.map((name) => [
      name,
      {
        on: SHAPING_STEPS[name].onByDefault,
        ...Object.fromEntries(
          Object.entries(SHAPING_STEPS[name].settings as Record<string, Setting>).map(([key, setting]) => [
            key,
            setting.default,
          ]),
        ),
      },
    ]),
  ) as Shaping;
  if (unit === "share") shaping.window.on = shaping.follow.on = false;
  return shaping;
}

/**
 * Applies every step that is on, in order.
 *
 * @param raw  levels at 100 frames a second; read, not changed
 * @returns as many shaped numbers, finite whatever `raw` holds; within 0..1 when clamp is on
 */
export function shape(raw: Float32Array, shaping: Shaping): Float32Array {
  const next = shaper(shaping);
  const values = new Float32Array(raw.length);
  for (let i = 0; i < raw.length; i++) values[i] = next(raw[i]);
  return values;
}

/** The steps that are on, as one that takes frame after frame: the same numbers as {@link shape} gives. */
export function shaper(shaping: Shaping): FrameStep {
  const steps = STEP_NAMES.filter((name) => shaping[name].on).map((name) => {
    const { start } = SHAPING_STEPS[name] as Step<Record<string, Setting>>;
    return start(shaping[name] as unknown as Record<string, number>);
  });
  return (raw) => {
    let value = safeLevel(raw);
    for (let i = 0; i < steps.length; i++) value = steps[i](value);
    return value;
  };
}
