import { describe, expect, it } from "@jest/globals";
import * as fc from "fast-check";
import {
  FLASH_SIZE,
  FlashMeter,
  type FlashReading,
  flashStretches,
  isTooMuch,
  relativeLuminance,
} from "./flash";

/** Pictures of the tests: coarser than what is measured in earnest, and of the same shape. */
const [width, height] = [64, 48];
type Colour = [r: number, g: number, b: number];
const WHITE: Colour = [255, 255, 255];
const BLACK: Colour = [0, 0, 0];

/** sRGB grey of a relative luminance, by the inverse of the standard's curve. */
function grey(luminance: number): Colour {
  const value = luminance <= 0.0031308 ? 12.92 * luminance : 1.055 * luminance ** (1 / 2.4) - 0.055;
  const level = Math.round(value * 255);
  return [level, level, level];
}

/** A picture of one colour, with another in a rectangle given in shares of it. */
function picture(ground: Colour, [left, top, right, bottom] = [0, 0, 0, 0], inside: Colour = ground) {
  const rgba = new Uint8ClampedArray(width * height * 4);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const isIn = x >= left * width && x < right * width && y >= top * height && y < bottom * height;
      rgba.set([...(isIn ? inside : ground), 255], (y * width + x) * 4);
    }
  }
  return rgba;
}

const FPS = 60;
/** Readings of some seconds at 60 frames a second. */
function watch(seconds: number, at: (timeS: number, frame: number) => Uint8ClampedArray, fps = FPS) {
  const meter = new FlashMeter(width, height);
  const readings: FlashReading[] = [];
  for (let frame = 0; frame < seconds * fps; frame++)
    readings.push(meter.push(frame / fps, at(frame / fps, frame)));
  return readings;
}
const most = (readings: readonly FlashReading[]) => ({
  general: Math.max(...readings.map(({ general }) => general)),
  red: Math.max(...readings.map(({ red }) => red)),
});
const fails = (readings: readonly FlashReading[]) => readings.some(isTooMuch);

/** Two pictures by turns, so many times a second. */
const turns = (hz: number, on: Uint8ClampedArray, off: Uint8ClampedArray) => (timeS: number) =>
  (timeS * hz) % 1 < 0.5 - 1e-9 ? on : off;
const strobe = (hz: number, on: Colour = WHITE, off: Colour = BLACK) =>
  watch(3, turns(hz, picture(on), picture(off)));

describe("relative luminance", () => {
  it("is that of the standard", () => {
    expect(relativeLuminance(255, 255, 255)).toBeCloseTo(1, 6);
    expect(relativeLuminance(0, 0, 0)).toBe(0);
    expect(relativeLuminance(255, 0, 0)).toBeCloseTo(0.2126, 4);
    // Middle grey of 8 bits, from the published curve.
    expect(relativeLuminance(128, 128, 128)).toBeCloseTo(0.2159, 3);
  });
});

describe("general flashes", () => {
  it("are counted in a strobe of the whole picture", () => {
    for (const hz of [1, 2, 3]) {
      expect(most(strobe(hz)).general).toBe(hz);
      expect(fails(strobe(hz))).toBe(false);
    }
    for (const hz of [4, 5, 10, 15]) {
      expect(Math.abs(most(strobe(hz)).general - hz)).toBeLessThanOrEqual(0.5);
      expect(fails(strobe(hz))).toBe(true);
    }
  });

  it("begin with a change of a tenth", () => {
    expect(fails(strobe(10, grey(0.3), grey(0.21)))).toBe(false);
    expect(fails(strobe(10, grey(0.32), grey(0.21)))).toBe(true);
  });

  it("need a darker state that is not nearly white", () => {
    expect(fails(strobe(10, WHITE, grey(0.83)))).toBe(false);
    expect(fails(strobe(10, WHITE, grey(0.77)))).toBe(true);
  });

  it("are none in a slow drift, however far it goes", () => {
    expect(most(watch(6, (timeS) => picture(grey(timeS / 6))))).toEqual({ general: 0, red: 0 });
    const swell = watch(6, (timeS) => picture(grey(0.5 - 0.5 * Math.cos(timeS * Math.PI))));
    expect(most(swell).general).toBeLessThanOrEqual(1);
  });

  it("are counted where they ramp over several frames", () => {
    const wave = (hz: number) =>
      watch(3, (timeS) => picture(grey(0.5 - 0.5 * Math.cos(2 * Math.PI * hz * timeS))));
    expect(fails(wave(3))).toBe(false);
    expect(fails(wave(5))).toBe(true);
  });

  it("are one each in a cut and back", () => {
    const readings = watch(2, (timeS) => picture(timeS > 0.5 && timeS < 0.6 ? WHITE : BLACK));
    expect(most(readings).general).toBe(1);
  });

  it("count only while they are within a second", () => {
    // Three flashes, a pause of more than a second, three more.
    const readings = watch(5, (timeS) => {
      const inBurst = (timeS % 2.5) * 6 < 3;
      return picture(inBurst && ((timeS % 2.5) * 6) % 1 < 0.5 ? WHITE : BLACK);
    });
    expect(most(readings).general).toBe(3);
  });

  it("are found at 24 and at 120 frames a second alike", () => {
    for (const fps of [24, 60, 120]) {
      expect(fails(watch(2, turns(3, picture(WHITE), picture(BLACK)), fps))).toBe(false);
      expect(fails(watch(2, turns(6, picture(WHITE), picture(BLACK)), fps))).toBe(true);
    }
  });

  it("are none in noise of small changes", () => {
    let seed = 1;
    const random = () => {
      seed = (seed * 16807) % 2147483647;
      return seed / 2147483647;
    };
    const readings = watch(1, () => {
      const rgba = picture(BLACK);
      for (let i = 0; i < rgba.length; i += 4) rgba.fill(grey(0.3 + 0.09 * random())[0], i, i + 3);
      return rgba;
    });
    expect(most(readings).general).toBe(0);
  });
});

describe("the area of flashes", () => {
  const flashing = (box: number[]) =>
    watch(2, turns(10, picture(BLACK, box as never, WHITE), picture(BLACK)));

  it("counts from a quarter of a third of width and height on", () => {
    // A third by a third is the window; half of its width and half of its height are a quarter of it.
    const [w, h] = [1 / 6, 1 / 6];
    expect(fails(flashing([0.4, 0.4, 0.4 + w * 0.9, 0.4 + h * 0.9]))).toBe(false);
    expect(fails(flashing([0.4, 0.4, 0.4 + w * 1.06, 0.4 + h * 1.06]))).toBe(true);
  });

  it("is that of any window, at any edge of the picture", () => {
    for (const [x, y] of [
      [0, 0],
      [0.8, 0],
      [0, 0.8],
      [0.8, 0.8],
    ])
      expect(fails(flashing([x, y, x + 0.2, y + 0.2]))).toBe(true);
  });

  it("is not added up of parts that lie far apart", () => {
    const corners = (on: boolean) => {
      const rgba = picture(BLACK);
      for (const [x0, y0] of [
        [0, 0],
        [width - 7, 0],
        [0, height - 7],
        [width - 7, height - 7],
      ])
        for (let y = y0; y < y0 + 7; y++)
          for (let x = x0; x < x0 + 7; x++)
            rgba.fill(on ? 255 : 0, (y * width + x) * 4, (y * width + x) * 4 + 3);
      return rgba;
    };
    expect(fails(watch(2, turns(10, corners(true), corners(false))))).toBe(false);
  });

  it("is that of parts that flash at the same time, also when they are narrow stripes", () => {
    const stripes = (on: boolean) => {
      const rgba = picture(BLACK);
      for (let y = 0; y < height; y++)
        for (let x = y % 2; x < width; x += 2)
          rgba.fill(on ? 255 : 0, (y * width + x) * 4, (y * width + x) * 4 + 3);
      return rgba;
    };
    expect(fails(watch(2, turns(10, stripes(true), stripes(false))))).toBe(true);
  });
});

describe("red flashes", () => {
  const RED: Colour = [255, 0, 0];

  it("are pairs of changes from and to a saturated red", () => {
    // Luminance hardly changes: only the red counts.
    const dark = strobe(6, [120, 0, 0], [40, 40, 40]);
    expect(most(dark).general).toBe(0);
    expect(Math.abs(most(dark).red - 6)).toBeLessThanOrEqual(1);
    expect(fails(dark)).toBe(true);
    expect(fails(strobe(3, [120, 0, 0], [40, 40, 40]))).toBe(false);
  });

  it("are none between colours that are no saturated red", () => {
    // Linear shares of red of 0.6 and less.
    expect(most(strobe(6, [150, 110, 70], [90, 110, 130])).red).toBe(0);
    expect(most(strobe(6, [0, 60, 0], [0, 0, 150])).red).toBe(0);
  });

  it("need a difference of chromaticity of 0.2", () => {
    // Both are saturated reds: they differ in brightness, and hardly in colour.
    expect(most(strobe(6, [140, 0, 0], [110, 10, 10])).red).toBe(0);
    expect(most(strobe(6, [140, 0, 0], [60, 60, 60])).red).toBeGreaterThan(3);
  });

  it("are also seen against black", () => {
    expect(fails(strobe(5, RED, BLACK))).toBe(true);
    expect(most(strobe(5, [90, 0, 0], BLACK)).red).toBeGreaterThan(3);
  });
});

describe("a meter that counts more than the definition does", () => {
  const flashesOf = (meter: FlashMeter, at: (timeS: number) => Uint8ClampedArray) => {
    let found = 0;
    for (let frame = 0; frame <= 2 * FPS; frame++)
      found = Math.max(found, meter.push(frame / FPS, at(frame / FPS)).general);
    return found;
  };
  const alert = () => new FlashMeter(width, height, { change: 0.5, area: 0.5 });

  it("finds changes and areas from half of the limit on", () => {
    const weak = turns(5, picture(grey(0.37)), picture(grey(0.3)));
    expect(flashesOf(new FlashMeter(width, height), weak)).toBe(0);
    expect(flashesOf(alert(), weak)).toBe(5);
    // A sixth of a window a third as wide and high as the picture.
    const small: [number, number, number, number] = [0, 0, 1 / 6, 1 / 9];
    const spot = turns(5, picture(BLACK, small, WHITE), picture(BLACK));
    expect(flashesOf(new FlashMeter(width, height), spot)).toBe(0);
    expect(flashesOf(alert(), spot)).toBe(5);
  });

  it("never finds fewer flashes than the definition does", () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 20, maxLength: 40 }),
        (levels) => {
          const pictures = levels.map((level) => picture(grey(level)));
          const [plain, more] = [new FlashMeter(width, height), alert()];
          for (const [frame, one] of pictures.entries())
            expect(more.push(frame / FPS, one).general).toBeGreaterThanOrEqual(
              plain.push(frame / FPS, one).general,
            );
        },
      ),
      { numRuns: 15 },
    );
  });
});

describe("readings", () => {
  it("become stretches with where and how much", () => {
    const readings = watch(8, (timeS) => {
      const isOn = (timeS >= 2 && timeS < 4) || (timeS >= 6 && timeS < 7);
      return picture(isOn && (timeS * 8) % 1 < 0.5 ? WHITE : BLACK);
    });
    const stretches = flashStretches(readings);
    expect(stretches).toHaveLength(2);
    expect(stretches[0].fromS).toBeGreaterThan(1);
    expect(stretches[0].fromS).toBeLessThan(2.5);
    expect(stretches[0].toS).toBeGreaterThan(3.8);
    expect(stretches[0].flashes).toBe(8);
    expect(stretches[0].isRed).toBe(false);
    expect(flashStretches([])).toEqual([]);
  });

  it("are made of pictures of the shape of a screen, unless said otherwise", () => {
    const { width: w, height: h } = FLASH_SIZE;
    expect(w / h).toBeCloseTo(1024 / 768, 9);
    expect(new FlashMeter().push(0, new Uint8Array(w * h * 4))).toEqual({ timeS: 0, general: 0, red: 0 });
  });

  it("refuse a picture of another size", () => {
    expect(() => new FlashMeter().push(0, new Uint8Array(8))).toThrow(RangeError);
  });

  it("are never more than changes allow: a flash needs two of them", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 2, maxLength: 40 }), (levels) => {
        const meter = new FlashMeter(6, 6);
        let changes = 0;
        let last = levels[0];
        let reading = 0;
        levels.forEach((level, i) => {
          if (Math.abs(relativeLuminance(level, level, level) - relativeLuminance(last, last, last)) > 0)
            changes++;
          last = level;
          const rgba = new Uint8Array(6 * 6 * 4).fill(level);
          reading = Math.max(reading, meter.push(i / 60, rgba).general);
        });
        expect(reading).toBeLessThanOrEqual(changes / 2);
      }),
      { numRuns: 60 },
    );
  });
});
