import { describe, expect, it } from "@jest/globals";
import * as fc from "fast-check";
import { defaultsOf } from "../../setting/descriptor";
import { FILM_FORMATS, FILM_SETTINGS, FILM_SIZES, FilmPlan, rateOf, stretchOf } from "./film";

const SETTINGS = defaultsOf(FILM_SETTINGS);
const OFFERED = FILM_SETTINGS.framesPerSecond.values.filter((rate) => rate !== 0);
const RATES = [
  ...OFFERED.map((framesPerSecond) => rateOf({ ...SETTINGS, framesPerSecond })),
  ...[12.5, 71.3, 144].map((ownRate) => rateOf({ ...SETTINGS, framesPerSecond: 0, ownRate })),
];
const SCENE = {
  stretch: { fromS: 4, toS: 8 },
  marks: [
    { id: "verse", name: "Verse", timeS: 2, beginsSection: true },
    { id: "hit", name: "Hit", timeS: 5, beginsSection: false },
    { id: "chorus", name: "Chorus", timeS: 9, beginsSection: true },
  ],
};

describe("the stretch of a film", () => {
  const of = (change: object, scene: Parameters<typeof stretchOf>[1] = SCENE) =>
    stretchOf({ ...defaultsOf(FILM_SETTINGS), ...change }, scene, 12);

  it("is the tape, the looped stretch, a section, or lies between marks", () => {
    expect(of({})).toEqual({ fromS: 0, toS: 12 });
    expect(of({ stretch: "loop" })).toEqual({ fromS: 4, toS: 8 });
    expect(of({ stretch: "section", fromMarkId: "verse" })).toEqual({ fromS: 2, toS: 9 });
    expect(of({ stretch: "section", fromMarkId: "chorus" })).toEqual({ fromS: 9, toS: 12 });
    expect(of({ stretch: "marks", fromMarkId: "verse", toMarkId: "hit" })).toEqual({ fromS: 2, toS: 5 });
    expect(of({ stretch: "marks", fromMarkId: "hit" })).toEqual({ fromS: 5, toS: 12 });
  });

  it("says why there is none", () => {
    expect(of({ stretch: "loop" }, { ...SCENE, stretch: null })).toContain(
      "No stretch of the tape is looped",
    );
    expect(of({ stretch: "section" })).toContain("Choose the mark");
    expect(of({ stretch: "marks", fromMarkId: "gone" })).toContain("Choose the mark");
    expect(of({ stretch: "marks", fromMarkId: "hit", toMarkId: "verse" })).toContain("no length");
  });
});

describe("the plan of a film", () => {
  it("has as many frames as its length has, and sound that ends with the last one on the sample", () => {
    for (const framesPerSecond of RATES) {
      const plan = new FilmPlan({ fromS: 0, toS: 48 }, framesPerSecond, 1);
      expect(plan.frames).toBe(Math.round(48 * framesPerSecond));
      expect(Math.abs(plan.samples - (plan.frames * 48_000) / framesPerSecond)).toBeLessThanOrEqual(0.5);
    }
    fc.assert(
      fc.property(
        fc.double({ min: 0.01, max: 900, noNaN: true }),
        fc.constantFrom(...RATES),
        (lengthS, framesPerSecond) => {
          const plan = new FilmPlan({ fromS: 3, toS: 3 + lengthS }, framesPerSecond, 1);
          expect(plan.frames).toBe(Math.max(1, Math.round((3 + lengthS - 3) * framesPerSecond)));
          expect(Number.isInteger(plan.samples)).toBe(true);
          expect(Math.abs(plan.samples - (plan.frames * 48_000) / framesPerSecond)).toBeLessThanOrEqual(0.5);
        },
      ),
    );
  });

  it("reads broadcast rates as exact fractions, and every other one as it is", () => {
    const of = (ownRate: number) => rateOf({ framesPerSecond: 0, ownRate });
    expect(rateOf({ ...SETTINGS, framesPerSecond: 23.976 })).toBe(24_000 / 1001);
    expect(rateOf({ ...SETTINGS, framesPerSecond: 59.94 })).toBe(60_000 / 1001);
    expect(of(29.97)).toBe(30_000 / 1001);
    expect(of(119.88)).toBe(120_000 / 1001);
    for (const rate of [1, 12.5, 24, 29.5, 60, 71.3, 240]) expect(of(rate)).toBe(rate);
    // An hour at 29.97 has 107 892 frames, and the tape's end is less than a frame away.
    expect(new FilmPlan({ fromS: 0, toS: 3600 }, of(29.97), 1).frames).toBe(107_892);
  });

  it("shows frame n at n / f seconds, and with blur the time while the shutter is open", () => {
    const plain = new FilmPlan({ fromS: 2, toS: 4 }, 50, 1);
    expect(plain.timesOf(0)).toEqual([2]);
    expect(plain.timesOf(25)).toEqual([2.5]);
    const blurred = new FilmPlan({ fromS: 0, toS: 4 }, 25, 4).timesOf(25);
    [1, 1.005, 1.01, 1.015].forEach((timeS, i) => {
      expect(blurred[i]).toBeCloseTo(timeS, 9);
    });
  });

  it("is cut into segments and parts that hold every frame once, in order", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 120, noNaN: true }),
        fc.constantFrom(...RATES),
        fc.integer({ min: 1, max: 20 }),
        (lengthS, framesPerSecond, parts) => {
          const plan = new FilmPlan({ fromS: 0, toS: lengthS }, framesPerSecond, 1);
          let next = 0;
          for (let part = 1; part <= parts; part++) {
            const { from, to } = plan.part(part, parts);
            for (let segment = from; segment < to; segment++) {
              const range = plan.segment(segment);
              expect(range.from).toBe(next);
              next = range.to;
            }
          }
          expect(next).toBe(plan.frames);
        },
      ),
    );
    const plan = new FilmPlan({ fromS: 0, toS: 1 }, 60, 1);
    for (const [part, parts] of [
      [0, 4],
      [5, 4],
      [1.5, 4],
    ])
      expect(() => plan.part(part, parts)).toThrow(RangeError);
  });

  it("offers sizes that every encoder takes", () => {
    for (const { width, height } of Object.values(FILM_SIZES))
      expect([width % 8, height % 8]).toEqual([0, 0]);
    expect(Object.keys(FILM_FORMATS)).toContain(defaultsOf(FILM_SETTINGS).format);
  });
});
