import { FFT_SIZES, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { PITCH_LIMITS_HZ } from "@bumbrel/core/dsp/maths/measureWindows";
import {
  FAN_COMBINES,
  FAN_LAYOUTS,
  MAX_BANDS,
  OCTAVE_FRACTIONS,
  PITCH_CLASS_RANGE,
  withMostBands,
} from "@bumbrel/core/dsp/spectrum/fanBands";
import { WINDOW_NAMES } from "@bumbrel/core/dsp/spectrum/window";
import { MEASURE_KINDS, MEASURES, type Measure, type MeasureKind } from "@bumbrel/core/strand/measures/table";
import { choiceFlag, numberFlag, UsageError } from "../support/command";

const NYQUIST_HZ = SAMPLE_RATE_HZ / 2;

/** Measures that can be read from a sound alone, and need nothing that was learnt. */
export const TRACED_KINDS = MEASURE_KINDS.filter(
  (kind) => MEASURES[kind].reads.includes("samples") && kind !== "hits",
);

const BEAT_COUNTS = MEASURES.beatPhase.settings.tempo.values;

/** Flags that settle a measure, as `parseArgs` takes them. */
export const MEASURE_FLAGS = {
  measure: { type: "string" },
  low: { type: "string" },
  high: { type: "string" },
  fft: { type: "string" },
  window: { type: "string" },
  layout: { type: "string" },
  bands: { type: "string" },
  "per-octave": { type: "string" },
  combine: { type: "string" },
  tilt: { type: "string" },
  "narrow-bands": { type: "string" },
  certainty: { type: "string" },
  "beats-per-bar": { type: "string" },
  count: { type: "string" },
  weights: { type: "string" },
  floor: { type: "string" },
  "one-at": { type: "string" },
} as const;
type Flags = { [F in keyof typeof MEASURE_FLAGS]?: string };

function integerFlag(flag: string, text: string | undefined, min: number, max: number): number {
  const value = numberFlag(flag, text, min, max);
  if (!Number.isInteger(value)) throw new UsageError(`--${flag} must be a whole number, not "${text}"`);
  return value;
}

/** One of some numbers. */
function oneOfFlag<T extends number>(flag: string, text: string, choices: readonly T[]): T {
  const choice = choices.find((one) => one === Number(text));
  if (choice === undefined)
    throw new UsageError(`--${flag} must be one of ${choices.join(", ")}, not "${text}"`);
  return choice;
}

/** Setting of each flag, and how its text is read. */
const READERS: {
  [F in Exclude<keyof Flags, "measure">]: { key: string; read(text: string, measure: Measure): unknown };
} = {
  low: { key: "lowHz", read: (text, measure) => hzFlag("low", text, measure) },
  high: { key: "highHz", read: (text, measure) => hzFlag("high", text, measure) },
  fft: { key: "fftSize", read: (text) => oneOfFlag("fft", text, FFT_SIZES) },
  window: { key: "window", read: (text) => choiceFlag("window", text, WINDOW_NAMES) },
  layout: { key: "layout", read: (text) => choiceFlag("layout", text, FAN_LAYOUTS) },
  bands: { key: "bands", read: (text) => integerFlag("bands", text, 1, MAX_BANDS) },
  "per-octave": { key: "perOctave", read: (text) => oneOfFlag("per-octave", text, OCTAVE_FRACTIONS) },
  combine: { key: "combine", read: (text) => choiceFlag("combine", text, FAN_COMBINES) },
  tilt: { key: "tiltDb", read: (text) => numberFlag("tilt", text, -24, 24) },
  "narrow-bands": {
    key: "narrowBands",
    read: (text) => choiceFlag("narrow-bands", text, MEASURES.fan.settings.narrowBands.values),
  },
  certainty: { key: "leastCertainty", read: (text) => numberFlag("certainty", text, 0, 1) },
  "beats-per-bar": { key: "beatsPerBar", read: (text) => integerFlag("beats-per-bar", text, 1, 32) },
  weights: {
    key: "weights",
    read: (text) => choiceFlag("weights", text, MEASURES.brightness.settings.weights.values),
  },
  floor: { key: "floorDb", read: (text) => numberFlag("floor", text, -160, 0) },
  count: { key: "tempo", read: (text) => choiceFlag("count", text, BEAT_COUNTS) },
  "one-at": { key: "oneAtS", read: (text) => numberFlag("one-at", text, 0, 36_000) },
};

/** An end of a range; pitch is looked for in a narrower one. */
function hzFlag(flag: string, text: string, { kind }: Measure): number {
  const [min, max] =
    kind === "pitch" || kind === "certainty" ? [PITCH_LIMITS_HZ.low, PITCH_LIMITS_HZ.high] : [0, NYQUIST_HZ];
  return numberFlag(flag, text, min, max);
}

/**
 * The measure that flags describe; what they leave out is as a new strand has it.
 *
 * @throws UsageError for a measure that is not known, a flag that has no meaning for it, or a value out of range
 */
export function measureFromFlags(flags: Flags): Measure {
  const kind: MeasureKind = choiceFlag("measure", flags.measure, TRACED_KINDS);
  const measure: Measure = { ...MEASURES[kind].defaults };
  if (kind === "band") {
    for (const flag of ["low", "high"] as const)
      if (flags[flag] === undefined) throw new UsageError(`--${flag} is missing`);
  }
  for (const [flag, { key, read }] of Object.entries(READERS)) {
    const text = flags[flag as keyof Flags];
    if (text === undefined) continue;
    if (!(key in measure)) throw new UsageError(`--${flag} has no meaning for --measure ${kind}`);
    Object.assign(measure, { [key]: read(text, measure) });
  }
  if (measure.kind === "fan" && measure.layout === "pitchClasses") {
    if (flags.bands !== undefined)
      throw new UsageError("--bands has no meaning for pitch classes, which are twelve");
    if (flags.low === undefined) measure.lowHz = PITCH_CLASS_RANGE.lowHz;
    if (flags.high === undefined) measure.highHz = Math.max(PITCH_CLASS_RANGE.highHz, measure.lowHz + 1);
  }
  if (measure.kind === "fan" && (measure.layout === "octave" || measure.layout === "constantQ")) {
    if (measure.layout === "octave" && flags["per-octave"] === undefined) measure.perOctave = 1;
    // A number of bands without a high end goes up as far as there are bands.
    if (flags.bands !== undefined && flags.high === undefined) {
      measure.highHz = NYQUIST_HZ;
      // Without a low end octaves begin at 63 Hz, or lower where so many would not fit.
      if (measure.layout === "octave" && flags.low === undefined) {
        measure.lowHz = Math.max(1, Math.min(60, 22_000 / 10 ** ((0.3 * measure.bands) / measure.perOctave)));
      }
    }
  }
  if ("lowHz" in measure && measure.lowHz >= measure.highHz) {
    throw new UsageError(`--low (${measure.lowHz}) must be lower than --high (${measure.highHz})`);
  }
  const isByRange = measure.kind === "fan" && (measure.layout === "octave" || measure.layout === "constantQ");
  return isByRange && flags.bands !== undefined ? withMostBands(measure, measure.bands) : measure;
}
