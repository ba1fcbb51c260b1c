import { type Cue, type CueSettings, pickCues } from "./cue";
import { WholeEar } from "./ear";
import { type Measure, type Reading, startMeasure } from "./measures";
import { type FrameStep, type Shaping, shaper } from "./shaping";
import { framesOf, type Signal } from "./signal";
import type { SpectrumSource } from "./spectrumSource";
import type { Track } from "./track";

/** What of a strand its numbers depend on, beside what it listens to. */
export interface Tuning {
  measure: Measure;
  shaping: Shaping;
  /** Without them there are no cues. */
  cues?: CueSettings;
}

/** A strand over a whole sound, before and after shaping. */
export interface StrandTraces {
  /** Linear levels, full-scale sine = 1, or what else the measure's unit is; as wide as `shaped`. */
  raw: Float32Array;
  shaped: Track;
  cues: Cue[];
}

/** Where results are written; memory that page and worker share, for one. */
export type MakeNumbers = (length: number) => Float32Array;

/** A strand on its way through a whole sound, so many frames at a time. */
export class StrandAnalysis {
  readonly width: number;
  readonly frames: number;
  readonly raw: Float32Array;
  readonly shaped: Float32Array;
  framesReady = 0;
  private readonly reading: Reading | undefined;
  private readonly next: FrameStep;
  private readonly ear: WholeEar;
  private readonly cueSettings: CueSettings | undefined;

  /**
   * @param signal  the sound's mono mix at 48 kHz, finite, with what else it offers
   * @param known  what the measure gave before, when only the shaping is another
   * @throws RangeError for a measure the sound cannot be read with
   */
  constructor(
    signal: Signal,
    { measure, shaping, cues }: Tuning,
    spectra: SpectrumSource,
    known?: { raw: Float32Array; width: number },
    make: MakeNumbers = (length) => new Float32Array(length),
  ) {
    this.frames = framesOf(signal);
    this.reading = known ? undefined : startMeasure(measure, signal);
    this.width = known?.width ?? this.reading!.width;
    this.raw = known?.raw ?? make(this.frames * this.width);
    this.shaped = make(this.frames * this.width);
    this.next = shaper(shaping, this.width);
    this.ear = new WholeEar(signal.samples, spectra);
    this.cueSettings = cues;
  }

  get isDone(): boolean {
    return this.framesReady >= this.frames;
  }

  /** Goes on by some frames. */
  advance(count: number): void {
    const { width, raw, shaped, ear, reading } = this;
    const end = Math.min(this.frames, this.framesReady + count);
    for (let frame = this.framesReady; frame < end; frame++) {
      const at = frame * width;
      if (reading) {
        ear.moveTo(frame);
        reading.read(ear, raw, at);
      }
      for (let i = at; i < at + width; i++) shaped[i] = raw[i];
      this.next(shaped, at);
    }
    this.framesReady = end;
  }

  /** Cues of the whole; ask when it is done. */
  cues(): Cue[] {
    return this.cueSettings ? pickCues(this.shaped, this.width, this.cueSettings) : [];
  }
}

/**
 * Computes a strand over a whole sound: measure, then shaping, then cues.
 *
 * @throws RangeError for a measure the sound cannot be read with
 */
export function analyseStrand(signal: Signal, tuning: Tuning, spectra: SpectrumSource): StrandTraces {
  const analysis = new StrandAnalysis(signal, tuning, spectra);
  analysis.advance(analysis.frames);
  const { raw, shaped: values, width } = analysis;
  return { raw, shaped: { width, values }, cues: analysis.cues() };
}
