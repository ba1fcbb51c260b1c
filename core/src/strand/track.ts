import { FRAME_RATE_HZ } from "../constants";
import type { Cue } from "../sound/cue";

/** A strand's numbers over a whole sound, on the 100 Hz grid. */
export interface Track {
  /** Numbers a frame: 1 for a plain strand, the number of bands for a fan. */
  width: number;
  /** Frame after frame, `width` numbers each; of a strand that is heard live, a ring buffer of its newest ones. */
  values: Float32Array;
  /** Which of them are the newest, for a strand that is heard live. */
  newest?: Newest;
  /** Seconds after which the sound repeats; its track repeats with it. */
  loopS?: number;
  /** For a sound that runs by itself: where it is when the tape is at a time near now. */
  positionS?(timeS: number): number;
  /** For a sound that answers start and stop: the share of its numbers that is left since it stands still. */
  shareLeft?(timeS: number): number;
  /** The strand's cues in order of time, if it has any; of a live sound the newest ones, on the tape's time. */
  cues?: readonly Cue[];
}

/** The newest frame of a strand that is heard live: it stands at `count − 1`, modulo the frames there is room for. */
export interface Newest {
  /** Frames there have been so far. */
  count: number;
  /** When it was, on the track's own time. */
  timeS: number;
}

/** Position of a track's own sound at a time of the tape: by itself, looping, or with the tape. */
export function trackTimeAt({ loopS, positionS }: Track, timeS: number): number {
  const ownS = positionS ? positionS(timeS) : timeS;
  return loopS && ownS > 0 ? ownS % loopS : ownS;
}

/**
 * Calls `take` with each cue of a track after `fromS` and up to `toS`, in each round of a sound that loops.
 *
 * @param take  is given the cue, and its time on the tape
 */
export function eachCueOf(
  { cues = [], loopS = 0 }: Pick<Track, "cues" | "loopS">,
  fromS: number,
  toS: number,
  take: (cue: Cue, timeS: number) => void,
): void {
  if (cues.length === 0) return;
  const isLoop = loopS > 0;
  const last = isLoop ? Math.floor(toS / loopS) : 0;
  for (let round = isLoop ? Math.max(0, Math.floor(fromS / loopS)) : 0; round <= last; round++) {
    for (const cue of cues) {
      const timeS = round * loopS + cue.timeS;
      if (timeS > fromS && timeS <= toS && !(isLoop && cue.timeS >= loopS)) take(cue, timeS);
    }
  }
}

/** One number of a track at a time: a fan's mean. */
export function trackMeanAt(track: Track, timeS: number): number {
  if (track.width === 1) return trackValueAt(track, timeS);
  let sum = 0;
  for (let band = 0; band < track.width; band++) sum += trackValueAt(track, timeS, band);
  return sum / track.width;
}

/**
 * A track's number at a time: linear between frames, the first frame's before the start and the last
 * frame's after the end, or round again for a sound that loops. Of a strand that is heard live, times before what is
 * remembered of it have the oldest number that is.
 *
 * @param timeS  seconds on the tape
 * @param band  which number of the frame, 0 to `width − 1`
 * @returns 0 for a track without frames
 */
export function trackValueAt(track: Track, timeS: number, band = 0): number {
  const { values, width, newest } = track;
  const last = values.length / width - 1;
  if (last < 0) return 0;
  if (newest) return recentValue(track, newest, trackTimeAt(track, timeS), band);
  const left = track.shareLeft?.(timeS) ?? 1;
  if (left === 0) return 0;
  const position = trackTimeAt(track, timeS) * FRAME_RATE_HZ;
  if (!(position > 0)) return left * values[band];
  if (position >= last) return left * values[last * width + band];
  const frame = Math.floor(position);
  const share = position - frame;
  const before = values[frame * width + band];
  const after = values[(frame + 1) * width + band];
  return left * (before + (after - before) * share);
}

function recentValue({ values, width }: Track, newest: Newest, ownS: number, band: number): number {
  if (newest.count === 0) return 0;
  const room = values.length / width;
  const back = Math.min(room, newest.count) - 1;
  const position = Math.min(back, Math.max(0, (newest.timeS - ownS) * FRAME_RATE_HZ || 0));
  const whole = Math.floor(position);
  const at = (frames: number) => values[((newest.count - 1 - frames) % room) * width + band];
  const after = at(whole);
  return whole < back ? after + (at(whole + 1) - after) * (position - whole) : after;
}

/**
 * The newest frames of a live strand in order of time.
 *
 * @param out  as many frames as wanted, the newest last; what there has not been is 0
 */
export function lastFrames({ width, values, newest }: LiveTrack, out: Float32Array): void {
  const room = values.length / width;
  const wanted = out.length / width;
  const there = Math.min(wanted, room, newest.count);
  out.fill(0, 0, (wanted - there) * width);
  for (let frame = 0; frame < there; frame++) {
    const from = ((newest.count - there + frame) % room) * width;
    const to = (wanted - there + frame) * width;
    for (let i = 0; i < width; i++) out[to + i] = values[from + i];
  }
}

/** A track of a strand that is heard live. */
export type LiveTrack = Track & { newest: Newest };

/** Seconds that are remembered of a strand that is heard live, while it is not too wide. */
const REMEMBERED_S = 30;
const MOST_REMEMBERED = 1 << 20;
/** Share of the difference by which the newest frame's time is drawn to when it came: blocks come in fits and starts. */
const DRAWN = 0.05;
/** A stream that is further off than this has stood still. */
const LATE_S = 0.25;

/** A track for a strand that is heard live; it remembers the last seconds. */
export function liveTrack(width: number): LiveTrack {
  const frames = Math.min(REMEMBERED_S * FRAME_RATE_HZ, Math.floor(MOST_REMEMBERED / width));
  return { width, values: new Float32Array(frames * width), newest: { count: 0, timeS: 0 } };
}

/**
 * Adds frames to what is remembered of a live strand.
 *
 * @param numbers  one frame after the other, `width` numbers each, the newest last
 * @param nowS  when they came, on the track's own time
 */
export function addFrames({ width, values, newest }: LiveTrack, numbers: Float32Array, nowS: number): void {
  const room = values.length / width;
  const frames = Math.floor(numbers.length / width);
  const isFirst = newest.count === 0;
  for (let frame = 0; frame < frames; frame++) {
    const at = (newest.count % room) * width;
    for (let i = 0; i < width; i++) values[at + i] = numbers[frame * width + i];
    newest.count++;
  }
  newest.timeS += frames / FRAME_RATE_HZ;
  const offS = nowS - newest.timeS;
  newest.timeS += isFirst || Math.abs(offS) > LATE_S ? offS : offS * DRAWN;
}
