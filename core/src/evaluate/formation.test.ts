import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { DEALS, type DealKind } from "../document/scene";
import { FORMATIONS, type FormationKind } from "../kinds/shared";
import { dealBands, dealWords } from "./deal";
import { type FormationShape, layOut } from "./formation";

const SHAPE: FormationShape = {
  kind: "ring",
  copies: 12,
  reach: 3,
  spacing: 0.5,
  sweep: 360,
  climb: 0,
  columns: 0,
  path: [
    [0, 0, 0],
    [3, 0, 0],
    [6, 0, 0],
  ],
  facing: "outwards",
  seed: 7,
};

function laidOut(change: Partial<FormationShape>) {
  const shape = { ...SHAPE, ...change };
  const places = new Float32Array(shape.copies * 3);
  const turns = new Float32Array(shape.copies * 4);
  layOut(shape, places, turns);
  return Array.from({ length: shape.copies }, (_, i) => {
    const [x, y, z] = places.slice(i * 3, i * 3 + 3);
    const [qx, qy, qz, qw] = turns.slice(i * 4, i * 4 + 4);
    // A quaternion turns (0, 0, 1), the way a thing looks, to this.
    const facing = [2 * (qx * qz + qw * qy), 2 * (qy * qz - qw * qx), 1 - 2 * (qx * qx + qy * qy)];
    return { x, y, z, facing, length: Math.hypot(qx, qy, qz, qw) };
  });
}
const distance = (a: { x: number; y: number; z: number }, b: { x: number; y: number; z: number }) =>
  Math.hypot(a.x - b.x, a.y - b.y, a.z - b.z);

describe("formations", () => {
  it("stand evenly round a ring, facing outwards, and do not close an arc", () => {
    const ring = laidOut({});
    for (const [i, one] of ring.entries()) {
      expect(Math.hypot(one.x, one.z)).toBeCloseTo(3, 5);
      expect(distance(one, ring[(i + 1) % 12])).toBeCloseTo(2 * 3 * Math.sin(Math.PI / 12), 5);
      expect(one.facing[0] * one.x + one.facing[2] * one.z).toBeCloseTo(3, 4);
    }
    const arc = laidOut({ sweep: 180, climb: 2 });
    expect([arc[0].z, arc[11].z]).toEqual([expect.closeTo(3, 5), expect.closeTo(-3, 5)]);
    expect(arc[11].y).toBeCloseTo(2, 5);
    expect(laidOut({ facing: "inwards" })[0].facing[2]).toBeCloseTo(-1, 5);
    expect(laidOut({ facing: "along" })[0].facing[0]).toBeCloseTo(1, 5);
  });

  it("stand in a row and a grid at their spacing about the middle", () => {
    const row = laidOut({ kind: "row", copies: 5 });
    expect(row.map(({ x }) => x)).toEqual([-1, -0.5, 0, 0.5, 1]);
    const grid = laidOut({ kind: "grid", copies: 6, columns: 3, spacing: 2 });
    expect(grid.map(({ x, z }) => [x, z])).toEqual([
      [-2, -1],
      [0, -1],
      [2, -1],
      [-2, 1],
      [0, 1],
      [2, 1],
    ]);
  });

  it("wind outwards in a spiral, and fill a dome evenly", () => {
    const spiral = laidOut({ kind: "spiral", sweep: 720, climb: 1 });
    spiral.forEach(({ x, y, z }, i) => {
      expect(Math.hypot(x, z)).toBeCloseTo((3 * i) / 11, 4);
      expect(y).toBeCloseTo(i / 11, 5);
    });
    const dome = laidOut({ kind: "dome", copies: 400 });
    for (const one of dome) {
      expect(Math.hypot(one.x, one.y, one.z)).toBeCloseTo(3, 4);
      expect(one.y).toBeGreaterThanOrEqual(0);
      expect((one.facing[0] * one.x + one.facing[1] * one.y + one.facing[2] * one.z) / 3).toBeCloseTo(1, 4);
    }
    // The share of a half ball above half its height is a half of its area (Archimedes).
    expect(dome.filter(({ y }) => y > 1.5)).toHaveLength(200);
  });

  it("are strung along a path at even distances", () => {
    const path = laidOut({ kind: "path", copies: 7 });
    path.forEach(({ x }, i) => {
      expect(x).toBeCloseTo(i, 2);
    });
    expect(path[3].facing[0]).toBeCloseTo(0, 1);
    const bent = laidOut({
      kind: "path",
      copies: 30,
      path: [
        [0, 0, 0],
        [2, 1, 3],
        [5, 0, -1],
      ],
    });
    const gaps = bent.slice(1).map((one, i) => distance(one, bent[i]));
    expect(Math.max(...gaps) / Math.min(...gaps)).toBeLessThan(1.05);
  });

  it("are scattered within their reach, each seed in its own way", () => {
    const at = (seed: number) => laidOut({ kind: "scatter", copies: 200, seed });
    expect(at(1)).toEqual(at(1));
    expect(at(1)[0]).not.toEqual(at(2)[0]);
    for (const { x, z } of at(3)) expect(Math.hypot(x, z)).toBeLessThanOrEqual(3);
  });

  it("give finite places and turns of length one, whatever they are laid out by", () => {
    type LaidOut = Exclude<FormationKind, "none" | "cues">;
    const kinds = Object.keys(FORMATIONS).filter((kind) => kind !== "none" && kind !== "cues") as LaidOut[];
    const number = fc.double({ min: -500, max: 500, noNaN: true });
    const point = fc.tuple(number, number, number);
    fc.assert(
      fc.property(
        fc.record({
          kind: fc.constantFrom(...kinds),
          copies: fc.integer({ min: 1, max: 40 }),
          reach: number,
          spacing: number,
          sweep: number,
          climb: number,
          columns: fc.integer({ min: 0, max: 9 }),
          path: fc.array(point, { minLength: 2, maxLength: 5 }),
          facing: fc.constantFrom("outwards", "inwards", "along", "same"),
          seed: fc.nat(),
        }) as fc.Arbitrary<FormationShape>,
        (shape) => {
          for (const { x, y, z, length } of laidOut(shape)) {
            expect([x, y, z].every(Number.isFinite)).toBe(true);
            expect(length).toBeCloseTo(1, 4);
          }
        },
      ),
    );
  });
});

describe("dealing a fan", () => {
  const dealt = (kind: DealKind, copies: number, bands: number, seed = 1, places?: number[]) => {
    const out = new Float32Array(copies);
    dealBands({ kind, seed }, copies, bands, places ?? new Float32Array(copies * 3), out);
    return [...out];
  };

  it("goes in order, reversed and mirrored", () => {
    expect(dealt("order", 5, 5)).toEqual([0, 1, 2, 3, 4]);
    expect(dealt("reversed", 5, 5)).toEqual([4, 3, 2, 1, 0]);
    expect(dealt("mirrored", 5, 3)).toEqual([0, 1, 2, 1, 0]);
    expect(dealt("order", 3, 5)).toEqual([0, 2, 4]);
    expect(dealt("order", 5, 3)).toEqual([0, 0.5, 1, 1.5, 2]);
  });

  it("shuffles by the seed without losing a band", () => {
    const once = dealt("shuffled", 16, 16, 3);
    expect(once).toEqual(dealt("shuffled", 16, 16, 3));
    expect(once).not.toEqual(dealt("shuffled", 16, 16, 4));
    expect([...once].sort((a, b) => a - b)).toEqual(dealt("order", 16, 16));
  });

  it("agrees with itself at the same place, and differs from place to place", () => {
    const places = [0, 0, 0, 9, 0, 4, 0, 0, 0];
    const [here, there, hereAgain] = dealt("place", 3, 32, 1, places);
    expect(here).toBe(hereAgain);
    expect(here).not.toBe(there);
  });

  it("stays within the bands, and always has words for what it did", () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...(Object.keys(DEALS) as DealKind[])),
        fc.integer({ min: 1, max: 200 }),
        fc.integer({ min: 1, max: 200 }),
        fc.nat(),
        (kind, copies, bands, seed) => {
          for (const band of dealt(kind, copies, bands, seed)) {
            expect(band).toBeGreaterThanOrEqual(0);
            expect(band).toBeLessThanOrEqual(bands - 1);
          }
          expect(dealWords({ kind, seed }, copies, bands)).toMatch(/\.$/);
        },
      ),
    );
    expect(dealWords({ kind: "order", seed: 1 }, 64, 12)).toContain("share 12 bands");
    expect(dealWords({ kind: "order", seed: 1 }, 8, 12)).toContain("not heard");
    expect(dealWords({ kind: "mirrored", seed: 1 }, 24, 12)).toContain("one for each pair");
  });
});
