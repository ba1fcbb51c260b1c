import { DEFAULT_FFT_SIZE, FRAME_RATE_HZ, frameCount, SAMPLE_RATE_HZ } from "../../constants";
import { hitStrength, readHitModel, writeHitModel } from "../../dsp/hits/hitModel";
import { levelToDb, SILENCE_DB } from "../../dsp/level/decibel";
import type { Samples } from "../../dsp/maths/samples";
import { finish, type Sliced } from "../../dsp/maths/slices";
import { bandLevel, bandShares } from "../../dsp/spectrum/bands";
import { DEFAULT_WINDOW } from "../../dsp/spectrum/window";
import type { Cue } from "../../sound/cue";
import { type CueSettings, defaultCues, pickCues } from "../cues";
import type { SpectrumSource } from "../hearing/spectra";
import { MEASURES, measureSound } from "../measures/table";
import { tenth, within } from "../shape/fit";
import { changeShaping, defaultShaping, SHAPING_STEPS, shape } from "../shape/shaping";
import type { Tuning } from "../tuning";
import { type Beginning, learnHits, readBeginnings } from "./hitLearning";
import { timedCues } from "./hitTime";

/** Marks a catch needs: with fewer, anything fits. */
export const LEAST_MARKS = 3;
/** A cue this near a mark is the hit that was meant. */
export const MATCH_S = 0.05;
/** Hits this near each other are one. */
export const HIT_GAP_MS = 60;
/** Frames read between two chances to stop. */
const FRAMES_A_SLICE = 200;
/** Long enough to smooth the ripple of a noisy hit, short enough not to hide the next one. */
const RELEASE_MS = 80;
/** Levels this far below the range's loudest are its floor. */
const RANGE_DB = 48;
/** Edges of the ranges that are tried: third octaves, from the lowest drum to the highest cymbal. */
const EDGES_HZ = Array.from({ length: 28 }, (_, i) => round(31.5 * 2 ** (i / 3)));

/** Detector that tells the hits from the rest: a level in one range, or a model learnt in twelve bands. */
export type CaughtBy =
  | {
      way: "range";
      lowHz: number;
      highHz: number;
      /** Level a hit must reach, in dBFS. */
      mark: number;
    }
  | {
      way: "learnt";
      /** Hits and others that it was learnt from. */
      hits: number;
      others: number;
    };

export interface Catch {
  by: CaughtBy;
  /** On the marked stretch. */
  precision: number;
  recall: number;
  stretch: { fromS: number; toS: number };
  /** Cues over the whole sound. */
  cues: Cue[];
  /** Marks that no cue meets, and cues in the stretch that meet no mark: the strongest first. */
  missed: number[];
  extra: Cue[];
  /** The strand that gives these cues. */
  tuning: Required<Omit<Tuning, "code" | "part">>;
}

/** A cue at each peak that reaches a mark. */
const peakCues = (mark: number, gapMs: number): CueSettings => ({
  ...defaultCues(),
  on: true,
  rule: "peak",
  mark,
  sensitivity: 0,
  gapMs,
});

/**
 * A strand that listens for hits in a range: its level over the 48 dB up to the loudest, up at once and down in 80 ms,
 * a cue at each peak that reaches the mark.
 *
 * @param markDb  level a hit must reach, in dBFS
 * @param topDb  the loudest the range gets over the whole sound, in dBFS
 */
export function hitTuning(
  lowHz: number,
  highHz: number,
  markDb: number,
  topDb: number,
  gapMs = HIT_GAP_MS,
): Required<Omit<Tuning, "code" | "part">> {
  const shaping = defaultShaping();
  const floorDb = within(SHAPING_STEPS.window.settings.floorDb, tenth(topDb) - RANGE_DB);
  changeShaping(shaping, {
    window: { floorDb, rangeDb: RANGE_DB },
    follow: { attackMs: 0, releaseMs: RELEASE_MS },
  });
  const mark = Math.min(1, Math.max(0, (markDb - floorDb) / RANGE_DB));
  return {
    measure: { ...MEASURES.band.defaults, lowHz, highHz },
    shaping,
    cues: peakCues(mark, gapMs),
  };
}

/** The loudest of some levels, in dBFS. */
export function topDb(levels: Float32Array): number {
  let most = 0;
  for (const level of levels) if (level > most) most = level;
  return Math.max(SILENCE_DB, levelToDb(most));
}

interface Candidate {
  from: number;
  to: number;
  markDb: number;
  fMeasure: number;
  /** Decibels between hits and everything else, less what hits differ among themselves. */
  clearDb: number;
}

/** A range has to part marked hits from all else by this much, or more is learnt of them. */
const CLEAR_DB = 3;
/** With fewer others there is nothing to learn from. */
const LEAST_OTHERS = 2;
/** Learnt hits ring on as those of a level do. */
const learntTuning = (learnt: string): Required<Omit<Tuning, "code" | "part">> => {
  const shaping = defaultShaping("share");
  changeShaping(shaping, { follow: { attackMs: 0, releaseMs: RELEASE_MS } });
  return {
    measure: { kind: "hits", learnt },
    shaping,
    cues: peakCues(0.25, HIT_GAP_MS),
  };
};

/** Candidates that are judged by the whole sound, the clearest on the stretch first. */
const FINALISTS = 40;

/**
 * Finds the range of frequencies and the mark that best pick out the hits a person has marked: of all ranges of whole
 * third octaves and all marks, those with the best F-measure on the marked stretch, and among equals the one that
 * sets hits furthest apart from everything else in the whole sound. Keep one while marks are added.
 */
export class HitFinder {
  private readonly samples: Samples;
  private readonly spectra: SpectrumSource;
  /** Power of each third octave, frame by frame. */
  private powers: Float64Array[] = [];
  /** Everything that begins. */
  private beginnings: readonly Beginning[] = [];

  /** @param samples  mono at 48 kHz, finite */
  constructor(samples: Samples, spectra: SpectrumSource) {
    this.samples = samples;
    this.spectra = spectra;
  }

  /** Reads the sound, in slices; do this before searching. */
  *prepare(onProgress: (share: number) => void = () => {}): Sliced<void> {
    this.powers = yield* thirdPowers(this.samples, this.spectra, onProgress);
    this.beginnings = yield* readBeginnings(this.samples);
  }

  /** {@link search} at once, with all that comes before it. */
  find(marksS: readonly number[], othersS: readonly number[] = []): Catch {
    if (this.powers.length === 0) finish(this.prepare());
    return finish(this.search(marksS, othersS));
  }

  /**
   * Searches in slices.
   *
   * @param marksS  three or more times, each within 50 ms of its hit; between the first and the last every hit is marked
   * @param othersS  times of what is none, anywhere
   * @throws RangeError with fewer than three marks, or marks outside the sound
   */
  *search(marksS: readonly number[], othersS: readonly number[] = []): Sliced<Catch> {
    const { samples, spectra } = this;
    const marks = [...new Set(marksS)].sort((a, b) => a - b);
    if (marks.length < LEAST_MARKS) {
      throw new RangeError(`catching needs at least ${LEAST_MARKS} marked hits, not ${marks.length}`);
    }
    const endS = samples.length / SAMPLE_RATE_HZ;
    const outside = marks.find((mark) => !(mark >= 0 && mark < endS));
    if (outside !== undefined) {
      throw new RangeError(
        `the mark at ${outside} s lies outside the sound, which ends at ${endS.toFixed(2)} s`,
      );
    }
    const stretch = {
      fromS: Math.max(0, marks[0] - MATCH_S),
      toS: Math.min(endS, marks.at(-1)! + MATCH_S),
    };
    const best = yield* this.best(marks, stretch);
    const [lowHz, highHz] = [EDGES_HZ[best.from], EDGES_HZ[best.to]];
    const mark = Math.round(best.markDb * 100) / 100;
    const raw = measureSound({ samples }, { ...MEASURES.band.defaults, lowHz, highHz }, spectra);
    const tuning = hitTuning(lowHz, highHz, mark, topDb(raw));
    const inRange = caught(samples, raw, { way: "range", lowHz, highHz, mark }, tuning, marks, stretch);
    const isWrong = ({ cues }: Catch) =>
      othersS.some((timeS) => cues.some((cue) => isNear(cue.timeS, timeS)));
    const isClear = best.fMeasure > 0.999 && best.clearDb >= CLEAR_DB;
    if (isClear && !isWrong(inRange)) return inRange;
    yield;
    const learnt = this.learnt(marks, othersS, stretch);
    if (!learnt) return inRange;
    // Among equals, and where something was crossed out, the one that was learnt from it.
    return isWrong(inRange) || fOf(learnt) >= fOf(inRange) ? learnt : inRange;
  }

  /** Model learnt from the hits; `undefined` if there are too few other onsets. */
  private learnt(
    marks: readonly number[],
    othersS: readonly number[],
    stretch: Catch["stretch"],
  ): Catch | undefined {
    const { samples, beginnings } = this;
    const meant = new Set(
      marks.flatMap((mark) => {
        const near = beginnings.filter(({ timeS }) => isNear(timeS, mark));
        near.sort((a, b) => Math.abs(a.timeS - mark) - Math.abs(b.timeS - mark));
        return near.slice(0, 1);
      }),
    );
    const others = beginnings.filter(
      (one) =>
        !meant.has(one) &&
        ((one.timeS >= stretch.fromS && one.timeS <= stretch.toS) ||
          othersS.some((timeS) => isNear(one.timeS, timeS))),
    );
    if (meant.size < LEAST_MARKS || others.length < LEAST_OTHERS) return undefined;
    const learnt = writeHitModel(learnHits(beginnings, [...meant], others));
    // As it is written: the strand reads rounded numbers.
    const model = readHitModel(learnt);
    const raw = new Float32Array(frameCount(samples.length));
    for (const { timeS, features } of beginnings) {
      raw[Math.round(timeS * FRAME_RATE_HZ)] = hitStrength(model, features);
    }
    const tuning = learntTuning(learnt);
    const by: CaughtBy = { way: "learnt", hits: meant.size, others: others.length };
    return caught(samples, raw, by, tuning, marks, stretch);
  }

  private *best(marks: readonly number[], stretch: Catch["stretch"]): Sliced<Candidate> {
    const allFrames = frameCount(this.samples.length);
    // Peaks just outside count as well when a person marked a little early or late.
    const first = Math.max(0, Math.floor((stretch.fromS - 0.5) * FRAME_RATE_HZ));
    const last = Math.min(allFrames, Math.ceil((stretch.toS + 0.5) * FRAME_RATE_HZ));
    const near: Candidate[] = [];
    for (let from = 0; from < EDGES_HZ.length - 1; from++) {
      for (let to = from + 1; to < EDGES_HZ.length; to++) {
        const candidate = judge(this.levels(from, to, first, last), first, marks, stretch);
        if (candidate) near.push({ ...candidate, from, to });
      }
      yield;
    }
    const top = Math.max(0, ...near.map(({ fMeasure }) => fMeasure));
    const clearest = near
      .filter(({ fMeasure }) => fMeasure > top - 1e-9)
      .sort((a, b) => b.clearDb - a.clearDb)
      .slice(0, FINALISTS);
    const finalists: Candidate[] = [];
    for (const { from, to } of clearest) {
      const candidate = judge(this.levels(from, to, 0, allFrames), 0, marks, stretch);
      if (candidate) finalists.push({ ...candidate, from, to });
      yield;
    }
    finalists.sort((a, b) =>
      Math.abs(b.fMeasure - a.fMeasure) > 1e-9 ? b.fMeasure - a.fMeasure : b.clearDb - a.clearDb,
    );
    return finalists[0] ?? { from: 0, to: EDGES_HZ.length - 1, markDb: 0, fMeasure: 0, clearDb: 0 };
  }

  /** Levels of a range of third octaves over some frames. */
  private levels(from: number, to: number, first: number, last: number): Float32Array {
    const out = new Float32Array(last - first);
    for (let frame = first; frame < last; frame++) {
      let sum = 0;
      for (let band = from; band < to; band++) sum += this.powers[band][frame];
      out[frame - first] = Math.sqrt(2 * sum);
    }
    return out;
  }
}

function round(hz: number): number {
  return hz < 200 ? Math.round(hz * 10) / 10 : Math.round(hz);
}

/** Power of each third octave of {@link EDGES_HZ}, frame by frame. */
function* thirdPowers(
  samples: Samples,
  spectra: SpectrumSource,
  onProgress: (share: number) => void,
): Sliced<Float64Array[]> {
  const frames = frameCount(samples.length);
  const bands = EDGES_HZ.slice(1).map((highHz, i) => bandShares(EDGES_HZ[i], highHz, DEFAULT_FFT_SIZE));
  const out = bands.map(() => new Float64Array(frames));
  for (let frame = 0; frame < frames; frame++) {
    if (frame % FRAMES_A_SLICE === 0) {
      onProgress(frame / frames);
      yield;
    }
    const { powers, offset } = spectra.atFrame(samples, frame, DEFAULT_FFT_SIZE, DEFAULT_WINDOW);
    for (let band = 0; band < bands.length; band++) {
      out[band][frame] = bandLevel(powers, offset, bands[band]) ** 2 / 2;
    }
  }
  return out;
}

const isNear = (timeS: number, markS: number) => Math.abs(timeS - markS) <= MATCH_S + 1e-9;

/** Of how many of what was caught and of what was marked are the same. */
const fOf = ({ precision, recall }: Catch) =>
  precision + recall > 0 ? (2 * precision * recall) / (precision + recall) : 0;

/** Compares the cues that a strand gives with the marks. */
function caught(
  samples: Samples,
  raw: Float32Array,
  by: CaughtBy,
  tuning: Catch["tuning"],
  marks: readonly number[],
  stretch: Catch["stretch"],
): Catch {
  const cues = timedCues(
    pickCues(shape(raw, tuning.shaping), 1, tuning.cues),
    tuning.cues,
    tuning.measure,
    samples,
  );
  const inside = cues.filter(({ timeS }) => timeS >= stretch.fromS && timeS <= stretch.toS);
  const { matched, missed, extra } = compare(inside, marks);
  return {
    by,
    precision: inside.length > 0 ? matched / inside.length : 0,
    recall: matched / marks.length,
    stretch,
    cues,
    missed,
    extra: extra.sort((a, b) => b.strength - a.strength),
    tuning,
  };
}

/**
 * Matches cues to marks, one to one and the nearest first.
 *
 * @param withinS  how far apart they may lie
 */
export function compare(
  cues: readonly Cue[],
  marks: readonly number[],
  withinS = MATCH_S,
): { matched: number; missed: number[]; extra: Cue[] } {
  const pairs = marks.flatMap((mark) =>
    cues.filter(({ timeS }) => Math.abs(timeS - mark) <= withinS + 1e-9).map((cue) => ({ mark, cue })),
  );
  pairs.sort((a, b) => Math.abs(a.cue.timeS - a.mark) - Math.abs(b.cue.timeS - b.mark));
  const usedMarks = new Set<number>();
  const usedCues = new Set<Cue>();
  for (const { mark, cue } of pairs) {
    if (usedMarks.has(mark) || usedCues.has(cue)) continue;
    usedMarks.add(mark);
    usedCues.add(cue);
  }
  return {
    matched: usedMarks.size,
    missed: marks.filter((mark) => !usedMarks.has(mark)),
    extra: cues.filter((cue) => !usedCues.has(cue)),
  };
}

/**
 * How well the levels of one range, from `firstFrame` on, tell the marked hits from the rest, with the mark that does it
 * best.
 */
function judge(
  levels: Float32Array,
  firstFrame: number,
  marks: readonly number[],
  stretch: Catch["stretch"],
): Omit<Candidate, "from" | "to"> | undefined {
  const top = topDb(levels);
  if (top <= SILENCE_DB) return undefined;
  // With the mark at the floor every peak is a cue; its strength is how far above the floor it stands.
  const { shaping, cues } = hitTuning(0, 1, Number.NEGATIVE_INFINITY, top);
  const shaped = shape(levels, shaping);
  const startS = firstFrame / FRAME_RATE_HZ;
  const peaks = pickCues(shaped, 1, { ...cues, gapMs: 0 }).map((cue) => ({
    ...cue,
    timeS: cue.timeS + startS,
  }));
  const dbOf = ({ timeS }: Cue) => shaped[Math.round(timeS * FRAME_RATE_HZ) - firstFrame] * RANGE_DB;
  const inside = peaks.filter(({ timeS }) => timeS >= stretch.fromS && timeS <= stretch.toS);
  const hits: number[] = [];
  const others = new Set(inside);
  for (const mark of marks) {
    const near = inside.filter((peak) => Math.abs(peak.timeS - mark) <= MATCH_S);
    for (const peak of near) others.delete(peak);
    if (near.length > 0) hits.push(Math.max(...near.map(dbOf)));
  }
  const rest = [...others].map(dbOf).sort((a, b) => b - a);
  hits.sort((a, b) => b - a);
  // With the mark just below each hit in turn: how many hits and how many others reach it.
  let fMeasure = 0;
  let kept = 0;
  for (let i = 0; i < hits.length; i++) {
    const reached = rest.filter((one) => one >= hits[i]).length;
    const f = (2 * (i + 1)) / (marks.length + i + 1 + reached);
    if (f > fMeasure + 1e-9) {
      fMeasure = f;
      kept = i + 1;
    }
  }
  if (kept === 0) return undefined;
  const strongestOther = rest.find((one) => one < hits[kept - 1]) ?? 0;
  const { mark, clear } = placeMark(peaks.map(dbOf), hits.slice(0, kept), strongestOther);
  return { fMeasure, markDb: shaping.window.floorDb + mark, clearDb: clear };
}

/** A hit this much weaker than those that were marked is still one. */
const WEAKER_DB = 9;

/**
 * Place of the mark between the strongest other onset and the weakest hit. The whole sound has weaker hits than those
 * that were marked, and louder other things than those in the stretch: the mark stands in the widest gap between all
 * peaks there.
 *
 * @param all  decibels of every peak of the sound
 * @param hits  those of the marked hits, falling
 */
function placeMark(
  all: readonly number[],
  hits: readonly number[],
  strongestOther: number,
): { mark: number; clear: number } {
  const weakest = hits.at(-1)!;
  const low = Math.max(strongestOther, weakest - WEAKER_DB);
  const stops = [low, ...all.filter((db) => db > low && db < weakest).sort((a, b) => a - b), weakest];
  let widest = 0;
  let mark = (low + weakest) / 2;
  for (let i = 1; i < stops.length; i++) {
    if (stops[i] - stops[i - 1] <= widest) continue;
    widest = stops[i] - stops[i - 1];
    mark = (stops[i] + stops[i - 1]) / 2;
  }
  return { mark, clear: widest };
}
