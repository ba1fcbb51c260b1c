import { Type } from "@sinclair/typebox";
import { SAMPLE_RATE_HZ } from "../../constants";
import { safeLevel } from "../../dsp/level/decibel";
import { PART_DELAY } from "../../dsp/maths/measureWindows";
import { finish, type Sliced } from "../../dsp/maths/slices";
import { fanBands } from "../../dsp/spectrum/fanBands";
import { defaultsOf, type Settings, type ValuesOf } from "../../setting/descriptor";
import { closed, settingSchemas, tagged } from "../../setting/schema";
import type { SoundPart } from "../../sound/parts";
import type { SignalPart } from "../../sound/signal";
import { WholeCursor } from "../hearing/cursor";
import { framesOf, type Signal } from "../hearing/signal";
import type { SpectrumSource } from "../hearing/spectra";
import { CHARACTER } from "./character";
import { COMBINED } from "./combined";
import type { MeasureDeclaration, MeasureReader } from "./declaration";
import { FANS } from "./fan";
import { HITS } from "./hits";
import { LEVELS } from "./levels";
import { LOUDNESS } from "./loudness";
import { NOTES_AND_NUMBERS } from "./notes";
import { ONSETS } from "./onset";
import { PROGRAMMED } from "./programmed";
import { TIMES } from "./time";
import { VISITED } from "./visited";

const FAMILIES = {
  ...LEVELS,
  ...LOUDNESS,
  ...ONSETS,
  ...CHARACTER,
  ...FANS,
  ...HITS,
  ...TIMES,
  ...NOTES_AND_NUMBERS,
  ...COMBINED,
  ...VISITED,
  ...PROGRAMMED,
};
export type MeasureKind = keyof typeof FAMILIES;
export type MeasureOf<K extends MeasureKind> = {
  [P in K]: { kind: P } & ValuesOf<(typeof FAMILIES)[P]["settings"]>;
}[K];
export type Measure = MeasureOf<MeasureKind>;
export const MEASURE_KINDS = Object.keys(FAMILIES) as MeasureKind[];

/** A measure's declaration, with the settings of a new one. */
type Declared<K extends MeasureKind> = (typeof FAMILIES)[K] & { defaults: MeasureOf<K> };
type AnyMeasure = MeasureDeclaration<Settings> & { defaults: Measure };

/** Everything a strand can read, a file a family: for the schema, the interface, the command line and the docs. */
export const MEASURES = Object.fromEntries(
  MEASURE_KINDS.map((kind) => [
    kind,
    { ...FAMILIES[kind], defaults: { kind, ...defaultsOf(FAMILIES[kind].settings as Settings) } },
  ]),
) as unknown as { [K in MeasureKind]: Declared<K> };

export const MeasureSchema = Type.Unsafe<Measure>(
  tagged(
    MEASURE_KINDS.map((kind) =>
      Type.Object(
        { kind: Type.Literal(kind), ...settingSchemas(FAMILIES[kind].settings as Settings) },
        closed,
      ),
    ),
  ),
);

/** Measures that read a range of frequencies. */
export type RangedMeasure = Extract<Measure, { lowHz: number }>;

/** True if a measure has a range that cannot be read. */
export const isUpsideDown = (measure: Measure): boolean =>
  "lowHz" in measure && measure.lowHz >= measure.highHz;

/** How a kind of measure is declared, whichever it is. */
export const declarationOf = (kind: MeasureKind): AnyMeasure => MEASURES[kind] as unknown as AnyMeasure;

/** Limits of the range a kind of measure reads, in Hz; `undefined` when it reads none. */
export function rangeLimits(kind: MeasureKind): { min: number; max: number } | undefined {
  const { lowHz } = declarationOf(kind).settings;
  return lowHz?.type === "number" ? { min: lowHz.min, max: lowHz.max } : undefined;
}

/** True if a measure can be read from a signal that offers these parts. */
export function canMeasure(kind: MeasureKind, parts: ReadonlySet<SignalPart>): boolean {
  return MEASURES[kind].reads.some((part) => parts.has(part));
}

/** True for a measure that is read from samples: its cues can be timed by the hits in them. */
export const readsSamples = ({ kind }: Measure): boolean => declarationOf(kind).reads.includes("samples");

/** Names work that measures of one sound do once together; `undefined` for one that works for itself. */
export function sharedWork(measure: Measure): string | undefined {
  const shares = declarationOf(measure.kind).shares?.(measure);
  return shares ?? ("fftSize" in measure ? `spectra ${measure.fftSize} ${measure.window}` : undefined);
}

/** Numbers a frame that a measure of a sound gives; one made of other strands is as wide as they are. */
export function measureWidth(measure: Measure): number {
  if (measure.kind === "program") return measure.bands;
  return measure.kind === "fan" ? fanBands(measure).length : 1;
}

/** How late a strand's numbers are on a live sound by what it looks at alone, in seconds; of a part of it more. */
export function windowLatencyS(measure: Measure, part?: SoundPart): number {
  return (declarationOf(measure.kind).ahead(measure) + (part ? PART_DELAY : 0)) / SAMPLE_RATE_HZ;
}

/**
 * Begins reading a measure.
 *
 * @param signal  its samples, and what else it offers; a live sound has no samples beforehand
 * @throws RangeError for a band that is upside down or off the spectrum, or a measure the sound does not offer
 */
export function startMeasure(measure: Measure, signal: Signal): MeasureReader {
  const { label, reads, start } = declarationOf(measure.kind);
  if (!reads.some((part) => signal[part] !== undefined)) {
    throw new RangeError(
      `"${label || measure.kind}" reads ${reads.join(" or ")}, which this sound does not have. Listen to something else, or choose another measure`,
    );
  }
  const reading = start(measure, signal);
  return {
    width: reading.width,
    ...(reading.prepare && { prepare: reading.prepare }),
    ...(reading.dispose && { dispose: reading.dispose }),
    read(cursor, out, at) {
      reading.read(cursor, out, at);
      for (let i = at; i < at + reading.width; i++) out[i] = safeLevel(out[i]);
    },
  };
}

/**
 * Reads a measure over a whole sound.
 *
 * @param spectra  where spectra come from; share one to reuse them between strands
 * @returns `frameCount(samples.length)` frames of `width` numbers: levels are linear, full-scale sine = 1
 * @throws RangeError as {@link startMeasure} does
 */
export function measureSound(signal: Signal, measure: Measure, spectra: SpectrumSource): Float32Array {
  return finish(measureSliced(signal, measure, spectra));
}

const FRAMES_A_SLICE = 64;

/**
 * {@link measureSound} in slices.
 *
 * @param make  makes what the numbers are written to
 */
export function* measureSliced(
  signal: Signal,
  measure: Measure,
  spectra: SpectrumSource,
  make: (length: number) => Float32Array = (length) => new Float32Array(length),
): Sliced<Float32Array> {
  const reading = startMeasure(measure, signal);
  try {
    if (reading.prepare) yield* reading.prepare();
    const frames = framesOf(signal);
    const out = make(frames * reading.width);
    const cursor = new WholeCursor(signal, spectra);
    for (let frame = 0; frame < frames; frame++) {
      if (frame % FRAMES_A_SLICE === 0) yield;
      cursor.moveTo(frame);
      reading.read(cursor, out, frame * reading.width);
    }
    return out;
  } finally {
    reading.dispose?.();
  }
}
