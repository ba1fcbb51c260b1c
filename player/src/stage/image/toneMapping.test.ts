import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { filmicOf, lightShownAs } from "./toneMapping";

const share = fc.double({ min: 0.002, max: 0.75, noNaN: true });

describe("light that is shown as a colour", () => {
  it("is shown as it by filmic tone mapping", () => {
    // Colours a screen can show and film can too: film has no fully saturated ones.
    fc.assert(
      fc.property(
        fc.double({ min: 0.002, max: 0.5, noNaN: true }),
        fc.double({ min: 0.65, max: 1, noNaN: true }),
        fc.integer({ min: 0, max: 2 }),
        (grey, tint, axis) => {
          const colour: [number, number, number] = [grey, grey, grey];
          colour[axis] *= tint;
          const shown = filmicOf(lightShownAs(colour, "filmic"));
          shown.forEach((one, i) => {
            expect(Math.abs(one - colour[i])).toBeLessThan(0.015);
          });
        },
      ),
    );
  });

  it("is shown as it by neutral tone mapping", () => {
    fc.assert(
      fc.property(share, share, share, (...colour) => {
        const light = lightShownAs(colour, "neutral");
        const least = Math.min(...light);
        const offset = least < 0.08 ? least - 6.25 * least * least : 0.04;
        light.forEach((one, i) => {
          expect(one - offset).toBeCloseTo(colour[i], 9);
        });
      }),
    );
  });

  it("keeps middle grey near where it was, and white below the screen's white", () => {
    expect(filmicOf([0.18, 0.18, 0.18])[0]).toBeGreaterThan(0.15);
    expect(filmicOf([0.18, 0.18, 0.18])[0]).toBeLessThan(0.28);
    expect(filmicOf([1, 1, 1])[0]).toBeLessThan(1);
  });
});
