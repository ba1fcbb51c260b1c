import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import type { Cue } from "../strand/cue";
import { hexToLinear, hueTurned, linearToHex, linearToOklch, rampTable } from "./colour";
import { newBinding, newObject } from "./create";
import type { Binding } from "./document";
import { cuesUpTo, driven, kicked, makeDrive } from "./drive";
import { slotsOf } from "./slots";

const ball = newObject("ball", "sphere", "Ball");
const slots = slotsOf(ball, 0);
const slot = (key: string) => slots.find((one) => one.key === key)!;
const drive = (change: Partial<Binding> = {}, property = "radius") =>
  makeDrive({ ...newBinding("b", "s", ball, property), ...change }, slot(property));
const range = (low: number, high: number) => ({ kind: "range" as const, low, high });

const cueList = fc
  .array(fc.tuple(fc.double({ min: 0, max: 20, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true })), {
    maxLength: 40,
  })
  .map((pairs): Cue[] =>
    pairs.map(([timeS, strength]) => ({ timeS, strength })).sort((a, b) => a.timeS - b.timeS),
  );

describe("a drive", () => {
  it("goes from a strand's number by way of a curve to the output", () => {
    expect(driven(drive({ output: range(2, 6) })!, 0.25)).toBe(3);
    expect(driven(drive({ output: range(2, 6), input: { low: 0.5, high: 1 } })!, 0.75)).toBe(4);
    expect(driven(drive({ output: range(0, 1), curve: { kind: "power", power: 2 } })!, 0.5)).toBe(0.25);
    const points = [
      { at: 0, value: 1 },
      { at: 1, value: 0 },
    ];
    expect(driven(drive({ output: range(0, 10), curve: { kind: "drawn", points } })!, 0.2)).toBeCloseTo(8, 9);
    // Points in any order, two of them at one place, are still a line.
    const careless = [points[1], points[0], { at: 0, value: 0.3 }];
    expect(Number.isFinite(driven(drive({ curve: { kind: "drawn", points: careless } })!, 0.4))).toBe(true);
  });

  it("is none when the output does not fit the property", () => {
    expect(drive({ output: range(0, 1) }, "colour")).toBeUndefined();
    expect(drive({ mode: "kick" }, "colour")).toBeUndefined();
    const stops = [{ at: 0, colour: "#ffffff" }];
    expect(drive({ output: { kind: "colours", stops, mix: "oklch" } })).toBeUndefined();
    expect(drive({}, "colour")!.blend).toBeDefined();
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
          const one = drive({ mode: "kick", output: range(0, 3), decayMs, alternate })!;
          const slow = cues.reduce((sum, cue, i) => {
            const age = timeS - cue.timeS;
            if (age < 0) return sum;
            const sign = alternate && i % 2 === 1 ? -1 : 1;
            return sum + sign * 3 * cue.strength * Math.exp((-age * 1000) / decayMs);
          }, 0);
          expect(kicked(one, cues, timeS)).toBeCloseTo(slow, 4);
        },
      ),
    );
  });
});

describe("gradients", () => {
  const stops = [
    { at: 1, colour: "#0000ff" },
    { at: 0, colour: "#ff0000" },
    { at: 0.5, colour: "#00ff00" },
  ];

  it("meet their stops in whatever order they stand, and have an edge where two are at one place", () => {
    const table = rampTable(stops, 101, "linear");
    expect([...table.slice(0, 3)]).toEqual([1, 0, 0]);
    expect([...table.slice(150, 153)]).toEqual([0, 1, 0]);
    expect([...table.slice(300)]).toEqual([0, 0, 1]);
    expect([...table.slice(75, 78)].map((one) => Math.round(one * 100) / 100)).toEqual([0.5, 0.5, 0]);
    const edge = rampTable(
      [
        { at: 0, colour: "#000000" },
        { at: 0.5, colour: "#000000" },
        { at: 0.5, colour: "#ffffff" },
        { at: 1, colour: "#ffffff" },
      ],
      101,
      "linear",
    );
    expect([edge[49 * 3], edge[51 * 3]]).toEqual([0, 1]);
    expect(new Set(rampTable([{ at: 0.4, colour: "#336699" }], 5).filter((_, i) => i % 3 === 2)).size).toBe(
      1,
    );
  });

  it("turn a hue by as much as they are told, and all the way round back to itself", () => {
    const colour = Float64Array.from(hexToLinear("#b0785a"));
    const [lightness, chroma, hue] = linearToOklch(colour);
    hueTurned(colour, 0, 0.7);
    const [l, c, h] = linearToOklch(colour);
    expect([l, c, h]).toEqual([
      expect.closeTo(lightness, 4),
      expect.closeTo(chroma, 4),
      expect.closeTo(hue + 0.7, 4),
    ]);
    hueTurned(colour, 0, 2 * Math.PI - 0.7);
    expect(linearToHex(colour)).toBe("#b0785a");
  });
});
