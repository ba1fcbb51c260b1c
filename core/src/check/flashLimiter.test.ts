import { describe, expect, it } from "@jest/globals";
import * as fc from "fast-check";
import { seededRandom } from "../dsp/maths/random";
import { FlashMeter, type FlashReading, isTooMuch } from "./flash";
import { FlashLimiter } from "./flashLimiter";

const [WIDTH, HEIGHT] = [12, 9];
type Colour = readonly [r: number, g: number, b: number];
const WHITE: Colour = [255, 255, 255];
const BLACK: Colour = [0, 0, 0];

const picture = ([r, g, b]: Colour) => {
  const rgba = new Uint8ClampedArray(WIDTH * HEIGHT * 4).fill(255);
  for (let at = 0; at < rgba.length; at += 4) rgba.set([r, g, b], at);
  return rgba;
};

/** The most opposing changes of a tenth of the light and more that one grey makes within any second. */
function mostChanges(shown: readonly { timeS: number; light: number }[]): number {
  const changes: number[] = [];
  let [way, low, high] = [0, shown[0].light, shown[0].light];
  for (const { timeS, light } of shown) {
    [low, high] = [Math.min(low, light), Math.max(high, light)];
    const rises = way <= 0 && light - low >= 0.1 && low < 0.8;
    const falls = way >= 0 && high - light >= 0.1 && light < 0.8;
    if (!rises && !falls) continue;
    way = rises ? 1 : -1;
    [low, high] = [light, light];
    changes.push(timeS);
  }
  return Math.max(0, ...changes.map((at) => changes.filter((one) => one >= at && one <= at + 1).length));
}
const lightOf = (srgb: number) =>
  srgb <= 0.04045 * 255 ? srgb / 255 / 12.92 : ((srgb / 255 + 0.055) / 1.055) ** 2.4;

/** Shows pictures through the limiter, and measures what comes out. */
function watch(seconds: number, at: (timeS: number) => Uint8ClampedArray, fps = 60) {
  const [limiter, meter, plain] = [
    new FlashLimiter(WIDTH, HEIGHT),
    new FlashMeter(WIDTH, HEIGHT),
    new FlashMeter(WIDTH, HEIGHT),
  ];
  const before: FlashReading[] = [];
  const after: FlashReading[] = [];
  let changed = 0;
  for (let frame = 0; frame < seconds * fps; frame++) {
    const rgba = at(frame / fps);
    before.push(plain.push(frame / fps, rgba));
    const own = Uint8ClampedArray.from(rgba);
    limiter.push(frame / fps, own);
    if (own.some((value, i) => value !== rgba[i])) changed++;
    after.push(meter.push(frame / fps, own));
  }
  return { before: before.some(isTooMuch), after: after.some(isTooMuch), changed };
}
const strobe = (hz: number, on: Colour, off: Colour) => (timeS: number) =>
  picture((timeS * hz) % 1 < 0.5 - 1e-9 ? on : off);

describe("the limiter of flashes", () => {
  it("lets every strobe pass that did not before", () => {
    for (const hz of [4, 5, 7.5, 10, 15, 30]) {
      for (const [on, off] of [
        [WHITE, BLACK],
        [
          [200, 200, 200],
          [60, 60, 60],
        ],
        [
          [0, 255, 255],
          [255, 0, 255],
        ],
      ] as const) {
        const { before, after } = watch(4, strobe(hz, on, off));
        if (hz <= 10) expect(before).toBe(true);
        expect(after).toBe(false);
      }
    }
  });

  it("changes nothing in pictures that flash no more than allowed", () => {
    expect(watch(4, strobe(1, WHITE, BLACK)).changed).toBe(0);
    expect(watch(4, strobe(2.9, WHITE, BLACK)).changed).toBe(0);
    expect(watch(4, strobe(10, [150, 150, 150], [140, 140, 140])).changed).toBe(0);
    // A swell, a cut, and hits of a song at 150 beats a minute that die away.
    expect(watch(4, (timeS) => picture([60 * timeS, 50 * timeS, 40 * timeS])).changed).toBe(0);
    const hit = (timeS: number) => Math.exp(-((timeS % 0.4) / 0.1));
    expect(watch(6, (timeS) => picture([220 * hit(timeS), 220 * hit(timeS), 220 * hit(timeS)])).changed).toBe(
      0,
    );
  });

  it("removes red flashes by a little less saturation, and leaves steady areas nearly as they were", () => {
    for (const hz of [4, 6, 10]) {
      const { before, after } = watch(3, strobe(hz, [120, 0, 0], [40, 40, 40]));
      expect(before).toBe(true);
      expect(after).toBe(false);
    }
    const rgba = picture([200, 20, 10]);
    new FlashLimiter(WIDTH, HEIGHT).push(0, rgba);
    expect(rgba[0]).toBe(200);
    expect(rgba[1]).toBeLessThan(110);
    const warm = picture([220, 160, 90]);
    new FlashLimiter(WIDTH, HEIGHT).push(0, warm);
    expect([...warm.subarray(0, 3)]).toEqual([220, 160, 90]);
  });

  it("lets nothing through, whatever is shown at whatever rate", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.constantFrom(24, 30, 60, 120), (seed, fps) => {
        const random = seededRandom(seed);
        // Colours that jump, at a pace of their own for a while each.
        let colour: Colour = BLACK;
        let untilS = 0;
        const { after } = watch(
          3,
          (timeS) => {
            if (timeS >= untilS) {
              colour = [random() * 255, random() * 255, random() * 255].map(Math.round) as unknown as Colour;
              untilS = timeS + 0.02 + 0.2 * random() ** 2;
            }
            return picture(colour);
          },
          fps,
        );
        expect(after).toBe(false);
      }),
      { numRuns: 40, examples: [[18, 24]] },
    );
  });

  it("leaves six opposing changes in any second at most", () => {
    for (const hz of [3, 3.5, 4, 5, 7.5, 10, 15]) {
      const limiter = new FlashLimiter(WIDTH, HEIGHT);
      const [before, after]: { timeS: number; light: number }[][] = [[], []];
      for (let frame = 0; frame < 300; frame++) {
        const timeS = frame / 60;
        const rgba = strobe(hz, WHITE, BLACK)(timeS);
        before.push({ timeS, light: lightOf(rgba[0]) });
        limiter.push(timeS, rgba);
        after.push({ timeS, light: lightOf(rgba[0]) });
      }
      expect(mostChanges(before)).toBeGreaterThan(6);
      expect(mostChanges(after)).toBe(6);
    }
  });

  it("tells how much it holds back, and refuses pictures of another size", () => {
    const limiter = new FlashLimiter(WIDTH, HEIGHT);
    let most = 0;
    for (let frame = 0; frame < 60; frame++)
      most = Math.max(most, limiter.push(frame / 60, picture(frame % 2 ? WHITE : BLACK)));
    expect(most).toBe(1);
    expect(() => limiter.push(2, new Uint8Array(4))).toThrow(RangeError);
  });
});
