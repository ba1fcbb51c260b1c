import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { figure } from "./figure";

const plain = (value: number, digits: number) => String(Number(value.toPrecision(digits)));

describe("figure", () => {
  it.each([6, 9])("writes numbers as the language does, rounded to %d digits", (digits) => {
    fc.assert(
      fc.property(fc.float({ noNaN: true, noDefaultInfinity: true }), (value) => {
        expect(figure(value, digits)).toBe(plain(value, digits));
      }),
      { numRuns: 3000 },
    );
    fc.assert(
      fc.property(fc.double({ min: -1e4, max: 1e4, noNaN: true }), (value) => {
        expect(figure(value, digits)).toBe(plain(value, digits));
      }),
      { numRuns: 3000 },
    );
  });

  it("rounds halves up and carries over, as the language does", () => {
    for (const value of [
      2 ** -13,
      3 * 2 ** -14,
      0.1 + 0.2,
      0.9999999996,
      99.99999999,
      999999999.5,
      1e-6,
      9.9999999999e-7,
    ])
      for (const sign of [1, -1]) expect(figure(sign * value)).toBe(plain(sign * value, 9));
    for (let power = -12; power <= 12; power++)
      for (const value of [10 ** power, 1.5 * 10 ** power, 10 ** power * (1 - 1e-12)])
        expect(figure(value)).toBe(plain(value, 9));
    expect([0, -0, 1, -2, 120].map((value) => figure(value))).toEqual(["0", "0", "1", "-2", "120"]);
  });
});
