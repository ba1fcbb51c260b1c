import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import type { Binding } from "../document/scene";
import { newBinding, newObject } from "../kinds/create";
import type { Cue } from "../sound/cue";
import { activateBinding, cuesUpTo, kickOffset, outputFor } from "./activeBinding";
import { slotsOf } from "./slots";

const ball = newObject("ball", "sphere", "Ball");
const slots = slotsOf(ball, 0);
const slot = (key: string) => slots.find((one) => one.key === key)!;
const active = (change: Partial<Binding> = {}, property = "radius") =>
  activateBinding({ ...newBinding("b", "s", ball, property), ...change }, slot(property));
const range = (low: number, high: number) => ({ kind: "range" as const, low, high });

const cueList = fc
  .array(fc.tuple(fc.double({ min: 0, max: 20, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true })), {
    maxLength: 40,
  })
  .map((pairs): Cue[] =>
    pairs.map(([timeS, strength]) => ({ timeS, strength })).sort((a, b) => a.timeS - b.timeS),
  );

describe("an active binding", () => {
  it("goes from a strand's number by way of a curve to the output", () => {
    expect(outputFor(active({ output: range(2, 6) })!, 0.25)).toBe(3);
    expect(outputFor(active({ output: range(2, 6), input: { low: 0.5, high: 1 } })!, 0.75)).toBe(4);
    expect(outputFor(active({ output: range(0, 1), curve: { kind: "power", power: 2 } })!, 0.5)).toBe(0.25);
    const points = [
      { at: 0, value: 1 },
      { at: 1, value: 0 },
    ];
    expect(outputFor(active({ output: range(0, 10), curve: { kind: "drawn", points } })!, 0.2)).toBeCloseTo(
      8,
      9,
    );
    // Points in any order, two of them at one place, are still a line.
    const careless = [points[1], points[0], { at: 0, value: 0.3 }];
    expect(Number.isFinite(outputFor(active({ curve: { kind: "drawn", points: careless } })!, 0.4))).toBe(
      true,
    );
  });

  it("is none when the output does not fit the property", () => {
    expect(active({ output: range(0, 1) }, "colour")).toBeUndefined();
    expect(active({ mode: "kick" }, "colour")).toBeUndefined();
    const stops = [{ at: 0, colour: "#ffffff" }];
    expect(active({ output: { kind: "colours", stops, mix: "oklch" } })).toBeUndefined();
    expect(active({}, "colour")!.blend).toBeDefined();
  });

  it("counts cues up to a time as a plain search does", () => {
    fc.assert(
      fc.property(cueList, fc.double({ min: -1, max: 21, noNaN: true }), (cues, timeS) => {
        expect(cuesUpTo(cues, timeS)).toBe(cues.filter((cue) => cue.timeS <= timeS).length);
      }),
    );
  });

  it("is kicked by the sum of all cues before, each dying away", () => {
    fc.assert(
      fc.property(
        cueList,
        fc.double({ min: 0, max: 21, noNaN: true }),
        fc.integer({ min: 10, max: 2000 }),
        fc.boolean(),
        (cues, timeS, decayMs, alternate) => {
          const one = active({ mode: "kick", output: range(0, 3), decayMs, alternate })!;
          const slow = cues.reduce((sum, cue, i) => {
            const age = timeS - cue.timeS;
            if (age < 0) return sum;
            const sign = alternate && i % 2 === 1 ? -1 : 1;
            return sum + sign * 3 * cue.strength * Math.exp((-age * 1000) / decayMs);
          }, 0);
          expect(kickOffset(one, cues, timeS)).toBeCloseTo(slow, 4);
        },
      ),
    );
  });
});
