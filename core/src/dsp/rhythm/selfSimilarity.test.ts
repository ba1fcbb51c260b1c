import { describe, expect, it } from "@jest/globals";
import { seededRandom } from "../maths/random";
import { noveltyOf, similarity } from "./selfSimilarity";

/** Rows of two numbers. */
const rowsOf = (...rows: [number, number][]) => ({ width: 2, values: Float32Array.from(rows.flat()) });

describe("self-similarity", () => {
  it("is 1 for equal rows and falls with the distance: exp(−d²/2)", () => {
    const rows = rowsOf([0, 0], [0, 0], [3, 4]);
    expect(similarity(rows, 0, 1)).toBe(1);
    expect(similarity(rows, 0, 2)).toBeCloseTo(Math.exp(-12.5), 9);
  });

  it("is novel where one part ends and another begins, and nowhere else", () => {
    const rows = rowsOf(
      ...Array.from({ length: 60 }, (_none, i): [number, number] => [i < 24 ? 0 : 9, i < 40 ? 0 : 9]),
    );
    const novelty = noveltyOf(rows, 8);
    expect(novelty[24]).toBeCloseTo(1, 3);
    expect(novelty[40]).toBeCloseTo(1, 3);
    for (const block of [10, 33, 50]) expect(novelty[block]).toBeLessThan(0.01);
    expect(novelty[23]).toBeLessThan(novelty[24]);
  });

  it("is not novel where the same changes go on", () => {
    const rows = rowsOf(
      ...Array.from({ length: 64 }, (_none, i): [number, number] => [i % 4 < 2 ? 0 : 9, 0]),
    );
    for (const one of noveltyOf(rows, 16)) expect(one).toBeLessThan(0.05);
  });

  it("equals the checkerboard kernel laid over the whole matrix", () => {
    const random = seededRandom(4);
    const count = 40;
    const reach = 6;
    const rows = rowsOf(
      ...Array.from({ length: count }, (): [number, number] => [2 * random(), 2 * random()]),
    );
    const novelty = noveltyOf(rows, reach);
    const taper = (away: number) => Math.exp(-2 * ((away + 0.5) / reach) ** 2);
    for (let block = reach; block <= count - reach; block++) {
      const sums = { before: [0, 0], after: [0, 0], across: [0, 0] };
      for (let a = block - reach; a < block + reach; a++)
        for (let b = block - reach; b < block + reach; b++) {
          const away = (at: number) => (at < block ? block - 1 - at : at - block);
          const part = a < block && b < block ? "before" : a >= block && b >= block ? "after" : "across";
          const weight = taper(away(a)) * taper(away(b));
          sums[part][0] += weight * similarity(rows, a, b);
          sums[part][1] += weight;
        }
      const mean = ([sum, weight]: number[]) => sum / weight;
      const expected = Math.max(0, (mean(sums.before) + mean(sums.after)) / 2 - mean(sums.across));
      if (block < count) expect(novelty[block]).toBeCloseTo(expected, 5);
    }
  });
});
