import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { hashed, smoothNoise } from "./hash";

describe("hashed", () => {
  it("gives the same number for the same whole numbers, and others for others", () => {
    expect(hashed(3, 4, 5)).toBe(hashed(3, 4, 5));
    const thrown = new Set<number>();
    for (let seed = 0; seed < 10; seed++) {
      for (let a = 0; a < 100; a++) for (let b = 0; b < 10; b++) thrown.add(hashed(seed, a, b));
    }
    expect(thrown.size).toBeGreaterThan(9990);
  });

  it("is spread evenly, and one throw does not tell of the next", () => {
    const count = 20_000;
    const bins = new Array<number>(20).fill(0);
    let together = 0;
    for (let i = 0; i < count; i++) {
      const [now, next] = [hashed(7, i), hashed(7, i + 1)];
      bins[Math.floor(now * 20)]++;
      together += (now - 0.5) * (next - 0.5);
    }
    // Chi-squared with 19 degrees of freedom lies below 43.8 in 999 of 1000 cases.
    const expected = count / 20;
    expect(bins.reduce((sum, bin) => sum + (bin - expected) ** 2 / expected, 0)).toBeLessThan(43.8);
    // Correlation of what is independent: below four standard deviations.
    expect(Math.abs(together / count / (1 / 12))).toBeLessThan(4 / Math.sqrt(count));
  });

  it("stays within 0 and 1 for any whole numbers", () => {
    fc.assert(
      fc.property(fc.integer(), fc.integer(), fc.integer(), (seed, a, b) => {
        const x = hashed(seed, a, b);
        expect(x).toBeGreaterThanOrEqual(0);
        expect(x).toBeLessThan(1);
      }),
    );
  });
});

describe("smoothNoise", () => {
  it("meets the thrown numbers at whole places and never jumps in between", () => {
    let before = smoothNoise(5, 0, 0.3, 0.7);
    let steepest = 0;
    for (let x = 0.001; x < 20; x += 0.001) {
      const now = smoothNoise(5, x, 0.3, 0.7);
      steepest = Math.max(steepest, Math.abs(now - before));
      before = now;
    }
    // The easing between neighbours is nowhere steeper than 1.5 a unit.
    expect(steepest).toBeLessThanOrEqual(0.00151);
    const middle = smoothNoise(5, 3.5);
    expect(middle).toBeCloseTo((smoothNoise(5, 3) + smoothNoise(5, 4)) / 2, 12);
  });

  it("stays within 0 and 1 anywhere", () => {
    const place = fc.double({ min: -1e4, max: 1e4, noNaN: true });
    fc.assert(
      fc.property(fc.nat(), place, place, place, (seed, x, y, z) => {
        const noise = smoothNoise(seed, x, y, z);
        expect(noise).toBeGreaterThanOrEqual(0);
        expect(noise).toBeLessThanOrEqual(1);
      }),
    );
  });
});
