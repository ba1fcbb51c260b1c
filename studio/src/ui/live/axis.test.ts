import { rangeBetween } from "@bumbrel/core/dsp/spectrum/frequencyRange";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { hzToTop, SPINE_AXES, shiftRange, topToHz } from "./axis";

describe("the spine's axis", () => {
  it.each(["log", "linear"] as const)("turns heights into frequencies and back (%s)", (kind) => {
    const axis = SPINE_AXES[kind];
    fc.assert(
      fc.property(fc.double({ min: 0.01, max: 0.99, noNaN: true }), (top) => {
        expect(Math.abs(hzToTop(axis, topToHz(axis, top)) - top)).toBeLessThan(0.002);
      }),
    );
    expect(topToHz(axis, -5)).toBe(axis.highHz);
    expect(hzToTop(axis, 24_000)).toBe(0);
    expect(hzToTop(axis, 0)).toBeCloseTo(1, 6);
  });

  it("gives a usable range from any two frequencies", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 24_000, noNaN: true }),
        fc.double({ min: 0, max: 24_000, noNaN: true }),
        (a, b) => {
          const { lowHz, highHz } = rangeBetween(a, b);
          expect(lowHz).toBeGreaterThanOrEqual(0);
          expect(highHz).toBeLessThanOrEqual(24_000);
          expect(highHz - lowHz).toBeGreaterThanOrEqual(3.9);
        },
      ),
    );
    expect(rangeBetween(160, 80)).toEqual({ lowHz: 80, highHz: 160 });
  });

  it("moves a range without stretching it, and stops at the ends", () => {
    const moved = shiftRange(SPINE_AXES.log, { lowHz: 100, highHz: 200 }, 0.1);
    expect(moved.highHz / moved.lowHz).toBeCloseTo(2, 1);
    expect(moved.lowHz).toBeGreaterThan(150);
    const top = shiftRange(SPINE_AXES.log, { lowHz: 9000, highHz: 18_000 }, 0.5);
    expect(top).toEqual({ lowHz: 9000, highHz: 18_000 });
  });
});
