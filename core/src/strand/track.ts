import { FRAME_RATE_HZ } from "../constants";

/** A strand's numbers over a whole sound, on the 100 Hz grid. */
export interface Track {
  /** Numbers a frame: 1 for a plain strand, the number of bands for a fan. */
  width: number;
  /** Frame after frame, `width` numbers each. */
  values: Float32Array;
  /** Seconds after which the sound goes round; its track goes round with it. */
  loopS?: number;
  /** For a sound that runs by itself: where it is now, whatever the tape's time. */
  positionS?(): number;
}

/** Where a track's own sound is when the tape is at a time: by itself, round again, or with the tape. */
export function trackTimeAt({ loopS, positionS }: Track, timeS: number): number {
  const ownS = positionS ? positionS() : timeS;
  return loopS && ownS > 0 ? ownS % loopS : ownS;
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
