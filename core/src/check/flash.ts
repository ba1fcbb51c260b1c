/**
 * Flashes in moving pictures, measured by WCAG 2.3.1 (Web Content Accessibility Guidelines 2.2, "general flash and red
 * flash thresholds"): no part of the screen that is large enough may flash more than three times in any one second.
 */

/** A change of relative luminance counts from here on, of a maximum of 1. */
export const FLASH_CHANGE = 0.1;
/** Of two states the darker one must be below this relative luminance. */
export const FLASH_DARKER_BELOW = 0.8;
/** Share of red in linear light, R / (R + G + B), from which a colour is a saturated red. */
export const SATURATED_RED = 0.8;
/** A change from or to a saturated red counts when the chromaticities (CIE 1976 u′v′) are further apart than this. */
export const RED_CHANGE = 0.2;
/** Flashes within any one second that are allowed. */
export const MOST_FLASHES = 3;
/** Flashing parts count when they take up this share of a window as wide and as high as a third of the picture. */
export const FLASH_AREA = 0.25;

/**
 * Pixels of pictures that flashes are measured in. A picture is taken as seen at 1024 × 768, where ten degrees of the
 * visual field are 341 × 256 pixels: a third of it. Patterns finer than a tenth of a degree, four of those pixels, do not
 * count as flashes.
 */
export const FLASH_SIZE = { width: 256, height: 192 };

/** Flashes within the last second, at the place that flashes most. */
export interface FlashReading {
  timeS: number;
  /** Pairs of opposing changes in luminance. */
  general: number;
  /** Pairs of opposing changes with a saturated red. */
  red: number;
}

/** True when there are more flashes than are allowed. */
export const isTooMuch = ({ general, red }: Pick<FlashReading, "general" | "red">): boolean =>
  Math.max(general, red) > MOST_FLASHES;

/** Linear light of the 256 levels of sRGB. */
export const LINEAR = Float32Array.from({ length: 256 }, (_none, i) => {
  const value = i / 255;
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
});

/** Relative luminance of linear light, 0..1 (Rec. 709 weights). */
export const luminanceOf = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;

/** Relative luminance of an sRGB colour of 8 bits each, 0..1 (Rec. 709 weights on linear light). */
export const relativeLuminance = (r: number, g: number, b: number): number =>
  luminanceOf(LINEAR[r], LINEAR[g], LINEAR[b]);

/** More changes than this within a second are not told apart: 20 flashes. */
const KEPT = 40;
/** Chromaticity of the white point (D65), which black has as well. */
const WHITE = [0.1978, 0.4683];

/** Counts the opposing changes of each pixel within the last second. */
class Changes {
  /** Times of the last changes of each pixel, a ring each; `first` is the oldest of `count`. */
  private readonly times: Float64Array;
  private readonly first: Uint8Array;
  private readonly count: Uint8Array;

  constructor(pixels: number) {
    this.times = new Float64Array(pixels * KEPT);
    this.first = new Uint8Array(pixels);
    this.count = new Uint8Array(pixels);
  }

  add(pixel: number, timeS: number): void {
    if (this.count[pixel] === KEPT) this.dropFirst(pixel);
    this.times[pixel * KEPT + ((this.first[pixel] + this.count[pixel]) % KEPT)] = timeS;
    this.count[pixel]++;
  }

  /** Changes of a pixel within the second that ends now; that second does not hold its own beginning. */
  within(pixel: number, timeS: number): number {
    const from = timeS - 1 + 1e-6;
    while (this.count[pixel] > 0 && this.times[pixel * KEPT + this.first[pixel]] <= from)
      this.dropFirst(pixel);
    return this.count[pixel];
  }

  private dropFirst(pixel: number): void {
    this.first[pixel] = (this.first[pixel] + 1) % KEPT;
    this.count[pixel]--;
  }
}

/** Shares of the definition's thresholds that a meter counts from. */
export interface FlashSensitivity {
  /** Of the change in luminance and in chromaticity. */
  change: number;
  /** Of the area. */
  area: number;
}
const AS_DEFINED: FlashSensitivity = { change: 1, area: 1 };

/**
 * Measures flashes in a film frame by frame.
 *
 * @example
 * const meter = new FlashMeter(96, 72);
 * for (const { timeS, rgba } of frames) if (isTooMuch(meter.push(timeS, rgba))) …
 */
export class FlashMeter {
  private readonly sensitivity: FlashSensitivity;
  private readonly width: number;
  private readonly height: number;
  private readonly luminance: Changes;
  private readonly redness: Changes;
  /** Luminance: the way each pixel went last, 0 at first, and how far. */
  private readonly way: Int8Array;
  private readonly low: Float32Array;
  private readonly high: Float32Array;
  /** Red: chromaticity and share of red after the last change of each pixel. */
  private readonly before: Float32Array;
  private isFirst = true;
  private readonly counts: Uint8Array;
  private readonly sums: Uint32Array;

  /**
   * @param width  of the pictures, pixels; see {@link FLASH_SIZE}
   * @param height  of the pictures, pixels
   * @param sensitivity  below 1 it also counts what is no flash yet by the definition
   */
  constructor(
    width: number = FLASH_SIZE.width,
    height: number = FLASH_SIZE.height,
    sensitivity: FlashSensitivity = AS_DEFINED,
  ) {
    this.sensitivity = sensitivity;
    this.width = width;
    this.height = height;
    const pixels = width * height;
    this.luminance = new Changes(pixels);
    this.redness = new Changes(pixels);
    this.way = new Int8Array(pixels);
    this.low = new Float32Array(pixels);
    this.high = new Float32Array(pixels);
    this.before = new Float32Array(pixels * 3);
    this.counts = new Uint8Array(pixels);
    this.sums = new Uint32Array((width + 1) * (height + 1));
  }

  /**
   * Takes the next picture.
   *
   * @param timeS  when it is shown; later than the one before
   * @param rgba  sRGB, 8 bits each, row after row; what lies behind transparent parts is taken as given
   * @throws RangeError for a picture of another size
   */
  push(timeS: number, rgba: ArrayLike<number>): FlashReading {
    const pixels = this.width * this.height;
    if (rgba.length !== pixels * 4) {
      throw new RangeError(`a picture of ${this.width} × ${this.height} pixels has ${pixels * 4} numbers`);
    }
    for (let pixel = 0; pixel < pixels; pixel++) {
      const [r, g, b] = [rgba[pixel * 4], rgba[pixel * 4 + 1], rgba[pixel * 4 + 2]];
      this.followLuminance(pixel, timeS, relativeLuminance(r, g, b));
      this.followRed(pixel, timeS, LINEAR[r], LINEAR[g], LINEAR[b]);
    }
    this.isFirst = false;
    return {
      timeS,
      general: this.flashesOf(this.luminance, timeS),
      red: this.flashesOf(this.redness, timeS),
    };
  }

  private followLuminance(pixel: number, timeS: number, now: number): void {
    const { low, high, way } = this;
    if (this.isFirst) {
      low[pixel] = now;
      high[pixel] = now;
      return;
    }
    if (now < low[pixel]) low[pixel] = now;
    if (now > high[pixel]) high[pixel] = now;
    // A change counts once the luminance has fallen so far from its highest, or risen so far from its lowest. The
    // tolerance is less than half a step of 8 bits.
    const least = FLASH_CHANGE * this.sensitivity.change - 1e-4;
    const isDown = way[pixel] >= 0 && high[pixel] - now > least && now < FLASH_DARKER_BELOW;
    const isUp = way[pixel] <= 0 && now - low[pixel] > least && low[pixel] < FLASH_DARKER_BELOW;
    if (!isDown && !isUp) return;
    way[pixel] = isDown ? -1 : 1;
    low[pixel] = now;
    high[pixel] = now;
    this.luminance.add(pixel, timeS);
  }

  private followRed(pixel: number, timeS: number, r: number, g: number, b: number): void {
    const { before } = this;
    const at = pixel * 3;
    const all = r + g + b;
    // CIE XYZ of linear sRGB, and from it u′ = 4X / (X + 15Y + 3Z), v′ = 9Y / (X + 15Y + 3Z).
    const x = 0.4124 * r + 0.3576 * g + 0.1805 * b;
    const y = luminanceOf(r, g, b);
    const z = 0.0193 * r + 0.1192 * g + 0.9505 * b;
    const sum = x + 15 * y + 3 * z;
    const isBlack = all < 1e-3;
    const u = isBlack ? WHITE[0] : (4 * x) / sum;
    const v = isBlack ? WHITE[1] : (9 * y) / sum;
    const share = isBlack ? 0 : r / all;
    const isFar = Math.hypot(u - before[at], v - before[at + 1]) > RED_CHANGE * this.sensitivity.change;
    if (!this.isFirst && !isFar) return;
    const withRed = share >= SATURATED_RED || before[at + 2] >= SATURATED_RED;
    if (!this.isFirst && withRed) this.redness.add(pixel, timeS);
    before[at] = u;
    before[at + 1] = v;
    before[at + 2] = share;
  }

  /** The most flashes within the last second that parts large enough have had. */
  private flashesOf(changes: Changes, timeS: number): number {
    const { counts } = this;
    let most = 0;
    for (let pixel = 0; pixel < counts.length; pixel++) {
      counts[pixel] = changes.within(pixel, timeS) >> 1;
      most = Math.max(most, counts[pixel]);
    }
    while (most > 0 && !this.isLargeEnough(most)) most--;
    return most;
  }

  /** True when pixels with at least so many flashes fill enough of some window. */
  private isLargeEnough(flashes: number): boolean {
    const { width, height, counts, sums } = this;
    for (let y = 0; y < height; y++) {
      let row = 0;
      for (let x = 0; x < width; x++) {
        if (counts[y * width + x] >= flashes) row++;
        sums[(y + 1) * (width + 1) + x + 1] = sums[y * (width + 1) + x + 1] + row;
      }
    }
    const [w, h] = [Math.ceil(width / 3), Math.ceil(height / 3)];
    const needed = FLASH_AREA * this.sensitivity.area * w * h;
    for (let y = 0; y + h <= height; y++) {
      for (let x = 0; x + w <= width; x++) {
        const at = (dx: number, dy: number) => sums[(y + dy) * (width + 1) + x + dx];
        if (at(w, h) - at(0, h) - at(w, 0) + at(0, 0) >= needed) return true;
      }
    }
    return false;
  }
}

/** The warning before a scene starts that flashes more than is allowed; `undefined` for others. */
export function flashWarning({
  flashing,
  limitsFlashes,
}: {
  flashing: { most: number; stretches: readonly unknown[] } | null;
  limitsFlashes: boolean;
}): string | undefined {
  if (!flashing || flashing.stretches.length === 0 || limitsFlashes) return undefined;
  return `This scene flashes, up to ${flashing.most} times a second. It may harm people with photosensitive epilepsy.`;
}

/** A stretch of a film that flashes more than is allowed. */
export interface FlashStretch {
  fromS: number;
  toS: number;
  /** The most flashes within a second, of either sort. */
  flashes: number;
  isRed: boolean;
}

/** The stretches in which readings are too much; gaps of under a second belong to one stretch. */
export function flashStretches(readings: readonly FlashReading[]): FlashStretch[] {
  const stretches: FlashStretch[] = [];
  for (const reading of readings) {
    if (!isTooMuch(reading)) continue;
    const { timeS, general, red } = reading;
    const flashes = Math.max(general, red);
    const last = stretches.at(-1);
    // The flashes that are counted began up to a second before.
    const fromS = Math.max(0, timeS - 1);
    if (last && fromS <= last.toS) {
      last.toS = timeS;
      last.flashes = Math.max(last.flashes, flashes);
      last.isRed ||= red > MOST_FLASHES;
    } else stretches.push({ fromS, toS: timeS, flashes, isRed: red > MOST_FLASHES });
  }
  return stretches;
}
