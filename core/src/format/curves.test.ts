import { readFileSync } from "node:fs";
import { gzipSync, crc32 as zlibCrc32 } from "node:zlib";
import { describe, expect, it } from "@jest/globals";
import * as fc from "fast-check";
import { crc32 } from "./bytes/crc32";
import { CURVES_HEAD_BYTES, type Curve, CurvesError, readCurves, writeCurves } from "./curves";

const curveOf = (values: ArrayLike<number>, changes: Partial<Curve> = {}): Curve => ({
  id: "glow",
  name: "Glow",
  width: 1,
  values: Float32Array.from(values),
  loopS: 0,
  cues: [],
  ...changes,
});

/** A strand as hits leave it: struck half-second by half-second, each dying away. */
function struck(seconds: number): Float32Array {
  let value = 0;
  return Float32Array.from({ length: seconds * 100 }, (_none, frame) => {
    const hit = frame % 50 === 7 ? 0.5 + 0.4 * Math.sin(frame) ** 2 : 0;
    value += (hit - value) * (hit > value ? 0.9 : 1 - Math.exp(-10 / 180));
    return value;
  });
}

describe("CRC-32", () => {
  it("is that of the standard", () => {
    expect(crc32(new TextEncoder().encode("123456789"))).toBe(0xcbf43926);
    fc.assert(fc.property(fc.uint8Array(), (bytes) => expect(crc32(bytes)).toBe(crc32Of(bytes))));
  });
  // Node has it from 20.15 on.
  const crc32Of = zlibCrc32 as (bytes: Uint8Array) => number;
});

describe("baked curves", () => {
  it("come back within half a step, whatever their range and width", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 5 }),
        fc.array(fc.float({ noNaN: true, noDefaultInfinity: true, min: -100, max: 100 }), { maxLength: 60 }),
        (width, numbers) => {
          const values = numbers.slice(0, numbers.length - (numbers.length % width));
          const [read] = readCurves(writeCurves([curveOf(values, { width })], 1)).curves;
          const [low, high] = [Math.min(0, ...values), Math.max(1, ...values)];
          expect(read.values.length).toBe(values.length);
          values.forEach((value, i) => {
            expect(Math.abs(read.values[i] - value)).toBeLessThanOrEqual(
              ((high - low) / 131_070) * 1.01 + 1e-6,
            );
          });
        },
      ),
    );
  });

  it("keep names, loops, cues and the length of the tape", () => {
    const cues = [
      { timeS: 0.123456789, strength: 0.5 },
      { timeS: 3600.25, strength: 1 },
    ];
    const curves = [
      curveOf([0, 0.5, 1, 1], { name: "Glühen 提灯", loopS: 4.5, cues }),
      curveOf([0.25, 0.75], { id: "row", name: "", width: 2 }),
      curveOf([], { id: "none" }),
    ];
    const read = readCurves(writeCurves(curves, 48.25));
    expect(read.lengthS).toBe(48.25);
    expect(read.curves.map(({ values, ...rest }) => rest)).toEqual(curves.map(({ values, ...rest }) => rest));
  });

  it("take at most 15 kB for a minute of a strand, and 6 kB packed", () => {
    const bytes = writeCurves([curveOf(struck(60))], 60);
    expect(bytes.length).toBeLessThan(15_000);
    expect(gzipSync(bytes, { level: 9 }).length).toBeLessThan(6000);
  });

  it("are the bytes that the description shows", () => {
    const page = readFileSync("docs/curves.md", "utf8");
    const shown = [...page.matchAll(/^ +\d+ {2}((?:[0-9a-f]{2} ?)+)$/gm)].map(([, row]) => row).join(" ");
    const glow = curveOf([0, 0.25, 0.5, 1, 0.5], { id: "a", cues: [{ timeS: 0.03, strength: 1 }] });
    expect(Buffer.from(writeCurves([glow], 0.05)).toString("hex")).toBe(shown.replaceAll(" ", ""));
  });

  it("are refused when they are something else, of another version, cut off or changed", () => {
    const bytes = writeCurves([curveOf(struck(1))], 1);
    expect(() => readCurves(new Uint8Array(100))).toThrow(/no file of curves/);
    expect(() => readCurves(bytes.subarray(0, 10))).toThrow(CurvesError);
    expect(() => readCurves(bytes.subarray(0, bytes.length - 8))).toThrow(/cut off/);
    const later = bytes.slice();
    later[8] = 9;
    expect(() => readCurves(later)).toThrow(/version is 9/);
    for (let at = CURVES_HEAD_BYTES; at < bytes.length; at += 13) {
      const changed = bytes.slice();
      changed[at] ^= 4;
      expect(() => readCurves(changed, "harbour.curves")).toThrow(/harbour\.curves/);
    }
  });

  it("are not written from numbers that are not finite", () => {
    expect(() => writeCurves([curveOf([0, Number.NaN])], 1)).toThrow(/"Glow"/);
  });
});
