import { type Static, Type } from "@sinclair/typebox";
import { DEFAULT_FFT_SIZE, FFT_SIZES, FRAME_RATE_HZ, HOP_SAMPLES, SAMPLE_RATE_HZ } from "../constants";
import { bandLevel, bandShares } from "../dsp/bands";
import { brightnessHz } from "../dsp/brightness";
import { safeLevel } from "../dsp/decibel";
import {
  FAN_COMBINES,
  FAN_LAYOUTS,
  fanBands,
  fanReader,
  MOST_BANDS,
  OCTAVE_FRACTIONS,
} from "../dsp/fanBands";
import { LoudnessMeter, MOMENTARY_S, SHORT_TERM_S } from "../dsp/loudness";
import { OnsetFlux } from "../dsp/onset";
import { PitchFinder } from "../dsp/pitch";
import { aWeightedPowers } from "../dsp/weighting";
import { DEFAULT_WINDOW, WINDOW_NAMES } from "../dsp/window";
import { oneOf, tagged } from "../schemaParts";
import { type Beats, fraction } from "./clock";
import type { Cue } from "./cue";
import { type Ear, WholeEar } from "./ear";
import type { MeasureUnit } from "./shaping";
import { framesOf, type Signal } from "./signal";
import { soundBeats } from "./soundBeats";
import { DirectSpectra, type SpectrumSource } from "./spectrumSource";
import { type Track, trackValueAt } from "./track";

const NYQUIST_HZ = SAMPLE_RATE_HZ / 2;
const closed = { additionalProperties: false } as const;
const plain = <const K extends string>(kind: K) => Type.Object({ kind: Type.Literal(kind) }, closed);
const Hz = Type.Number({ minimum: 0, maximum: NYQUIST_HZ });
const range = { lowHz: Hz, highHz: Hz };
const spectrum = { fftSize: oneOf(FFT_SIZES), window: oneOf(WINDOW_NAMES) };
const PitchHz = Type.Number({ minimum: 30, maximum: 3000 });
const NoteNumber = Type.Integer({ minimum: 0, maximum: 127 });
const noteRange = { lowNote: NoteNumber, highNote: NoteNumber };
const beatsPerBar = Type.Integer({ minimum: 1, maximum: 32 });

export const MeasureSchema = tagged([
  Type.Object({ kind: Type.Literal("band"), ...range, ...spectrum }, closed),
  plain("peak"),
  plain("rms"),
  plain("meanAbsolute"),
  Type.Object({ kind: Type.Literal("aWeighted"), ...spectrum }, closed),
  plain("momentary"),
  plain("shortTerm"),
  Type.Object({ kind: Type.Literal("onset"), ...range, ...spectrum }, closed),
  Type.Object({ kind: Type.Literal("brightness"), ...spectrum }, closed),
  Type.Object(
    {
      kind: Type.Literal("pitch"),
      lowHz: PitchHz,
      highHz: PitchHz,
      /** Less sure than this counts as no pitch. */
      leastCertainty: Type.Number({ minimum: 0, maximum: 1 }),
    },
    closed,
  ),
  Type.Object({ kind: Type.Literal("certainty"), lowHz: PitchHz, highHz: PitchHz }, closed),
  Type.Object(
    {
      kind: Type.Literal("fan"),
      layout: oneOf(FAN_LAYOUTS),
      /** For octave and constant-Q layouts the most that are kept of the bands in the range. */
      bands: Type.Integer({ minimum: 1, maximum: MOST_BANDS }),
      perOctave: oneOf(OCTAVE_FRACTIONS),
      ...range,
      combine: oneOf(FAN_COMBINES),
      tiltDb: Type.Number({ minimum: -24, maximum: 24, description: "dB an octave" }),
      ...spectrum,
    },
    closed,
  ),
  plain("beatPhase"),
  Type.Object({ kind: Type.Literal("barPhase"), beatsPerBar }, closed),
  plain("position"),
  plain("curve"),
  plain("ticks"),
  Type.Object({ kind: Type.Literal("velocity"), ...noteRange }, closed),
  Type.Object({ kind: Type.Literal("note"), ...noteRange }, closed),
  Type.Object({ kind: Type.Literal("control"), controller: NoteNumber }, closed),
  Type.Object({ kind: Type.Literal("column"), column: Type.String({ maxLength: 120 }) }, closed),
  plain("product"),
  plain("sum"),
  plain("maximum"),
  plain("difference"),
  Type.Object(
    {
      kind: Type.Literal("bands"),
      /** Counted from 1, both included. */
      first: Type.Integer({ minimum: 1, maximum: MOST_BANDS }),
      last: Type.Integer({ minimum: 1, maximum: MOST_BANDS }),
    },
    closed,
  ),
]);
export type Measure = Static<typeof MeasureSchema>;
export type MeasureKind = Measure["kind"];
export type MeasureOf<K extends MeasureKind> = Extract<Measure, { kind: K }>;

/** What a sound must offer for a measure to read it. */
export type SignalPart = "samples" | "beats" | "curve" | "notes" | "controls" | "columns" | "strands";

/** A measure at work on one sound. Frames go in one after the other, from the first. */
export interface Reading {
  /** Numbers a frame. */
  width: number;
  /** Writes the numbers of the frame the ear stands at. */
  read(ear: Ear, out: Float32Array, at: number): void;
}

interface MeasureDeclaration<K extends MeasureKind> {
  label: string;
  help: string;
  unit: MeasureUnit;
  /** It can be read from any sound that offers one of these. */
  reads: readonly SignalPart[];
  /** Whether it reads a range of frequencies, drawn on the spine. */
  hasRange: boolean;
  defaults: MeasureOf<K>;
  /** Samples after the instant that it looks at: how late it is on a live sound. */
  ahead(measure: MeasureOf<K>): number;
  /** @throws RangeError for settings that contradict each other */
  start(measure: MeasureOf<K>, signal: Signal): Reading;
}

const HOP_AHEAD = HOP_SAMPLES / 2;
const halfWindow = ({ fftSize }: { fftSize: number }) => fftSize / 2;
const single = (value: (ear: Ear) => number): Reading => ({
  width: 1,
  read(ear, out, at) {
    out[at] = value(ear);
  },
});

/** A number of the samples of the hop around the instant. */
function overHop(take: (samples: Float32Array, from: number, to: number) => number): Reading {
  return single(({ samples, centre }) =>
    take(samples, Math.max(0, centre - HOP_AHEAD), Math.min(samples.length, centre + HOP_AHEAD)),
  );
}

function overTime(numberAt: (timeS: number) => number): Reading {
  return single(({ frame }) => numberAt(frame / FRAME_RATE_HZ));
}

/** Numbers that were laid out over the whole sound beforehand. */
function laidOut(signal: Signal, fill: (out: Float32Array) => void): Reading {
  const numbers = new Float32Array(framesOf(signal));
  fill(numbers);
  return single(({ frame }) => numbers[frame] ?? 0);
}

/** Each cue stands on the frame nearest its time; of two on one frame the stronger counts. */
function strike(cues: readonly Cue[], out: Float32Array): void {
  for (const { timeS, strength } of cues) {
    const frame = Math.round(timeS * FRAME_RATE_HZ);
    if (frame >= 0 && frame < out.length) out[frame] = Math.max(out[frame], strength);
  }
}

const firstFrameAt = (timeS: number) => Math.max(0, Math.ceil(timeS * FRAME_RATE_HZ - 1e-6));

const notesWithin = ({ notes = [] }: Signal, { lowNote, highNote }: { lowNote: number; highNote: number }) =>
  notes.filter(({ note }) => note >= lowNote && note <= highNote);

const ANY_NOTE = { lowNote: 0, highNote: 127 };
type Spectrum = Pick<MeasureOf<"onset">, "fftSize" | "window">;
type Range = Pick<MeasureOf<"onset">, "lowHz" | "highHz">;
const SPECTRUM: Spectrum = { fftSize: DEFAULT_FFT_SIZE, window: DEFAULT_WINDOW };

function onsetReading({ fftSize, window }: Spectrum, { lowHz, highHz }: Range): Reading {
  const flux = new OnsetFlux(fftSize, window, lowHz, highHz);
  return single((ear) => {
    ear.hearSpectrum(fftSize, window);
    return flux.push(ear.powers, ear.offset);
  });
}

function loudnessReading(windowS: number, { channels }: Signal): Reading {
  const meter = new LoudnessMeter(windowS, channels?.length ?? 1);
  return single((ear) => meter.levelAt(channels ?? [ear.samples], ear.centre, ear.frame));
}

function pitchReading(
  measure: { lowHz: number; highHz: number },
  take: (hz: number, certainty: number) => number,
) {
  const finder = new PitchFinder(measure.lowHz, measure.highHz);
  return single(({ samples, centre }) => {
    const { hz, certainty } = finder.at(samples, centre);
    return take(hz, certainty);
  });
}

const WHOLE_RANGE = { lowHz: 27, highHz: 17_000 };
const LOW_END = { lowHz: 27, highHz: 160 };

/** Where beats are heard before they can be asked for: on a live sound this much of it, and again every half second. */
const LISTEN_FRAMES = 10 * FRAME_RATE_HZ;
const AGAIN_FRAMES = FRAME_RATE_HZ / 2;

/**
 * Beats of a sound that brings none: heard in its onsets, over all of it at once, or live over the last ten seconds
 * and carried on from there.
 */
function heardBeats(
  signal: Signal,
  perBar: number,
  take: (beats: Beats | undefined, timeS: number) => number,
): Reading {
  if (signal.beats) return overTime((timeS) => take(signal.beats, timeS));
  const onsets = [WHOLE_RANGE, LOW_END].map((range) => onsetReading(SPECTRUM, range));
  if (signal.samples.length > 0) {
    const frames = framesOf(signal);
    const [all, low] = [new Float32Array(frames), new Float32Array(frames)];
    const ear = new WholeEar(signal.samples, new DirectSpectra());
    for (let frame = 0; frame < frames; frame++) {
      ear.moveTo(frame);
      onsets[0].read(ear, all, frame);
      onsets[1].read(ear, low, frame);
    }
    const beats = soundBeats(all, low, perBar);
    return overTime((timeS) => take(beats, timeS));
  }
  const heard = { all: new Float32Array(LISTEN_FRAMES), low: new Float32Array(LISTEN_FRAMES) };
  let frames = 0;
  let beats: Beats | undefined;
  return single((ear) => {
    heard.all.copyWithin(0, 1);
    heard.low.copyWithin(0, 1);
    onsets[0].read(ear, heard.all, LISTEN_FRAMES - 1);
    onsets[1].read(ear, heard.low, LISTEN_FRAMES - 1);
    frames++;
    const known = Math.min(frames, LISTEN_FRAMES);
    if (frames % AGAIN_FRAMES === 0 && known >= 2 * FRAME_RATE_HZ) {
      const startS = (frames - known) / FRAME_RATE_HZ;
      const found = soundBeats(heard.all.subarray(-known), heard.low.subarray(-known), perBar);
      beats = found && { ...found, beatAt: (timeS) => found.beatAt(timeS - startS) };
    }
    return take(beats, (frames - 1) / FRAME_RATE_HZ);
  });
}

/** Numbers of several strands at the same instant; of unequal rows the shorter ones are stretched. */
function combined({ strands = [] }: Signal, join: (sum: number, value: number) => number): Reading {
  const width = Math.max(1, ...strands.map((track) => track.width));
  return {
    width,
    read({ frame }, out, at) {
      for (let band = 0; band < width; band++) {
        let value = 0;
        strands.forEach((track, i) => {
          const one = strandValue(track, frame, Math.floor((band * track.width) / width));
          value = i === 0 ? one : join(value, one);
        });
        out[at + band] = value;
      }
    },
  };
}

function strandValue(track: Track, frame: number, band: number): number {
  return trackValueAt(track, frame / FRAME_RATE_HZ, band);
}

const combinedBasics = { unit: "share", reads: ["strands"], hasRange: false, ahead: () => 0 } as const;

/** Everything a strand can read, declared once for the schema, the interface, the command line and the docs. */
export const MEASURES: { [K in MeasureKind]: MeasureDeclaration<K> } = {
  band: {
    label: "Band",
    help: "The level of a range of frequencies: a full-scale sine inside it reads 0 dBFS.",
    unit: "level",
    reads: ["samples"],
    hasRange: true,
    defaults: { kind: "band", lowHz: 80, highHz: 160, ...SPECTRUM },
    ahead: halfWindow,
    start({ lowHz, highHz, fftSize, window }) {
      const band = bandShares(lowHz, highHz, fftSize);
      return single((ear) => {
        ear.hearSpectrum(fftSize, window);
        return bandLevel(ear.powers, ear.offset, band);
      });
    },
  },
  peak: {
    label: "Peak",
    help: "The largest sample of each 10 ms of the sound, full scale = 1.",
    unit: "level",
    reads: ["samples"],
    hasRange: false,
    defaults: { kind: "peak" },
    ahead: () => HOP_AHEAD,
    start: () =>
      overHop((samples, from, to) => {
        let most = 0;
        for (let i = from; i < to; i++) most = Math.max(most, Math.abs(samples[i]));
        return most;
      }),
  },
  rms: {
    label: "RMS",
    help: "The root of the mean square of each 10 ms, full scale = 1: a full-scale sine reads −3 dBFS.",
    unit: "level",
    reads: ["samples"],
    hasRange: false,
    defaults: { kind: "rms" },
    ahead: () => HOP_AHEAD,
    start: () =>
      overHop((samples, from, to) => {
        let sum = 0;
        for (let i = from; i < to; i++) sum += samples[i] * samples[i];
        return Math.sqrt(sum / HOP_SAMPLES);
      }),
  },
  meanAbsolute: {
    label: "Mean absolute",
    help: "The mean of the samples' sizes over each 10 ms, full scale = 1.",
    unit: "level",
    reads: ["samples"],
    hasRange: false,
    defaults: { kind: "meanAbsolute" },
    ahead: () => HOP_AHEAD,
    start: () =>
      overHop((samples, from, to) => {
        let sum = 0;
        for (let i = from; i < to; i++) sum += Math.abs(samples[i]);
        return sum / HOP_SAMPLES;
      }),
  },
  aWeighted: {
    label: "A-weighted level",
    help: "The level of everything, weighted as the ear hears quiet sounds: little low end, most around 2 to 4 kHz.",
    unit: "level",
    reads: ["samples"],
    hasRange: false,
    defaults: { kind: "aWeighted", ...SPECTRUM },
    ahead: halfWindow,
    start({ fftSize, window }) {
      const weights = aWeightedPowers(fftSize);
      return single((ear) => {
        ear.hearSpectrum(fftSize, window);
        const { powers, offset } = ear;
        let sum = 0;
        for (let bin = 0; bin < weights.length; bin++) sum += weights[bin] * powers[offset + bin];
        return Math.sqrt(2 * sum);
      });
    },
  },
  momentary: {
    label: "Momentary loudness",
    help: "Loudness over 400 ms in LUFS, as broadcasters measure it.",
    unit: "loudness",
    reads: ["samples"],
    hasRange: false,
    defaults: { kind: "momentary" },
    ahead: () => (MOMENTARY_S / 2) * SAMPLE_RATE_HZ,
    start: (_measure, signal) => loudnessReading(MOMENTARY_S, signal),
  },
  shortTerm: {
    label: "Short-term loudness",
    help: "Loudness over 3 seconds in LUFS: how loud a passage is rather than a hit.",
    unit: "loudness",
    reads: ["samples"],
    hasRange: false,
    defaults: { kind: "shortTerm" },
    ahead: () => (SHORT_TERM_S / 2) * SAMPLE_RATE_HZ,
    start: (_measure, signal) => loudnessReading(SHORT_TERM_S, signal),
  },
  onset: {
    label: "Onset strength",
    help: "How much begins at this instant within the range, whatever goes on sounding: 0 for a steady tone, up to 1.",
    unit: "strength",
    reads: ["samples"],
    hasRange: true,
    defaults: { kind: "onset", ...WHOLE_RANGE, ...SPECTRUM },
    ahead: halfWindow,
    start: (measure) => onsetReading(measure, measure),
  },
  brightness: {
    label: "Brightness",
    help: "The middle of the spectrum in Hz: low for a bass note, high for a cymbal; 0 in silence.",
    unit: "hz",
    reads: ["samples"],
    hasRange: false,
    defaults: { kind: "brightness", ...SPECTRUM },
    ahead: halfWindow,
    start: ({ fftSize, window }) =>
      single((ear) => {
        ear.hearSpectrum(fftSize, window);
        return brightnessHz(ear.powers, ear.offset, fftSize);
      }),
  },
  pitch: {
    label: "Pitch",
    help: "The pitch of a single voice or instrument in Hz; 0 while there is none that is sure enough.",
    unit: "hz",
    reads: ["samples"],
    hasRange: true,
    defaults: { kind: "pitch", lowHz: 60, highHz: 1500, leastCertainty: 0.8 },
    ahead: (measure) => pitchAhead(measure),
    start: (measure) =>
      pitchReading(measure, (hz, certainty) => (certainty >= measure.leastCertainty ? hz : 0)),
  },
  certainty: {
    label: "Pitch certainty",
    help: "How much of a pitch there is: near 1 for a sung note, near 0 for noise.",
    unit: "share",
    reads: ["samples"],
    hasRange: true,
    defaults: { kind: "certainty", lowHz: 60, highHz: 1500 },
    ahead: (measure) => pitchAhead(measure),
    start: (measure) => pitchReading(measure, (_hz, certainty) => certainty),
  },
  fan: {
    label: "Fan",
    help: "A row of levels, one a band.",
    unit: "level",
    reads: ["samples"],
    hasRange: true,
    defaults: {
      kind: "fan",
      layout: "octave",
      bands: 32,
      perOctave: 3,
      lowHz: 40,
      highHz: 16_000,
      combine: "sum",
      tiltDb: 0,
      ...SPECTRUM,
    },
    ahead: halfWindow,
    start(measure) {
      const { fftSize, window, combine, tiltDb } = measure;
      const bands = fanBands(measure);
      const take = fanReader(bands, fftSize, combine, tiltDb);
      return {
        width: bands.length,
        read(ear, out, at) {
          ear.hearSpectrum(fftSize, window);
          take(ear.powers, ear.offset, out, at);
        },
      };
    },
  },
  beatPhase: {
    label: "Beat phase",
    help: "Rises from 0 to 1 over each beat: a clock's own, or those heard in the sound.",
    unit: "share",
    reads: ["beats", "samples"],
    hasRange: false,
    defaults: { kind: "beatPhase" },
    ahead: () => DEFAULT_FFT_SIZE / 2,
    start: (_measure, signal) =>
      heardBeats(signal, 4, (beats, timeS) => (beats ? fraction(beats.beatAt(timeS)) : 0)),
  },
  barPhase: {
    label: "Bar phase",
    help: "Rises from 0 to 1 over each bar: a clock's own, or so many of the beats heard in the sound.",
    unit: "share",
    reads: ["beats", "samples"],
    hasRange: false,
    defaults: { kind: "barPhase", beatsPerBar: 4 },
    ahead: () => DEFAULT_FFT_SIZE / 2,
    start: (measure, signal) =>
      heardBeats(signal, measure.beatsPerBar, (beats, timeS) =>
        beats ? beats.barPhase(beats.beatAt(timeS)) : 0,
      ),
  },
  position: {
    label: "Position",
    help: "The share of the sound that has been played, 0 to 1.",
    unit: "share",
    reads: ["samples", "beats", "notes"],
    hasRange: false,
    defaults: { kind: "position" },
    ahead: () => 0,
    start: (_measure, { samples }) =>
      single(({ frame }) => (samples.length > 0 ? Math.min(1, (frame * HOP_SAMPLES) / samples.length) : 0)),
  },
  curve: {
    label: "Drawn curve",
    help: "The curve drawn for a clock, going round with its beats.",
    unit: "share",
    reads: ["curve"],
    hasRange: false,
    defaults: { kind: "curve" },
    ahead: () => 0,
    start: (_measure, { curve }) => overTime((timeS) => curve?.(timeS) ?? 0),
  },
  ticks: {
    label: "Ticks",
    help: "As strong as the tick on each tick of a clock or start of a note, 0 between them; release makes it ring on.",
    unit: "share",
    reads: ["beats"],
    hasRange: false,
    defaults: { kind: "ticks" },
    ahead: () => 0,
    start: (_measure, signal) =>
      laidOut(signal, (out) => {
        if (signal.beats) strike(signal.beats.ticks(0, out.length / FRAME_RATE_HZ), out);
      }),
  },
  velocity: {
    label: "Notes held",
    help: "How hard the newest sounding note was struck, 0 when none sounds.",
    unit: "share",
    reads: ["notes"],
    hasRange: false,
    defaults: { kind: "velocity", ...ANY_NOTE },
    ahead: () => 0,
    start: (measure, signal) =>
      laidOut(signal, (out) => {
        for (const { timeS, endS, velocity } of notesWithin(signal, measure)) {
          const first = firstFrameAt(timeS);
          out.fill(velocity, first, Math.min(out.length, Math.max(first + 1, firstFrameAt(endS))));
        }
      }),
  },
  note: {
    label: "Note",
    help: "Where the newest note lies between the lowest and the highest, from 0 to 1; stays until the next.",
    unit: "share",
    reads: ["notes"],
    hasRange: false,
    defaults: { kind: "note", ...ANY_NOTE },
    ahead: () => 0,
    start: (measure, signal) =>
      laidOut(signal, (out) => {
        const span = Math.max(1, measure.highNote - measure.lowNote);
        for (const { timeS, note } of notesWithin(signal, measure)) {
          out.fill((note - measure.lowNote) / span, firstFrameAt(timeS));
        }
      }),
  },
  control: {
    label: "Control",
    help: "A controller's last position, from 0 to 1: a knob, a wheel, a pedal.",
    unit: "share",
    reads: ["controls"],
    hasRange: false,
    defaults: { kind: "control", controller: 1 },
    ahead: () => 0,
    start: ({ controller }, signal) =>
      laidOut(signal, (out) => {
        for (const change of signal.controls ?? []) {
          if (change.controller === controller) out.fill(change.value, firstFrameAt(change.timeS));
        }
      }),
  },
  column: {
    label: "Column",
    help: "A column of a table of numbers, as it stands there.",
    unit: "share",
    reads: ["columns"],
    hasRange: false,
    defaults: { kind: "column", column: "" },
    ahead: () => 0,
    start({ column }, { columns = [] }) {
      const values = (columns.find(({ name }) => name === column) ?? columns[0])?.values;
      return single(({ frame }) => (values ? values[Math.min(frame, values.length - 1)] : 0));
    },
  },
  product: {
    ...combinedBasics,
    label: "Product",
    help: "The strands multiplied: high only while all of them are.",
    defaults: { kind: "product" },
    start: (_measure, signal) => combined(signal, (all, one) => all * one),
  },
  sum: {
    ...combinedBasics,
    label: "Sum",
    help: "The strands added up.",
    defaults: { kind: "sum" },
    start: (_measure, signal) => combined(signal, (all, one) => all + one),
  },
  maximum: {
    ...combinedBasics,
    label: "Maximum",
    help: "Whichever of the strands is highest.",
    defaults: { kind: "maximum" },
    start: (_measure, signal) => combined(signal, Math.max),
  },
  difference: {
    ...combinedBasics,
    label: "Difference",
    help: "The first strand less all the others, not below 0.",
    defaults: { kind: "difference" },
    start: (_measure, signal) => combined(signal, (all, one) => all - one),
  },
  bands: {
    ...combinedBasics,
    label: "Some bands",
    help: "The mean of some of a fan's bands; one of them alone when first and last are the same.",
    defaults: { kind: "bands", first: 1, last: 1 },
    start({ first, last }, { strands = [] }) {
      const [fan] = strands;
      return single(({ frame }) => {
        if (!fan) return 0;
        const from = Math.min(fan.width, Math.min(first, last)) - 1;
        const to = Math.min(fan.width, Math.max(first, last)) - 1;
        let sum = 0;
        for (let band = from; band <= to; band++) sum += strandValue(fan, frame, band);
        return sum / (to - from + 1);
      });
    },
  },
};

function pitchAhead({ lowHz, highHz }: { lowHz: number; highHz: number }): number {
  return new PitchFinder(lowHz, highHz).aheadSamples;
}

/** Measures that read a range of frequencies. */
export type RangedMeasure = Extract<Measure, { lowHz: number }>;

/** Whether a measure's range, if it has one, cannot be read. */
export const isUpsideDown = (measure: Measure): boolean =>
  "lowHz" in measure && measure.lowHz >= measure.highHz;

export const MEASURE_KINDS = Object.keys(MEASURES) as MeasureKind[];

/** How a kind of measure is declared, whichever it is. */
export const declarationOf = (kind: MeasureKind) => MEASURES[kind] as MeasureDeclaration<MeasureKind>;

/** Whether a measure can be read from a signal that offers these parts. */
export function canMeasure(kind: MeasureKind, parts: ReadonlySet<SignalPart>): boolean {
  return MEASURES[kind].reads.some((part) => parts.has(part));
}

/** Numbers a frame that a measure of a sound gives; one made of other strands is as wide as they are. */
export function measureWidth(measure: Measure): number {
  return measure.kind === "fan" ? fanBands(measure).length : 1;
}

/** How late a strand's numbers are on a live sound by what it looks at alone, in seconds. */
export function windowLatencyS(measure: Measure): number {
  return declarationOf(measure.kind).ahead(measure) / SAMPLE_RATE_HZ;
}

/**
 * Begins reading a measure.
 *
 * @param signal  its samples, and what else it offers; a live sound has no samples beforehand
 * @throws RangeError for a band that is upside down or off the spectrum, or a measure the sound does not offer
 */
export function startMeasure(measure: Measure, signal: Signal): Reading {
  const { label, reads, start } = declarationOf(measure.kind);
  if (!reads.some((part) => signal[part] !== undefined)) {
    throw new RangeError(
      `"${label}" reads ${reads.join(" or ")}, which this sound does not have. Listen to something else, or choose another measure`,
    );
  }
  const reading = start(measure, signal);
  return {
    width: reading.width,
    read(ear, out, at) {
      reading.read(ear, out, at);
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
  const reading = startMeasure(measure, signal);
  const frames = framesOf(signal);
  const out = new Float32Array(frames * reading.width);
  const ear = new WholeEar(signal.samples, spectra);
  for (let frame = 0; frame < frames; frame++) {
    ear.moveTo(frame);
    reading.read(ear, out, frame * reading.width);
  }
  return out;
}
