import {
  FLASH_CHANGE,
  FLASH_DARKER_BELOW,
  FLASH_SIZE,
  LINEAR,
  luminanceOf,
  MOST_FLASHES,
  SATURATED_RED,
} from "./flash";

/** Opposing changes that may happen within a second: a flash is a pair of them. */
export const MOST_CHANGES = 2 * MOST_FLASHES;
/** A limited change stays this much below one that counts: rounding to 8 bits must not lift it over. */
export const LIMIT_MARGIN = 0.012;
const HELD = FLASH_CHANGE - LIMIT_MARGIN;
/** Share of red that is left: just below a saturated red. */
export const LEAST_RED = SATURATED_RED - 0.02;

/**
 * Bounds how pictures change, so that no part of them flashes more than WCAG 2.3.1 allows, whatever they show. A pixel whose
 * luminance has gone up and down {@link MOST_FLASHES} times within a second waits with the next change until the second is
 * over; saturated reds lose a little of their saturation. Whatever flashes less passes as it is.
 *
 * It is the definition; the picture pass that does the same on the graphics card is compared with it.
 *
 * @example
 * const limiter = new FlashLimiter(256, 192);
 * for (const { timeS, rgba } of frames) limiter.push(timeS, rgba); // rgba is what may be shown
 */
export class FlashLimiter {
  private readonly pixels: number;
  /** The way each pixel's luminance went last, 0 before its first change. */
  private readonly way: Int8Array;
  /** Luminance at which the last change began: the lowest before a rise, the highest before a fall. */
  private readonly start: Float32Array;
  /** The furthest that the luminance has come since, on its way; so far highest at first. */
  private readonly extreme: Float32Array;
  /** Times of the last changes of each pixel, a ring each. */
  private readonly times: Float64Array;
  private readonly next: Uint8Array;
  /** The picture that was shown last, linear. */
  private readonly shown: Float32Array;
  private isFirst = true;

  /** @param width  of the pictures, pixels; @param height  of the pictures, pixels */
  constructor(width: number = FLASH_SIZE.width, height: number = FLASH_SIZE.height) {
    this.pixels = width * height;
    this.way = new Int8Array(this.pixels);
    this.start = new Float32Array(this.pixels);
    this.extreme = new Float32Array(this.pixels);
    this.times = new Float64Array(this.pixels * MOST_CHANGES).fill(Number.NEGATIVE_INFINITY);
    this.next = new Uint8Array(this.pixels);
    this.shown = new Float32Array(this.pixels * 3);
  }

  /**
   * Limits the next picture in place.
   *
   * @param timeS  when it is shown; later than the one before
   * @param rgba  sRGB, 8 bits each, row after row
   * @returns the share of its pixels that were held back
   * @throws RangeError for a picture of another size
   */
  push(timeS: number, rgba: Uint8Array | Uint8ClampedArray): number {
    const { pixels, shown } = this;
    if (rgba.length !== pixels * 4) throw new RangeError(`the picture has not ${pixels} pixels`);
    let held = 0;
    const colour: [number, number, number] = [0, 0, 0];
    for (let pixel = 0; pixel < pixels; pixel++) {
      const at = pixel * 4;
      for (let c = 0; c < 3; c++) colour[c] = LINEAR[rgba[at + c]];
      const isRed = lessRed(colour);
      const wanted = luminanceOf(...colour);
      const allowed = this.isFirst ? wanted : this.allow(pixel, timeS, wanted);
      const isHeld = Math.abs(allowed - wanted) > 1e-9;
      if (isHeld) {
        held++;
        const last = pixel * 3;
        const before = luminanceOf(shown[last], shown[last + 1], shown[last + 2]);
        // Towards what was shown before, as far as is needed.
        const share = Math.min(1, (allowed - wanted) / (before - wanted || 1e-9));
        for (let c = 0; c < 3; c++) colour[c] += (shown[last + c] - colour[c]) * share;
      }
      if (this.isFirst) {
        this.start[pixel] = wanted;
        this.extreme[pixel] = wanted;
      }
      shown.set(colour, pixel * 3);
      if (isHeld || isRed) for (let c = 0; c < 3; c++) rgba[at + c] = toSrgb(colour[c]);
    }
    this.isFirst = false;
    return held / pixels;
  }

  /** The luminance that a pixel may have now. */
  private allow(pixel: number, timeS: number, wanted: number): number {
    const { way, start, extreme } = this;
    if (way[pixel] === 0) {
      start[pixel] = Math.min(start[pixel], wanted);
      extreme[pixel] = Math.max(extreme[pixel], wanted);
      if (isLarge(start[pixel], wanted)) this.change(pixel, timeS, 1, start[pixel], wanted);
      else if (isLarge(extreme[pixel], wanted)) this.change(pixel, timeS, -1, extreme[pixel], wanted);
      return wanted;
    }
    const from = extreme[pixel];
    if (way[pixel] * (wanted - from) >= 0) {
      // It goes on the way that it went last. As long as a meter may not have counted the change yet, it is one of now.
      if (Math.abs(from - start[pixel]) <= FLASH_CHANGE + LIMIT_MARGIN) this.lastChangeIsAt(pixel, timeS);
      extreme[pixel] = wanted;
      return wanted;
    }
    if (!isLarge(from, wanted)) return wanted;
    if (!this.mayChange(pixel, timeS)) return from - way[pixel] * HELD;
    this.change(pixel, timeS, -way[pixel], from, wanted);
    return wanted;
  }

  private change(pixel: number, timeS: number, way: number, from: number, to: number): void {
    this.next[pixel] = (this.next[pixel] + 1) % MOST_CHANGES;
    this.lastChangeIsAt(pixel, timeS);
    this.way[pixel] = way;
    this.start[pixel] = from;
    this.extreme[pixel] = to;
  }

  private lastChangeIsAt(pixel: number, timeS: number): void {
    this.times[pixel * MOST_CHANGES + ((this.next[pixel] + MOST_CHANGES - 1) % MOST_CHANGES)] = timeS;
  }

  /** True when the oldest remembered change is more than a second ago. */
  private mayChange(pixel: number, timeS: number): boolean {
    return this.times[pixel * MOST_CHANGES + this.next[pixel]] <= timeS - 1 - 1e-3;
  }
}

/** True when going from one luminance to another may be counted as a change. */
const isLarge = (from: number, to: number): boolean =>
  Math.abs(to - from) > HELD && Math.min(to, from) < FLASH_DARKER_BELOW;

/** Takes saturation from a saturated red; tells whether there was one. */
function lessRed(colour: [number, number, number]): boolean {
  const [r, g, b] = colour;
  const all = r + g + b;
  if (all < 1e-3 || r / all < LEAST_RED) return false;
  // As much of green and blue as leaves red its share.
  const more = (r / LEAST_RED - all) / 2;
  colour[1] = g + more;
  colour[2] = b + more;
  return true;
}

function toSrgb(linear: number): number {
  const value = Math.min(1, Math.max(0, linear));
  return Math.round(255 * (value <= 0.0031308 ? 12.92 * value : 1.055 * value ** (1 / 2.4) - 0.055));
}
