import type { Sliced } from "../dsp/maths/slices";
import type { Cue } from "../sound/cue";
import type { SoundPart } from "../sound/parts";
import { type CueSettings, pickCues } from "../strand/cues";
import { WholeCursor } from "../strand/hearing/cursor";
import { partSignalSliced } from "../strand/hearing/partSignal";
import { framesOf, type Signal } from "../strand/hearing/signal";
import type { SpectrumSource } from "../strand/hearing/spectra";
import { timedCues } from "../strand/hits/hitTime";
import type { MeasureReader } from "../strand/measures/declaration";
import { type Measure, readsSamples, startMeasure } from "../strand/measures/table";
import { type FrameStep, shaper } from "../strand/shape/shaping";
import type { Track } from "../strand/track";
import type { Tuning } from "../strand/tuning";

/** A strand over a whole sound, before and after shaping. */
export interface StrandTraces {
  /** Linear levels, full-scale sine = 1, or what else the measure's unit is; as wide as `shaped`. */
  raw: Float32Array;
  shaped: Track;
  cues: Cue[];
}

/** Target of results, such as memory that page and worker share. */
export type MakeNumbers = (length: number) => Float32Array;

/** A strand on its way through a whole sound, so many frames at a time. */
export class StrandAnalysis {
  readonly width: number;
  readonly frames: number;
  readonly raw: Float32Array;
  readonly shaped: Float32Array;
  framesReady = 0;
  private readonly preparing: Sliced<void> | undefined;
  private isPrepared = false;
  private reader: MeasureReader | undefined;
  private readonly next: FrameStep;
  private cursor: WholeCursor;
  private readonly cueSettings: CueSettings | undefined;
  private signal: Signal;
  private readonly measure: Measure;

  /**
   * @param signal  the sound's mono mix at 48 kHz, finite, with what else it offers
   * @param known  what the measure gave before, when only the shaping is another
   * @throws RangeError for a measure the sound cannot be read with
   */
  constructor(
    signal: Signal,
    { measure, shaping, cues, code, part }: Tuning,
    spectra: SpectrumSource,
    known?: { raw: Float32Array; width: number },
    make: MakeNumbers = (length) => new Float32Array(length),
  ) {
    this.frames = framesOf(signal);
    const start = (heard: Signal) => startMeasure(measure, code === undefined ? heard : { ...heard, code });
    this.reader = known ? undefined : start(signal);
    this.width = known?.width ?? this.reader!.width;
    this.raw = known?.raw ?? make(this.frames * this.width);
    this.shaped = make(this.frames * this.width);
    this.next = shaper(shaping, this.width);
    this.cursor = new WholeCursor(signal, spectra);
    this.cueSettings = cues;
    this.signal = signal;
    this.measure = measure;
    // Cues are timed by what is heard, known numbers or not.
    const hearsPart = part && readsSamples(measure) && signal.samples.length > 0 && (!known || cues?.on);
    this.preparing = hearsPart ? this.hearPart(part, start, spectra) : this.reader?.prepare?.();
    this.isPrepared = !this.preparing;
  }

  /** Goes over to a part of the sound, and begins to read that. */
  private *hearPart(
    part: SoundPart,
    start: (heard: Signal) => MeasureReader,
    spectra: SpectrumSource,
  ): Sliced<void> {
    this.signal = yield* partSignalSliced(this.signal, part);
    this.cursor = new WholeCursor(this.signal, spectra);
    if (!this.reader) return;
    this.reader.dispose?.();
    this.reader = start(this.signal);
    if (this.reader.prepare) yield* this.reader.prepare();
  }

  /** Gives back what its measure holds. */
  dispose(): void {
    this.reader?.dispose?.();
  }

  get isDone(): boolean {
    return this.isPrepared && this.framesReady >= this.frames;
  }

  /**
   * Continues by some frames, or by a slice of the work that comes before the first one.
   */
  advance(count: number): void {
    if (!this.isPrepared) {
      this.isPrepared = this.preparing!.next().done === true;
      return;
    }
    const { width, raw, shaped, cursor, reader } = this;
    const end = Math.min(this.frames, this.framesReady + count);
    for (let frame = this.framesReady; frame < end; frame++) {
      const at = frame * width;
      if (reader) {
        cursor.moveTo(frame);
        reader.read(cursor, raw, at);
      }
      for (let i = at; i < at + width; i++) shaped[i] = raw[i];
      this.next(shaped, at);
    }
    this.framesReady = end;
  }

  /** Cues of the whole; ask when it is done. */
  cues(): Cue[] {
    const { cueSettings, signal, measure } = this;
    if (!cueSettings) return [];
    const cues = pickCues(this.shaped, this.width, cueSettings);
    return readsSamples(measure) ? timedCues(cues, cueSettings, measure, signal.samples) : cues;
  }
}

/**
 * Computes a strand over a whole sound: measure, then shaping, then cues.
 *
 * @throws RangeError for a measure the sound cannot be read with
 */
export function analyseStrand(signal: Signal, tuning: Tuning, spectra: SpectrumSource): StrandTraces {
  const analysis = new StrandAnalysis(signal, tuning, spectra);
  while (!analysis.isDone) analysis.advance(analysis.frames);
  const { raw, shaped: values, width } = analysis;
  return { raw, shaped: { width, values }, cues: analysis.cues() };
}
