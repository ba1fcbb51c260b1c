import { SAMPLE_RATE_HZ } from "../constants";
import type { Sliced } from "../dsp/maths/slices";
import type { NoteFile } from "../format/samples/midi";
import type { Table } from "../format/table";
import type { SoundData } from "../sound/signal";
import { type SignalSource, signalOf } from "../sound/soundSignal";
import type { Signal } from "../strand/hearing/signal";
import { DirectSpectra } from "../strand/hearing/spectra";
import { measureWidth } from "../strand/measures/table";
import type { Track } from "../strand/track";
import type { Tuning } from "../strand/tuning";
import { hearSliced, type Listening, strandsSignal } from "./hearing";
import type { ReadElsewhere } from "./measurers";
import { StrandAnalysis } from "./strandAnalysis";

export const NUMBERS_FORMAT = "bumbrel-numbers";
export const NUMBERS_VERSION = 1;

/** All that the numbers of a scene depend on beside the sounds' samples. */
export interface NumbersPlan {
  format: typeof NUMBERS_FORMAT;
  version: typeof NUMBERS_VERSION;
  /** Name of the scene. */
  name: string;
  sounds: PlannedSound[];
  /** Each comes after those it is made of. */
  strands: PlannedStrand[];
  /** Strands that cannot be computed from sounds alone, and why. */
  left: { id: string; name: string; why: string }[];
}

/** A sound whose samples are needed. */
export type PlannedSound = SignalSource & {
  id: string;
  name: string;
  /** The tape is as long as the longest of these. */
  onTape: boolean;
  /** Path in a delivered folder. */
  file?: string;
  /** Loudness weight of each channel, where a plan goes without its files. */
  weights?: readonly number[];
  /** Contents of a note file, or of a table of numbers, where a plan goes without its files. */
  notes?: NoteFile;
  table?: Table;
};

/** A strand, with everything that its numbers depend on. */
export interface PlannedStrand extends Tuning {
  id: string;
  name: string;
  from:
    | { kind: "sounds"; listening: Listening }
    | { kind: "strands"; ids: string[] }
    | { kind: "live"; soundId: string };
  /** Ids of sounds of which the longest tells after how long the numbers repeat; none where they do not. */
  loopsWith: string[];
  /** Its numbers are known only as they happen. */
  isLive: boolean;
}

export interface PlannedNumbers {
  /** By strand id, in the order of the plan. */
  tracks: Map<string, Track>;
  /** Numbers before shaping, as wide as the tracks. */
  raws: Map<string, Float32Array>;
  /** Why strands have no numbers, by their id. */
  failures: Map<string, string>;
}

/** Reads what a program gives over a whole signal, in a thread apart. */
export type ReadProgram = (signal: Signal, tuning: Tuning) => ReadElsewhere;

/** Work in slices that may hand over something to wait for before the next slice. */
export type WaitingSlices<T> = Generator<Promise<unknown> | undefined, T, void>;

/** Frames of a strand between two chances to stop. */
const FRAMES_A_SLICE = 64;

/**
 * The numbers over time of the strands of a plan, in slices; those that happen live are left out.
 *
 * @param dataOf  a sound's samples by its id; `undefined` when there are none
 * @param onProgress  called with 0..1
 * @param readProgram  reads strands by programs; without it they fail
 */
export function* analysePlan(
  { sounds, strands }: Pick<NumbersPlan, "sounds" | "strands">,
  dataOf: (soundId: string) => SoundData | undefined,
  onProgress: (share: number) => void = () => {},
  readProgram?: ReadProgram,
): WaitingSlices<PlannedNumbers> {
  const signals = new Map<string, Signal>();
  let tapeS = 0;
  for (const sound of sounds) {
    const data = dataOf(sound.id);
    if (!data) continue;
    signals.set(sound.id, signalOf(sound, data));
    if (sound.onTape) tapeS = Math.max(tapeS, data.mono.length / SAMPLE_RATE_HZ);
  }
  const tracks = new Map<string, Track>();
  const raws = new Map<string, Float32Array>();
  const failures = new Map<string, string>();
  const spectra = new DirectSpectra();
  const whole = strands.filter((strand) => !strand.isLive);
  for (const [i, { id, from, loopsWith, ...tuning }] of whole.entries()) {
    try {
      const signal =
        from.kind === "sounds"
          ? yield* inTurns(hearSliced(from.listening, (soundId) => signals.get(soundId), tapeS))
          : strandsSignal(
              (from as { ids: string[] }).ids.map((one) => tracks.get(one)),
              tapeS,
            );
      if (!signal) throw new Error(whyNot(from, sounds, signals, whole, tracks));
      const known = tuning.code === undefined ? undefined : yield* readApart(signal, tuning, readProgram);
      const analysis = new StrandAnalysis(signal, tuning, spectra, known);
      while (!analysis.isDone) {
        analysis.advance(FRAMES_A_SLICE);
        onProgress((i + analysis.framesReady / Math.max(1, analysis.frames)) / whole.length);
        yield undefined;
      }
      const { width, raw, shaped: values } = analysis;
      raws.set(id, raw);
      const loopS = Math.max(0, ...loopsWith.map((one) => lengthS(signals.get(one))));
      tracks.set(id, { width, values, loopS, cues: analysis.cues() });
      analysis.dispose();
    } catch (error) {
      failures.set(id, (error as Error).message);
    }
  }
  onProgress(1);
  return { tracks, raws, failures };
}

function* inTurns<T>(work: Sliced<T>): WaitingSlices<T> {
  for (;;) {
    const { done, value } = work.next();
    if (done) return value;
    yield undefined;
  }
}

function* readApart(
  signal: Signal,
  tuning: Tuning,
  readProgram: ReadProgram | undefined,
): WaitingSlices<{ raw: Float32Array; width: number }> {
  if (!readProgram) throw new Error("Programs are not run here.");
  const reading = readProgram(signal, tuning);
  let outcome: { raw: Float32Array } | { error: Error } | undefined;
  const settled = reading.numbers.then(
    (raw) => {
      outcome = { raw };
    },
    (error: Error) => {
      outcome = { error };
    },
  );
  try {
    while (!outcome) yield settled;
  } finally {
    if (!outcome) reading.cancel();
  }
  if ("error" in outcome) throw outcome.error;
  return { raw: outcome.raw, width: measureWidth(tuning.measure) };
}

const lengthS = (signal: Signal | undefined) => (signal?.samples.length ?? 0) / SAMPLE_RATE_HZ;

function whyNot(
  from: PlannedStrand["from"],
  sounds: readonly PlannedSound[],
  signals: ReadonlyMap<string, Signal>,
  strands: readonly PlannedStrand[],
  tracks: ReadonlyMap<string, Track>,
): string {
  if (from.kind === "sounds") {
    const lost = from.listening.sounds.find(({ soundId }) => !signals.has(soundId));
    const name = sounds.find(({ id }) => id === lost?.soundId)?.name;
    return `There are no samples of the sound "${name}", which it listens to.`;
  }
  const lost = from.kind === "strands" ? from.ids.find((id) => !tracks.has(id)) : undefined;
  return `The strand "${strands.find(({ id }) => id === lost)?.name}", which it is made of, has no numbers.`;
}
