import { FRAME_RATE_HZ } from "../../constants";
import { BEAT_SPECTRA } from "../../dsp/maths/measureWindows";
import type { Samples } from "../../dsp/maths/samples";
import type { Sliced } from "../../dsp/maths/slices";
import { type Beat, findBeatsSliced, placeBeats } from "../../dsp/rhythm/beat";
import { type BandOnset, BeatOnsets, ONSET_LAG } from "../../dsp/rhythm/beatOnsets";
import { BeatTracker, LONGEST_FRAMES, NEAR_FRAMES, type TrackedBeat } from "../../dsp/rhythm/beatTracker";
import { type Beats, fraction, TICK_STRENGTHS } from "../../sound/beats";
import { type FrameCursor, WholeCursor } from "../hearing/cursor";
import { framesOf, type Signal } from "../hearing/signal";
import { DirectSpectra } from "../hearing/spectra";

/** How beats that are heard are counted. */
export interface CountedBy {
  beatsPerBar: number;
  /** Beats at the tempo that is heard, at half or at twice that. */
  tempo: "heard" | "half" | "double";
  /** A bar begins at the beat nearest to this; 0 for where it is heard to begin. */
  oneAtS: number;
}

/** Beats with how sure they are. */
export interface HeardBeats extends Beats {
  /** 0..1, of a beat with its fraction. */
  certaintyAt(beat: number): number;
}

/** Counts a row of beats; `undefined` when there are too few to make one. */
export function countBeats(
  found: readonly Beat[],
  { beatsPerBar, tempo, oneAtS }: CountedBy,
): HeardBeats | undefined {
  if (found.length < 2) return undefined;
  const heardS = found.map(({ at }) => at / FRAME_RATE_HZ);
  const nearest = (timesS: readonly number[]) =>
    timesS.reduce(
      (best, timeS, i) => (Math.abs(timeS - oneAtS) < Math.abs(timesS[best] - oneAtS) ? i : best),
      0,
    );
  // The first beat that begins a bar, as it is heard.
  const one = oneAtS > 0 ? nearest(heardS) : (beatsPerBar - found[0].inBar) % beatsPerBar;
  const [timesS, first] = {
    heard: () => [heardS, one] as const,
    half: () => [heardS.filter((_timeS, i) => i % 2 === one % 2), Math.floor(one / 2)] as const,
    double: () =>
      [
        heardS.flatMap((timeS, i) =>
          i + 1 < heardS.length ? [timeS, (timeS + heardS[i + 1]) / 2] : [timeS],
        ),
        2 * one,
      ] as const,
  }[tempo]();
  if (timesS.length < 2) return undefined;
  const certainty = found.map((beat) => beat.certainty);
  const perHeard = { heard: 1, half: 0.5, double: 2 }[tempo];
  const last = timesS.length - 1;
  const beatAt = (timeS: number): number => {
    if (timeS < timesS[0]) return (timeS - timesS[0]) / (timesS[1] - timesS[0]);
    if (timeS >= timesS[last]) return last + (timeS - timesS[last]) / (timesS[last] - timesS[last - 1]);
    let [low, high] = [0, last];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (timesS[middle] <= timeS) low = middle;
      else high = middle;
    }
    return low + (timeS - timesS[low]) / (timesS[high] - timesS[low]);
  };
  return {
    beatAt,
    barPhase: (beat) => fraction((beat - first) / beatsPerBar),
    certaintyAt: (beat) =>
      certainty[Math.min(certainty.length - 1, Math.max(0, Math.round(beat / perHeard)))],
    ticks: (fromS, toS) =>
      timesS
        .map((timeS, beat) => ({
          timeS,
          strength: (beat - first) % beatsPerBar === 0 ? TICK_STRENGTHS.bar : TICK_STRENGTHS.beat,
        }))
        .filter(({ timeS }) => timeS >= fromS && timeS < toS),
  };
}

/** Frames read between two chances to stop: a millisecond or two. */
const FRAMES_A_SLICE = 16;

/** Beats of sounds by their samples and beats per bar: strands that read the same beats look for them once. */
const found = new WeakMap<Samples, Map<number, readonly Beat[]>>();

/** The beats of a whole sound, in slices. */
export function* foundBeatsSliced(
  signal: Pick<Signal, "samples" | "frames">,
  beatsPerBar: number,
): Sliced<readonly Beat[]> {
  const frames = framesOf(signal);
  const onsets: BandOnset[] = [];
  const picker = new BeatOnsets();
  const cursor = new WholeCursor(signal, new DirectSpectra());
  for (let frame = 0; frame < frames; frame++) {
    cursor.moveTo(frame);
    cursor.loadSpectrum(BEAT_SPECTRA.fftSize, BEAT_SPECTRA.window);
    picker.push(cursor.powers, cursor.offset, onsets);
    if (frame % FRAMES_A_SLICE === 0) yield;
  }
  picker.end(onsets);
  return yield* findBeatsSliced(onsets, frames, beatsPerBar);
}

/** The beats of a whole sound, counted as asked for; `undefined` when there are none. */
export function* soundBeatsSliced(
  signal: Pick<Signal, "samples" | "frames">,
  counted: CountedBy,
): Sliced<HeardBeats | undefined> {
  const known = found.get(signal.samples) ?? new Map<number, readonly Beat[]>();
  found.set(signal.samples, known);
  let beats = known.get(counted.beatsPerBar);
  if (!beats) {
    beats = yield* foundBeatsSliced(signal, counted.beatsPerBar);
    known.set(counted.beatsPerBar, beats);
  }
  return countBeats(beats, counted);
}

/** Live, so much of the past is looked at, and beats are placed again so often: frames. */
const KEPT_FRAMES = 2000;
const LISTEN_FRAMES = 1200;
const AGAIN_FRAMES = 10;
/** Fewer beats than this make no row. */
const FEWEST_BEATS = 4;
/** Frames that the tracker is behind: it judges beats when they are over, and onsets are known some frames later. */
const BEHIND_FRAMES = LONGEST_FRAMES + 2 * NEAR_FRAMES + ONSET_LAG;

/** When live beats are corrected, they run faster or slower by this share until they are in place. */
const CATCHES_UP = 0.5;
/** Further off than this share of a beat for so many frames they jump there. */
const TOO_FAR = 0.2;
const JUMPS_AFTER_FRAMES = 50;

/**
 * Beats of a live sound: the likeliest row so far, whose last beats are over for up to two seconds, continued up to now and
 * placed by the onsets there have been since.
 */
export class LiveBeats {
  /** The beat of now, counted from the start of its bar, and how sure it is; `undefined` while there are none. */
  now: { beatInBar: number; certainty: number } | undefined;
  private row: HeardBeats | undefined;
  private tooFar = 0;
  private readonly counted: CountedBy;
  private readonly picker = new BeatOnsets();
  private readonly tracker: BeatTracker;
  private onsets: BandOnset[] = [];
  private taken = 0;
  private frame = -1;

  constructor(counted: CountedBy) {
    this.counted = counted;
    this.tracker = new BeatTracker(counted.beatsPerBar, KEPT_FRAMES);
  }

  /** Takes in the next frame. */
  read(cursor: FrameCursor): void {
    const { picker, tracker } = this;
    this.frame++;
    cursor.loadSpectrum(BEAT_SPECTRA.fftSize, BEAT_SPECTRA.window);
    picker.push(cursor.powers, cursor.offset, this.onsets);
    for (; this.taken < this.onsets.length; this.taken++) tracker.take(this.onsets[this.taken]);
    while (tracker.frame + BEHIND_FRAMES <= this.frame) tracker.step();
    if (this.frame % AGAIN_FRAMES === 0) this.placeAgain();
    this.goOn();
  }

  /** Moves the beat of now to where the row says, evenly: it never goes back but for a jump. */
  private goOn(): void {
    const { row, counted, frame } = this;
    if (!row) {
      this.now = undefined;
      return;
    }
    const timeS = frame / FRAME_RATE_HZ;
    const beat = row.beatAt(timeS);
    const perFrame = row.beatAt(timeS + 1 / FRAME_RATE_HZ) - beat;
    const bar = counted.beatsPerBar;
    const target = row.barPhase(beat) * bar;
    const at = this.now ? this.now.beatInBar + perFrame : target;
    const off = target - at;
    // Whole beats are a matter of where bars begin: beats go on evenly through that.
    const beats = Math.round(off);
    const part = off - beats;
    this.tooFar = Math.abs(part) > TOO_FAR ? this.tooFar + 1 : 0;
    const jumps = this.tooFar > JUMPS_AFTER_FRAMES;
    const most = CATCHES_UP * perFrame;
    const moved = at + beats + (jumps ? part : Math.max(-most, Math.min(most, part)));
    this.now = { beatInBar: bar * fraction(moved / bar), certainty: row.certaintyAt(beat) };
  }

  private placeAgain(): void {
    const { tracker, frame, counted } = this;
    const since = frame - LISTEN_FRAMES;
    const old = this.onsets.findIndex(({ at }) => at >= since - LONGEST_FRAMES);
    if (old > 0) {
      this.onsets = this.onsets.slice(old);
      this.taken -= old;
    }
    const past = tracker.beats(since);
    if (past.length < FEWEST_BEATS) {
      this.row = undefined;
      return;
    }
    const placed = placeBeats(past, this.onsets, tracker);
    const lengthOf = (row: readonly Beat[]) =>
      (row[row.length - 1].at - row[row.length - FEWEST_BEATS].at) / (FEWEST_BEATS - 1);
    const length = lengthOf(placed);
    const all: TrackedBeat[] = [...past];
    for (let at = placed[placed.length - 1].at + length; at < frame; at += length) {
      const { inBar, template } = all[Math.max(0, all.length - counted.beatsPerBar)];
      const next =
        all.length >= counted.beatsPerBar ? inBar : (all[all.length - 1].inBar + 1) % counted.beatsPerBar;
      all.push({ at, length, inBar: next, evidence: 0, template });
    }
    const row = placeBeats(all, this.onsets, tracker);
    // How sure the newest are is known from those that are over.
    const sure = placed[placed.length - 1].certainty;
    for (let i = past.length; i < row.length; i++) row[i].certainty = sure;
    row.push({
      at: row[row.length - 1].at + lengthOf(row),
      inBar: (all[all.length - 1].inBar + 1) % counted.beatsPerBar,
      certainty: sure,
    });
    this.row = countBeats(row, { ...counted, oneAtS: 0 });
  }
}
