import { FFT_SIZES, FRAME_RATE_HZ, HOP_SAMPLES } from "../../constants";
import { PowerSpectrum } from "../../dsp/spectrum/spectrum";
import type { WindowName } from "../../dsp/spectrum/window";
import { areScriptsLoaded } from "../../program/scripts/scripts";
import type { Cue } from "../../sound/cue";
import type { SoundPart } from "../../sound/parts";
import { CuePicker, cueValue } from "../cues";
import { HitTimer } from "../hits/hitTime";
import type { MeasureReader } from "../measures/declaration";
import { declarationOf, type Measure, startMeasure } from "../measures/table";
import { type FrameStep, shaper } from "../shape/shaping";
import type { Track } from "../track";
import type { Tuning } from "../tuning";
import type { FrameCursor } from "./cursor";
import { LiveParts } from "./partSignal";
import type { Signal } from "./signal";

/** Notes and controllers of a keyboard or knob box, as they are now. */
export interface NotesNow {
  /** Notes that are held, the newest last, with how hard they were struck. */
  held: readonly { note: number; velocity: number }[];
  /** The newest note, held or not. */
  last: number | undefined;
  /** Strength of a note that began since the last frame, else 0. */
  struck: number;
  /** Positions of controllers by their number, 0..1. */
  controls: ReadonlyMap<number, number>;
}

/** Samples up to now that live strands need: the largest spectrum. */
export const LIVE_HISTORY = Math.max(...FFT_SIZES);

/**
 * Position in a live sound. Each strand has its own instant, as far behind the newest sample as its measure
 * looks; those with the same instant share their spectra.
 */
export class LiveCursor implements FrameCursor {
  samples: Float32Array = new Float32Array(0);
  centre = 0;
  frame = 0;
  powers: Float32Array = new Float32Array(0);
  readonly offset = 0;
  private readonly spectra = new Map<
    string,
    { spectrum: PowerSpectrum; powers: Float32Array; heardAt: number }
  >();
  private moment = 0;
  private parts: LiveParts | undefined;
  private readonly ofParts = new Map<SoundPart, LiveCursor>();
  private splitAt = -1;

  /** Sets the sound up to now: at least {@link LIVE_HISTORY} samples. */
  push(latest: Float32Array): void {
    this.samples = latest;
    this.moment++;
  }

  /** Moves to a strand's frame. */
  moveTo(aheadSamples: number, frame: number): void {
    this.centre = this.samples.length - aheadSamples;
    this.frame = frame;
  }

  /** The same in a part of the sound, which is known later: those who share it ask at every moment. */
  part(part: SoundPart): LiveCursor {
    this.parts ??= new LiveParts(LIVE_HISTORY);
    const cursor = this.ofParts.get(part) ?? new LiveCursor();
    this.ofParts.set(part, cursor);
    if (this.splitAt !== this.moment) {
      this.splitAt = this.moment;
      this.parts.push(this.samples);
    }
    if (cursor.moment !== this.moment) {
      cursor.moment = this.moment;
      cursor.samples = this.parts.latest(part);
    }
    return cursor;
  }

  loadSpectrum(fftSize: number, window: WindowName): void {
    const key = `${fftSize} ${window} ${this.samples.length - this.centre}`;
    let known = this.spectra.get(key);
    if (!known) {
      const spectrum = new PowerSpectrum(fftSize, window);
      known = { spectrum, powers: new Float32Array(spectrum.binCount), heardAt: -1 };
      this.spectra.set(key, known);
    }
    if (known.heardAt !== this.moment) {
      known.spectrum.at(this.samples, this.centre, known.powers);
      known.heardAt = this.moment;
    }
    this.powers = known.powers;
  }
}

/** A live sound offers no samples beforehand. */
const NOTHING_YET: Signal = { samples: new Float32Array(0) };

/** The newest numbers of a strand that is read as it happens, and what they are shaped by. */
abstract class NewestNumbers {
  /** The newest numbers, and nothing before them. */
  track: Track = { width: 1, values: new Float32Array(1) };
  /** The newest numbers before shaping. */
  raw = new Float32Array(1);
  /** The newest cue, and how many there have been. */
  lastCue: Cue | undefined;
  cueCount = 0;
  private next: FrameStep = () => {};
  private picker: CuePicker | undefined;

  /** Begins shaping afresh, for frames of so many numbers. */
  protected begin({ shaping, cues }: Tuning, width: number): void {
    if (width !== this.track.width) {
      this.track = { width, values: new Float32Array(width) };
      this.raw = new Float32Array(width);
    }
    this.next = shaper(shaping, width);
    this.picker = cues?.on ? new CuePicker(cues) : undefined;
  }

  private hasFailed = false;
  /** Reads a frame into `raw`; a program that fails once gives 0 from then on. */
  protected readFrame(reader: MeasureReader, cursor: FrameCursor): boolean {
    if (this.hasFailed) return false;
    try {
      reader.read(cursor, this.raw, 0);
    } catch {
      this.hasFailed = true;
      this.raw.fill(0);
    }
    return true;
  }

  /** Shapes numbers that were read before. */
  takeAgain(raw: Float32Array, at: number): void {
    this.raw.set(raw.subarray(at, at + this.track.width));
    this.take();
  }

  /** Shapes what stands in `raw`. */
  protected take(): void {
    const { values, width } = this.track;
    values.set(this.raw);
    this.next(values, 0);
    const cue = this.picker?.push(cueValue(values, 0, width));
    if (!cue) return;
    this.lastCue = cue;
    this.cueCount++;
  }
}

/**
 * A strand on a live sound, frame by frame: the same measures, shaping and cues as over a whole sound. A frame's
 * window ends now, not centred on it.
 */
export class LiveStrand extends NewestNumbers {
  private readonly ahead: number;
  private readonly soundPart: SoundPart | undefined;
  private readonly reader: MeasureReader | undefined;
  private readonly timer: HitTimer | undefined;
  private readonly readNotes: ((now: NotesNow) => number) | undefined;
  private frame = 0;

  /**
   * @param from  whether it listens to an input or to what is played on a keyboard
   * @throws RangeError for a band that is upside down or off the spectrum
   */
  constructor(tuning: Tuning, from: "input" | "keys" = "input") {
    super();
    const { measure, cues } = tuning;
    const { ahead, reads } = declarationOf(measure.kind);
    this.ahead = ahead(measure);
    this.soundPart = tuning.part;
    if (from === "keys") this.readNotes = notesReader(measure);
    else if (reads.includes("samples"))
      this.reader = startMeasure(measure, { ...NOTHING_YET, code: tuning.code });
    if (this.reader && cues?.on && cues.rule === "peak") this.timer = new HitTimer(measure);
    this.begin(tuning, this.reader?.width ?? 1);
  }

  /** Gives back what its measure holds. */
  dispose(): void {
    this.reader?.dispose?.();
  }

  /** Reads one more frame from an input. */
  readSamples(whole: LiveCursor): void {
    if (!this.reader) return;
    const cursor = this.soundPart ? whole.part(this.soundPart) : whole;
    cursor.moveTo(this.ahead, this.frame++);
    if (!this.readFrame(this.reader, cursor)) return;
    const { cueCount } = this;
    this.take();
    if (!this.timer || !this.lastCue || this.cueCount === cueCount) return;
    const framesAgo = this.frame - 1 - Math.round(this.lastCue.timeS * FRAME_RATE_HZ);
    this.lastCue = this.timer.timed(this.lastCue, cursor.samples, cursor.centre - framesAgo * HOP_SAMPLES);
  }

  /** Reads one more frame of what is being played. */
  readNotesNow(now: NotesNow): void {
    if (!this.readNotes) return;
    this.raw[0] = this.readNotes(now);
    this.take();
  }
}

/** A strand that reads how full a zone is. */
export class ZoneLive extends NewestNumbers {
  constructor(tuning: Tuning) {
    super();
    this.begin(tuning, 1);
  }

  /** Takes one more frame, 0..1. */
  readFullness(share: number): void {
    this.raw[0] = share;
    this.take();
  }
}

/** A strand made of others of which at least one is live: it reads what they are now. */
export class CombinedLive extends NewestNumbers {
  private readonly tuning: Tuning;
  private sources: readonly Track[] | undefined;
  private reader: MeasureReader | undefined;
  private readonly cursor = new LiveCursor();

  constructor(tuning: Tuning) {
    super();
    this.tuning = tuning;
  }

  /** Gives back what its measure holds. */
  dispose(): void {
    this.reader?.dispose?.();
  }

  /** Reads one more frame: each source where the tape is, or its newest number. */
  readStrands(sources: readonly Track[], timeS: number): void {
    if (!this.madeOf(sources)) return;
    this.cursor.moveTo(0, timeS * FRAME_RATE_HZ);
    if (this.readFrame(this.reader!, this.cursor)) this.take();
  }

  /** Says what it is made of; shaping begins afresh when that is something else. @returns whether it can be read */
  madeOf(sources: readonly Track[]): boolean {
    const isSame =
      sources.length === this.sources?.length && sources.every((one, i) => one === this.sources![i]);
    const { measure, code } = this.tuning;
    if (code !== undefined && !areScriptsLoaded()) return false;
    if (!this.reader || !isSame) {
      this.sources = sources;
      this.reader?.dispose?.();
      this.reader = startMeasure(measure, { ...NOTHING_YET, strands: sources, code });
      this.begin(this.tuning, this.reader.width);
    }
    return true;
  }
}

/** Feeds an input to strands hop by hop, whatever size its blocks have. */
export class LiveListening {
  private readonly history = new Float32Array(4 * LIVE_HISTORY);
  private readonly cursor = new LiveCursor();
  private end = LIVE_HISTORY;
  private heard = LIVE_HISTORY;

  /**
   * @param block  mono samples at 48 kHz, of any number
   * @param strands  who hears them
   * @param onHop  called after each hop they have heard
   * @returns hops that were heard
   */
  take(block: Float32Array, strands: Iterable<Pick<LiveStrand, "readSamples">>, onHop?: () => void): number {
    let hops = 0;
    for (let at = 0; at < block.length; ) {
      if (this.end === this.history.length) this.rewind();
      const count = Math.min(block.length - at, this.history.length - this.end);
      for (let i = 0; i < count; i++) {
        const sample = block[at + i];
        this.history[this.end + i] = Number.isFinite(sample) ? sample : 0;
      }
      this.end += count;
      at += count;
      for (; this.end - this.heard >= HOP_SAMPLES; hops++) {
        this.heard += HOP_SAMPLES;
        this.cursor.push(this.history.subarray(this.heard - LIVE_HISTORY, this.heard));
        for (const strand of strands) strand.readSamples(this.cursor);
        onHop?.();
      }
    }
    return hops;
  }

  /** Brings what is still needed back to the front. */
  private rewind(): void {
    const from = this.heard - LIVE_HISTORY;
    this.history.copyWithin(0, from, this.end);
    this.heard -= from;
    this.end -= from;
  }
}

function notesReader(measure: Measure): ((now: NotesNow) => number) | undefined {
  switch (measure.kind) {
    case "velocity":
      return ({ held }) => {
        for (let i = held.length - 1; i >= 0; i--) {
          const { note, velocity } = held[i];
          if (note >= measure.lowNote && note <= measure.highNote) return velocity;
        }
        return 0;
      };
    case "note":
      return ({ last }) =>
        last === undefined
          ? 0
          : Math.min(
              1,
              Math.max(0, (last - measure.lowNote) / Math.max(1, measure.highNote - measure.lowNote)),
            );
    case "control":
      return ({ controls }) => controls.get(measure.controller) ?? 0;
    case "ticks":
      return ({ struck }) => struck;
    default:
      return undefined;
  }
}
