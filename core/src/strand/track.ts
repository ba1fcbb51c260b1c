import { FRAME_RATE_HZ } from "../constants";
import type { Cue } from "./cue";

/** A strand's numbers over a whole sound, on the 100 Hz grid. */
export interface Track {
  /** Numbers a frame: 1 for a plain strand, the number of bands for a fan. */
  width: number;
  /** Frame after frame, `width` numbers each. */
  values: Float32Array;
  /** Seconds after which the sound goes round; its track goes round with it. */
  loopS?: number;
  /** For a sound that runs by itself: where it is when the tape is at a time near now. */
  positionS?(timeS: number): number;
  /** The strand's cues in order of time, if it has any; of a live sound the newest ones, on the tape's time. */
  cues?: readonly Cue[];
}

/** Where a track's own sound is when the tape is at a time: by itself, round again, or with the tape. */
export function trackTimeAt({ loopS, positionS }: Track, timeS: number): number {
  const ownS = positionS ? positionS(timeS) : timeS;
  return loopS && ownS > 0 ? ownS % loopS : ownS;
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
 * frame's after the end, or round again for a sound that loops.
 *
 * @param timeS  seconds on the tape
 * @param band  which number of the frame, 0 to `width − 1`
 * @returns 0 for a track without frames
 */
export function trackValueAt(track: Track, timeS: number, band = 0): number {
  const { values, width } = track;
  const last = values.length / width - 1;
  if (last < 0) return 0;
  const position = trackTimeAt(track, timeS) * FRAME_RATE_HZ;
  if (!(position > 0)) return values[band];
  if (position >= last) return values[last * width + band];
  const frame = Math.floor(position);
  const share = position - frame;
  const before = values[frame * width + band];
  const after = values[(frame + 1) * width + band];
  return before + (after - before) * share;
}
