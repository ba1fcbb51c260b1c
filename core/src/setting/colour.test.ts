import { describe, expect, it } from "@jest/globals";
import { colourBlend, hexToLinear, hueTurned, linearToHex, linearToOklch, rampTable } from "./colour";

describe("colour", () => {
  it("reads and writes hex through linear light", () => {
    for (const hex of ["#000000", "#ffffff", "#e8b04a", "#071318", "#bc5090"]) {
      expect(linearToHex(hexToLinear(hex))).toBe(hex);
    }
    expect(hexToLinear("#bcbcbc")[0]).toBeCloseTo(0.5029, 3);
    expect(() => hexToLinear("teal")).toThrow(/not a colour/);
  });

  it("agrees with published OKLCH values", () => {
    // CSS Color 4, sample values of oklch() for sRGB red, lime and blue.
    const published: [string, number, number, number][] = [
      ["#ff0000", 0.62796, 0.25768, 29.234],
      ["#00ff00", 0.86644, 0.29483, 142.495],
      ["#0000ff", 0.45201, 0.31321, 264.052],
    ];
    for (const [hex, lightness, chroma, hueDegrees] of published) {
      const [l, c, h] = linearToOklch(hexToLinear(hex));
      expect(l).toBeCloseTo(lightness, 4);
      expect(c).toBeCloseTo(chroma, 4);
      expect(((h * 180) / Math.PI + 360) % 360).toBeCloseTo(hueDegrees, 1);
    }
  });

  it("meets both ends, and takes the shorter way round the hues", () => {
    const out = new Float64Array(3);
    for (const mix of ["oklch", "linear"] as const) {
      const blend = colourBlend("#e8b04a", "#2b6f8a", mix);
      blend(0, out, 0);
      expect(linearToHex(out)).toBe("#e8b04a");
      blend(1, out, 0);
      expect(linearToHex(out)).toBe("#2b6f8a");
    }
    colourBlend("#ff0000", "#ff00ff", "oklch")(0.5, out, 0);
    expect(linearToOklch(out)[2]).toBeCloseTo(((29.234 + 328.363 - 360) / 2) * (Math.PI / 180), 1);
    colourBlend("#000000", "#00ff00", "oklch")(0.5, out, 0);
    expect(linearToHex(out)).toMatch(/^#00/);
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
