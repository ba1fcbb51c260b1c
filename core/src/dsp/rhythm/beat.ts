import type { Sliced } from "../maths/slices";
import type { BandOnset } from "./beatOnsets";
import { PLACES_A_BEAT } from "./beatPatterns";
import { BeatTracker, LONGEST_FRAMES, NEAR_FRAMES, type TrackedBeat } from "./beatTracker";

/** Onsets of so many beats on either side say when a beat begins, and how sure it is. */
const PLACED_BY_BEATS = 4;
const SURE_BY_BEATS = 8;
/** The frame that a beat was found on counts as much as an onset this strong. */
const FOUND_WEIGHT = 0.05;
/**
 * Evidence of beats per strength of their onsets. Noise and random hits reach the first at most, as they fit some beat or
 * other; music reaches the second and more.
 */
const NOISE_EVIDENCE = 1.7;
const MUSIC_EVIDENCE = 2.6;

/** A beat of a sound. */
export interface Beat {
  /** Frame at which it begins, between whole ones; before 0 where the first ones are counted back. */
  at: number;
  /** 0 for the first of a bar. */
  inBar: number;
  /** How sure it is, 0..1: near 0 in noise and where nothing repeats. */
  certainty: number;
}

/**
 * Beats of a whole sound, in slices: the likeliest of all rows of beats, by {@link BeatTracker}.
 *
 * @param onsets  in order of time, but for those of one instant
 * @param frames  length of the sound
 */
export function* findBeatsSliced(
  onsets: readonly BandOnset[],
  frames: number,
  beatsPerBar: number,
): Sliced<Beat[]> {
  const tracker = new BeatTracker(beatsPerBar);
  let next = 0;
  while (tracker.frame < frames) {
    const until = tracker.frame + LONGEST_FRAMES + 2 * NEAR_FRAMES;
    for (; next < onsets.length && onsets[next].at < until; next++) tracker.take(onsets[next]);
    tracker.step();
    if (tracker.frame % 32 === 0) yield;
  }
  return placeBeats(tracker.beats(), onsets, tracker);
}

/**
 * Places beats between frames: each on the parabola through the onsets of the beats around it, so that single notes that come
 * early or late do not move it, and it may speed up; and says how sure each is.
 *
 * @param onsets  in order of time, but for those of one instant
 */
export function placeBeats(
  beats: readonly TrackedBeat[],
  onsets: readonly BandOnset[],
  tracker: BeatTracker,
): Beat[] {
  const points = beats.map(({ at, length, template }) => {
    const out = [{ x: 0, y: 0, weight: FOUND_WEIGHT }];
    // Triplets are played more or less swung, sixteenths are even.
    for (let place = 0; place < PLACES_A_BEAT; place += PLACES_A_BEAT / 4) {
      for (const { band, at: onsetAt, strength } of onsetsNear(
        onsets,
        at + (length * place) / PLACES_A_BEAT,
      )) {
        const weight = strength * tracker.expected(template, place, band);
        out.push({ x: place / PLACES_A_BEAT, y: onsetAt - at, weight });
      }
    }
    return out;
  });
  const strengths = beats.map(({ at, length }) =>
    onsetsWithin(onsets, at - NEAR_FRAMES, at + length - NEAR_FRAMES).reduce(
      (sum, one) => sum + one.strength,
      0,
    ),
  );
  const around = (i: number, count: number) => [
    Math.max(0, i - count),
    Math.min(beats.length, i + count + 1),
  ];
  return beats.map(({ at, inBar }, i) => {
    const fit = new ParabolaFit();
    const [first, last] = around(i, PLACED_BY_BEATS);
    for (let k = first; k < last; k++) {
      const share = 1 - ((k - i) / (PLACED_BY_BEATS + 1)) ** 2;
      for (const { x, y, weight } of points[k]) fit.add(k - i + x, beats[k].at - at + y, share * weight);
    }
    let [said, strength] = [0, 0];
    const [from, to] = around(i, SURE_BY_BEATS);
    for (let k = from; k < to; k++) {
      said += beats[k].evidence;
      strength += strengths[k];
    }
    const certainty =
      strength > 0 ? (said / strength - NOISE_EVIDENCE) / (MUSIC_EVIDENCE - NOISE_EVIDENCE) : 0;
    return { at: at + fit.atZero(), inBar, certainty: Math.min(1, Math.max(0, certainty)) };
  });
}

/** The parabola that comes nearest to some points, by the squares of their distances. */
class ParabolaFit {
  /** Sums of weights times powers of x, and of those times y. */
  private readonly x = new Float64Array(5);
  private readonly y = new Float64Array(3);

  add(x: number, y: number, weight: number): void {
    for (let power = 0, value = weight; power < 5; power++, value *= x) {
      this.x[power] += value;
      if (power < 3) this.y[power] += value * y;
    }
  }

  /** Its value at 0; that of the mean where there are too few points for a parabola. */
  atZero(): number {
    const [s0, s1, s2, s3, s4] = this.x;
    const [t0, t1, t2] = this.y;
    const whole = s0 * (s2 * s4 - s3 * s3) - s1 * (s1 * s4 - s2 * s3) + s2 * (s1 * s3 - s2 * s2);
    if (Math.abs(whole) < 1e-6 * s0 ** 3) return t0 / s0;
    return (t0 * (s2 * s4 - s3 * s3) - s1 * (t1 * s4 - t2 * s3) + s2 * (t1 * s3 - t2 * s2)) / whole;
  }
}

const onsetsNear = (onsets: readonly BandOnset[], frame: number) =>
  onsetsWithin(onsets, frame - NEAR_FRAMES, frame + NEAR_FRAMES);

/** Onsets from one frame up to another. Those of one instant may be a frame or two out of order. */
function onsetsWithin(onsets: readonly BandOnset[], from: number, to: number): BandOnset[] {
  let [low, high] = [0, onsets.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (onsets[middle].at < from - NEAR_FRAMES) low = middle + 1;
    else high = middle;
  }
  const out: BandOnset[] = [];
  for (let i = low; i < onsets.length && onsets[i].at < to + NEAR_FRAMES; i++) {
    if (onsets[i].at >= from && onsets[i].at <= to) out.push(onsets[i]);
  }
  return out;
}
