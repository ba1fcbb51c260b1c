import { type TObject, Type } from "@sinclair/typebox";
import { dbToLevel, levelToDb, SILENCE_DB, safeLevel } from "../dsp/decibel";
import { follow } from "./follow";

/** One setting of a shaping step, as shown beside a slider. */
export interface Setting {
  label: string;
  unit: "dB" | "dBFS" | "ms";
  min: number;
  max: number;
  step: number;
  default: number;
}

interface Step<Settings extends Record<string, Setting>> {
  label: string;
  help: string;
  onByDefault: boolean;
  settings: Settings;
  /** Applies the step to a whole track in place; `values` are levels before the window, 0..1 after it. */
  apply(values: Float32Array, settings: { [S in keyof Settings]: number }): void;
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
    apply(values, { db }) {
      const gain = dbToLevel(db);
      for (let i = 0; i < values.length; i++) values[i] *= gain;
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
    apply(values, { floorDb, rangeDb }) {
      for (let i = 0; i < values.length; i++) {
        const db = Math.max(levelToDb(values[i]), SILENCE_DB);
        values[i] = Math.max(0, (db - floorDb) / rangeDb);
      }
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
    apply(values, { attackMs, releaseMs }) {
      follow(values, attackMs, releaseMs, values);
    },
  }),
  clamp: step({
    label: "Clamp",
    help: "Keeps the number between 0 and 1.",
    onByDefault: true,
    settings: {},
    apply(values) {
      for (let i = 0; i < values.length; i++) values[i] = Math.min(1, Math.max(0, values[i]));
    },
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

/** Shaping as a new strand gets it. */
export function defaultShaping(): Shaping {
  return Object.fromEntries(
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
}

/**
 * Applies every step that is on, in order.
 *
 * @param raw  levels at 100 frames a second; read, not changed
 * @returns as many shaped numbers, finite whatever `raw` holds; within 0..1 when clamp is on
 */
export function shape(raw: Float32Array, shaping: Shaping): Float32Array {
  const values = new Float32Array(raw.length);
  for (let i = 0; i < raw.length; i++) values[i] = safeLevel(raw[i]);
  for (const name of STEP_NAMES) {
    if (!shaping[name].on) continue;
    const { apply } = SHAPING_STEPS[name] as Step<Record<string, Setting>>;
    apply(values, shaping[name] as unknown as Record<string, number>);
  }
  return values;
}
