import { type Static, Type } from "@sinclair/typebox";
import { DEFAULT_FFT_SIZE, FFT_SIZES, FRAME_RATE_HZ, frameCount, SAMPLE_RATE_HZ } from "../constants";
import { bandLevel, bandShares } from "../dsp/bands";
import { safeLevel } from "../dsp/decibel";
import { peakPerFrame } from "../dsp/peak";
import { DEFAULT_WINDOW, WINDOW_NAMES } from "../dsp/window";
import { oneOf, tagged } from "../schemaParts";
import { type Beats, fraction } from "./clock";
import type { Cue } from "./cue";
import type { Signal } from "./signal";
import type { SpectrumSource } from "./spectrumSource";

const NYQUIST_HZ = SAMPLE_RATE_HZ / 2;

export const BandMeasure = Type.Object(
  {
    kind: Type.Literal("band"),
    lowHz: Type.Number({ minimum: 0, maximum: NYQUIST_HZ }),
    highHz: Type.Number({ minimum: 0, maximum: NYQUIST_HZ }),
    fftSize: oneOf(FFT_SIZES),
    window: oneOf(WINDOW_NAMES),
  },
  { additionalProperties: false },
);

const closed = { additionalProperties: false } as const;
const plain = <const K extends string>(kind: K) => Type.Object({ kind: Type.Literal(kind) }, closed);
const NoteNumber = Type.Integer({ minimum: 0, maximum: 127 });
const noteRange = { lowNote: NoteNumber, highNote: NoteNumber };

export const PeakMeasure = plain("peak");
export const BeatPhaseMeasure = plain("beatPhase");
export const BarPhaseMeasure = plain("barPhase");
export const CurveMeasure = plain("curve");
export const TicksMeasure = plain("ticks");
export const VelocityMeasure = Type.Object({ kind: Type.Literal("velocity"), ...noteRange }, closed);
export const NoteMeasure = Type.Object({ kind: Type.Literal("note"), ...noteRange }, closed);
export const ControlMeasure = Type.Object({ kind: Type.Literal("control"), controller: NoteNumber }, closed);

export const MeasureSchema = tagged([
  BandMeasure,
  PeakMeasure,
  BeatPhaseMeasure,
  BarPhaseMeasure,
  CurveMeasure,
  TicksMeasure,
  VelocityMeasure,
  NoteMeasure,
  ControlMeasure,
]);
export type Measure = Static<typeof MeasureSchema>;
export type MeasureKind = Measure["kind"];

/** What a sound must offer for a measure to read it. */
export type SignalPart = "samples" | "beats" | "curve" | "notes" | "controls";

interface MeasureDeclaration<K extends MeasureKind> {
  label: string;
  help: string;
  /** A level is felt in dB and goes through the window; a share lies between 0 and 1 already. */
  unit: "level" | "share";
  reads: SignalPart;
  /** Whether it reads a range of frequencies, drawn on the spine. */
  hasRange: boolean;
  defaults: Extract<Measure, { kind: K }>;
  /** Writes one number a frame for the whole sound. */
  run(
    signal: Signal,
    measure: Extract<Measure, { kind: K }>,
    spectra: SpectrumSource,
    out: Float32Array,
  ): void;
}

function eachBeat(beats: Beats | undefined, out: Float32Array, numberAt: (beat: number) => number): void {
  for (let i = 0; i < out.length; i++) out[i] = beats ? numberAt(beats.beatAt(i / FRAME_RATE_HZ)) : 0;
}

/** Each cue stands on the frame nearest its time; of two on one frame the stronger counts. */
function strike(cues: readonly Cue[], out: Float32Array): void {
  for (const { timeS, strength } of cues) {
    const frame = Math.round(timeS * FRAME_RATE_HZ);
    if (frame >= 0 && frame < out.length) out[frame] = Math.max(out[frame], strength);
  }
}

const notesWithin = ({ notes = [] }: Signal, { lowNote, highNote }: { lowNote: number; highNote: number }) =>
  notes.filter(({ note }) => note >= lowNote && note <= highNote);

const ANY_NOTE = { lowNote: 0, highNote: 127 };

/** Everything a strand can read, declared once for the schema, the interface, the command line and the docs. */
export const MEASURES: { [K in MeasureKind]: MeasureDeclaration<K> } = {
  band: {
    label: "Band",
    help: "The level of a range of frequencies: a full-scale sine inside it reads 0 dBFS.",
    unit: "level",
    reads: "samples",
    hasRange: true,
    defaults: { kind: "band", lowHz: 80, highHz: 160, fftSize: DEFAULT_FFT_SIZE, window: DEFAULT_WINDOW },
    run({ samples }, measure, spectra, out) {
      const { lowHz, highHz, fftSize, window } = measure;
      const band = bandShares(lowHz, highHz, fftSize);
      const { firstBin, shares } = band;
      const request = { fftSize, window, firstBin, lastBin: firstBin + shares.length - 1 };
      spectra.eachFrame(samples, request, (frame, powers, offset) => {
        out[frame] = bandLevel(powers, offset, band);
      });
    },
  },
  peak: {
    label: "Peak",
    help: "The largest sample of each 10 ms of the sound, full scale = 1.",
    unit: "level",
    reads: "samples",
    hasRange: false,
    defaults: { kind: "peak" },
    run({ samples }, _measure, _spectra, out) {
      peakPerFrame(samples, out);
    },
  },
  beatPhase: {
    label: "Beat phase",
    help: "Rises from 0 to 1 over each beat of a clock.",
    unit: "share",
    reads: "beats",
    hasRange: false,
    defaults: { kind: "beatPhase" },
    run: ({ beats }, _measure, _spectra, out) => eachBeat(beats, out, fraction),
  },
  barPhase: {
    label: "Bar phase",
    help: "Rises from 0 to 1 over each bar of a clock.",
    unit: "share",
    reads: "beats",
    hasRange: false,
    defaults: { kind: "barPhase" },
    run: ({ beats }, _measure, _spectra, out) => eachBeat(beats, out, (beat) => beats!.barPhase(beat)),
  },
  curve: {
    label: "Drawn curve",
    help: "The curve drawn for a clock, going round with its beats.",
    unit: "share",
    reads: "curve",
    hasRange: false,
    defaults: { kind: "curve" },
    run({ curve }, _measure, _spectra, out) {
      for (let i = 0; i < out.length; i++) out[i] = curve ? curve(i / FRAME_RATE_HZ) : 0;
    },
  },
  ticks: {
    label: "Ticks",
    help: "As strong as the tick on each tick of a clock or start of a note, 0 between them; release makes it ring on.",
    unit: "share",
    reads: "beats",
    hasRange: false,
    defaults: { kind: "ticks" },
    run({ beats }, _measure, _spectra, out) {
      if (beats) strike(beats.ticks(0, out.length / FRAME_RATE_HZ), out);
    },
  },
  velocity: {
    label: "Notes held",
    help: "How hard the newest sounding note was struck, 0 when none sounds.",
    unit: "share",
    reads: "notes",
    hasRange: false,
    defaults: { kind: "velocity", ...ANY_NOTE },
    run(signal, measure, _spectra, out) {
      for (const { timeS, endS, velocity } of notesWithin(signal, measure)) {
        const first = Math.max(0, Math.ceil(timeS * FRAME_RATE_HZ - 1e-6));
        const end = Math.min(out.length, Math.max(first + 1, Math.ceil(endS * FRAME_RATE_HZ - 1e-6)));
        out.fill(velocity, first, end);
      }
    },
  },
  note: {
    label: "Note",
    help: "Where the newest note lies between the lowest and the highest, from 0 to 1; stays until the next.",
    unit: "share",
    reads: "notes",
    hasRange: false,
    defaults: { kind: "note", ...ANY_NOTE },
    run(signal, measure, _spectra, out) {
      const span = Math.max(1, measure.highNote - measure.lowNote);
      for (const { timeS, note } of notesWithin(signal, measure)) {
        out.fill((note - measure.lowNote) / span, Math.max(0, Math.ceil(timeS * FRAME_RATE_HZ - 1e-6)));
      }
    },
  },
  control: {
    label: "Control",
    help: "A controller's last position, from 0 to 1: a knob, a wheel, a pedal.",
    unit: "share",
    reads: "controls",
    hasRange: false,
    defaults: { kind: "control", controller: 1 },
    run({ controls = [] }, { controller }, _spectra, out) {
      for (const change of controls) {
        if (change.controller !== controller) continue;
        out.fill(change.value, Math.max(0, Math.ceil(change.timeS * FRAME_RATE_HZ - 1e-6)));
      }
    },
  },
};

export const MEASURE_KINDS = Object.keys(MEASURES) as MeasureKind[];

/** Whether a measure can be read from a signal that offers these parts. */
export function canMeasure(kind: MeasureKind, parts: ReadonlySet<SignalPart>): boolean {
  return parts.has(MEASURES[kind].reads);
}

/**
 * Reads a measure over a whole sound.
 *
 * @param signal  its samples, and what else it offers
 * @param spectra  where spectra come from; share one to reuse them between strands
 * @returns one number a frame (`frameCount(samples.length)`): levels are linear, full-scale sine = 1
 * @throws RangeError for a band that is upside down or off the spectrum, or a measure the sound does not offer
 */
export function measureSound(signal: Signal, measure: Measure, spectra: SpectrumSource): Float32Array {
  const out = new Float32Array(frameCount(signal.samples.length));
  const declaration = MEASURES[measure.kind] as MeasureDeclaration<MeasureKind>;
  if (signal[declaration.reads] === undefined) {
    throw new RangeError(
      `"${declaration.label}" reads ${declaration.reads}, which this sound does not have. Listen to a clock or a note file, or choose another measure`,
    );
  }
  declaration.run(signal, measure, spectra, out);
  for (let i = 0; i < out.length; i++) out[i] = safeLevel(out[i]);
  return out;
}
