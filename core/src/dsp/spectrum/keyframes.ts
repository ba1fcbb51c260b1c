/** How many frames are looked at together: what is kept at their ends is kept. */
const STRETCH = 500;

/**
 * Indices of the frames to keep so that whatever a player puts between two of them is nowhere further than `within` from the
 * frame there (Douglas & Peucker 1973, over time).
 *
 * @param values  `width` numbers a frame
 * @param isTurn  whether they are unit quaternions, between which a player turns evenly, rather than numbers on a line
 * @param within  largest difference of a number; of a quaternion that of its parts, about half an angle in radians
 * @returns in order, the first and last frame always
 */
export function keptFrames(
  values: ArrayLike<number>,
  width: number,
  within: number,
  isTurn = false,
): number[] {
  const last = values.length / width - 1;
  const kept = new Uint8Array(last + 1);
  kept[0] = 1;
  kept[last] = 1;
  const waiting = [0, last];
  const told = new Float64Array(width);
  while (waiting.length > 0) {
    const to = waiting.pop()!;
    const from = waiting.pop()!;
    let worst = within;
    let at = -1;
    for (let i = from + 1; i < to; i++) {
      between(values, width, from, to, (i - from) / (to - from), isTurn, told);
      let off = 0;
      for (let axis = 0; axis < width; axis++)
        off = Math.max(off, Math.abs(told[axis] - values[i * width + axis]));
      if (off > worst) {
        worst = off;
        at = i;
      }
    }
    if (at < 0) continue;
    kept[at] = 1;
    waiting.push(from, at, at, to);
  }
  return Array.from(kept.keys()).filter((i) => kept[i] === 1);
}

/** Interpolates between two frames as a player does: linearly, or spherically for quaternions. */
function between(
  values: ArrayLike<number>,
  width: number,
  from: number,
  to: number,
  share: number,
  isTurn: boolean,
  out: Float64Array,
): void {
  let [a, b] = [1 - share, share];
  if (isTurn) {
    let cos = 0;
    for (let axis = 0; axis < 4; axis++) cos += values[from * 4 + axis] * values[to * 4 + axis];
    const sign = cos < 0 ? -1 : 1;
    const angle = Math.acos(Math.min(1, cos * sign));
    if (angle > 1e-6) {
      a = Math.sin((1 - share) * angle) / Math.sin(angle);
      b = (sign * Math.sin(share * angle)) / Math.sin(angle);
    } else b *= sign;
  }
  for (let axis = 0; axis < width; axis++)
    out[axis] = a * values[from * width + axis] + b * values[to * width + axis];
}

/** A leap takes this part of a frame. */
const LEAP_FRAMES = 0.001;

/** Frames that were kept, and their numbers. */
export interface Keys {
  frames: number[];
  /** `width` numbers a frame. */
  values: number[];
}

/**
 * Takes numbers frame by frame and keeps the frames that are needed, holding only a stretch of the others.
 *
 * @example
 * const track = new KeyTrack(3, 0.0005);
 * for (const place of places) track.add(place);
 * track.finish(); // { frames: [0, 17, 42], values: [...] }
 */
export class KeyTrack {
  readonly width: number;
  private readonly within: number;
  private readonly isTurn: boolean;
  private readonly kept: Keys = { frames: [], values: [] };
  private pending: number[] = [];
  /** Frame of the first that is pending. */
  private from = 0;
  private count = 0;

  /** @param within, @param isTurn  as of {@link keptFrames} */
  constructor(width: number, within: number, isTurn = false) {
    this.width = width;
    this.within = within;
    this.isTurn = isTurn;
  }

  /** Frames it has been given. */
  get length(): number {
    return this.count;
  }

  add(value: ArrayLike<number>): void {
    const { pending, width } = this;
    const before = pending.length - width;
    let sign = 1;
    if (this.isTurn && before >= 0) {
      // A quaternion and its opposite are one turn: the nearer one goes on.
      let cos = 0;
      for (let axis = 0; axis < 4; axis++) cos += pending[before + axis] * value[axis];
      if (cos < 0) sign = -1;
    }
    for (let axis = 0; axis < width; axis++) pending.push(sign * value[axis]);
    this.count++;
    if (pending.length > STRETCH * width) this.keep();
  }

  /** Stands at a value up to a frame, that not included. */
  holdUntil(frame: number, value: ArrayLike<number>): void {
    if (frame <= this.count) return;
    this.add(value);
    if (frame <= this.count) return;
    this.keep();
    this.pending = [];
    for (let axis = 0; axis < this.width; axis++) this.pending.push(value[axis]);
    this.from = frame - 1;
    this.count = frame;
  }

  /**
   * Marks a break: the next frame does not continue the last one. Until just before it, values go on as in the last frame.
   */
  leap(): void {
    const { pending, width, count, kept } = this;
    const [last, before] = [pending.length - width, pending.length - 2 * width];
    if (last < 0) return;
    const gone = Array.from({ length: width }, (_none, axis) => {
      const now = pending[last + axis];
      return before < 0 || this.isTurn ? now : now + (1 - LEAP_FRAMES) * (now - pending[before + axis]);
    });
    this.keep();
    kept.frames.push(count - LEAP_FRAMES);
    kept.values.push(...gone);
    this.pending = [];
    this.from = count;
  }

  /** Keeps what is needed of the pending frames; the last of them begins the next stretch. */
  private keep(): void {
    const { pending, width, kept } = this;
    if (pending.length === 0) return;
    for (const i of keptFrames(pending, width, this.within, this.isTurn)) {
      const frame = this.from + i;
      if (kept.frames.at(-1) === frame) continue;
      kept.frames.push(frame);
      for (let axis = 0; axis < width; axis++) kept.values.push(pending[i * width + axis]);
    }
    const last = pending.length / width - 1;
    this.pending = pending.slice(last * width);
    this.from += last;
  }

  /** The kept frames; a single one where nothing ever changed. */
  finish(): Keys {
    this.keep();
    const { frames, values } = this.kept;
    const { width } = this;
    if (values.every((value, i) => value === values[i % width]))
      return { frames: frames.slice(0, 1), values: values.slice(0, width) };
    return { frames, values };
  }
}
