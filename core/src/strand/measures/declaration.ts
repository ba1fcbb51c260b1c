import { FFT_SIZES, FRAME_RATE_HZ, HOP_SAMPLES, SAMPLE_RATE_HZ } from "../../constants";
import type { Sliced } from "../../dsp/maths/slices";
import { DEFAULT_WINDOW, WINDOW_NAMES, type WindowName } from "../../dsp/spectrum/window";
import { choice, number, numberChoice, type Settings, type ValuesOf } from "../../setting/descriptor";
import type { SignalPart } from "../../sound/signal";
import type { FrameCursor } from "../hearing/cursor";
import { framesOf, type Signal } from "../hearing/signal";
import type { MeasureUnit } from "../shape/shaping";

/** A measure at work on one signal. Frames go in one after the other, from the first. */
export interface MeasureReader {
  /** Numbers a frame. */
  width: number;
  /** Work over the whole signal that has to be done before the first frame is read, in slices. */
  prepare?(): Sliced<void>;
  /** Writes the numbers of the frame at the cursor. */
  read(cursor: FrameCursor, out: Float32Array, at: number): void;
  /** Gives back what it holds outside of the language's own memory. */
  dispose?(): void;
}

/** Headings under which measures are offered. */
export const MEASURE_GROUPS = {
  levels: "Levels",
  character: "Character",
  time: "Time",
  notes: "Notes and numbers",
  strands: "Of other strands",
  zones: "Of zones",
  programs: "Your own",
} as const;
export type MeasureGroup = keyof typeof MEASURE_GROUPS;

export interface MeasureDeclaration<S extends Settings = Settings> {
  label: string;
  help: string;
  group: MeasureGroup;
  unit: MeasureUnit;
  /** It can be read from any signal that offers one of these. */
  reads: readonly SignalPart[];
  /** With `lowHz` and `highHz` it reads a range of frequencies, drawn on the spine. */
  settings: S;
  /** Samples after the instant that it looks at: how late it is on a live sound. */
  ahead(measure: ValuesOf<S>): number;
  /** Names work that measures of one sound do once together, where that is not their spectra. */
  shares?(measure: ValuesOf<S>): string;
  /** The range in which its hits begin, where that is not the range it reads. */
  hitsIn?(measure: ValuesOf<S>): { lowHz: number; highHz: number };
  /** @throws RangeError for settings that contradict each other */
  start(measure: ValuesOf<S>, signal: Signal): MeasureReader;
}

/** Declares a measure; infers the types of its settings. */
export function measure<const S extends Settings>(declaration: MeasureDeclaration<S>): MeasureDeclaration<S> {
  return declaration;
}

const NYQUIST_HZ = SAMPLE_RATE_HZ / 2;
export const HOP_AHEAD = HOP_SAMPLES / 2;
export const halfWindow = ({ fftSize }: { fftSize: number }) => fftSize / 2;

const WINDOW_WORDS: Record<WindowName, string> = {
  hann: "Hann",
  hamming: "Hamming",
  blackman: "Blackman",
  flatTop: "flat-top",
  rectangular: "rectangular",
};

/** The settings of measures that read spectra. */
export const SPECTRUM = {
  fftSize: numberChoice(
    "FFT size",
    FFT_SIZES,
    2048,
    "Samples in a spectrum: more separate low notes, fewer follow quick hits.",
  ),
  window: choice(
    "FFT window",
    Object.fromEntries(WINDOW_NAMES.map((name) => [name, WINDOW_WORDS[name]])) as Record<WindowName, string>,
    DEFAULT_WINDOW,
    "How a spectrum’s samples are weighted: Hann for most, flat-top for exact levels.",
  ),
};

/** A range of frequencies. */
export const range = (lowHz: number, highHz: number, [min, max] = [0, NYQUIST_HZ] as readonly number[]) => ({
  lowHz: number(
    "Low end",
    "Hz",
    [min, max, 0.1],
    lowHz,
    "Lowest frequency of the range; a note can be typed.",
    { chars: 7, before: "from" },
  ),
  highHz: number(
    "High end",
    "Hz",
    [min, max, 0.1],
    highHz,
    "Highest frequency of the range; a note can be typed.",
    { chars: 7, before: "to" },
  ),
});

/** A measure of one number a frame. */
export const single = (value: (cursor: FrameCursor) => number): MeasureReader => ({
  width: 1,
  read(cursor, out, at) {
    out[at] = value(cursor);
  },
});

/** A number at each instant, whatever the samples are. */
export function overTime(numberAt: (timeS: number) => number): MeasureReader {
  return single(({ frame }) => numberAt(frame / FRAME_RATE_HZ));
}

/** Numbers that are filled in over the whole sound beforehand. */
export function precomputed(signal: Signal, fill: (out: Float32Array) => void): MeasureReader {
  let numbers = new Float32Array(0);
  return {
    ...single(({ frame }) => numbers[frame] ?? 0),
    *prepare() {
      numbers = new Float32Array(framesOf(signal));
      yield;
      fill(numbers);
    },
  };
}
