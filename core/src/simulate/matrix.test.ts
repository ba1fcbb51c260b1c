import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { about, byColumn, moved, product, sized, turnedBy } from "../testing/slowMatrix";
import { compose, composeTurned, multiply } from "./matrix";

const RADIANS = Math.PI / 180;

function expectClose(found: ArrayLike<number>, at: number, expected: readonly number[]) {
  expected.forEach((one, i) => {
    expect(Math.abs(found[at + i] - one)).toBeLessThan(2e-5 * Math.max(1, Math.abs(one)));
  });
}

const number = fc.double({ min: -50, max: 50, noNaN: true });
const three = fc.tuple(number, number, number);
const angle = fc.double({ min: -400, max: 400, noNaN: true });
const angles = fc.tuple(angle, angle, angle);

describe("matrices", () => {
  it("are a place, turns about x, y and z, and a size, as multiplied out the slow way", () => {
    fc.assert(
      fc.property(
        three,
        angles,
        three,
        fc.double({ min: -400, max: 400, noNaN: true }),
        (place, turn, size, spin) => {
          const out = new Float32Array(20);
          compose(out, 4, [...place, ...turn, ...size], 0, 3, 6, spin);
          const [x, y, z] = turn;
          expectClose(out, 4, byColumn(product(moved(place), turnedBy([x, y + spin, z]), sized(size))));
        },
      ),
    );
  });

  it("turn by a quaternion as by its axis and angle", () => {
    fc.assert(
      fc.property(fc.double({ min: -3, max: 3, noNaN: true }), three, three, (angle, place, size) => {
        const out = new Float32Array(16);
        for (const [axis, turn] of [
          [[1, 0, 0], about.x],
          [[0, 1, 0], about.y],
          [[0, 0, 1], about.z],
        ] as const) {
          const quaternion = [...axis.map((one) => one * Math.sin(angle / 2)), Math.cos(angle / 2)];
          composeTurned(out, 0, quaternion, 0, ...place, ...size);
          expectClose(out, 0, byColumn(product(moved(place), turn(angle / RADIANS), sized(size))));
        }
      }),
    );
  });

  it("multiply as rows by columns do", () => {
    fc.assert(
      fc.property(three, angles, three, three, (place, turn, size, other) => {
        const [a, b, out] = [new Float32Array(32), new Float32Array(16), new Float32Array(48)];
        compose(a, 16, [...place, ...turn, ...size], 0, 3, 6, 0);
        compose(b, 0, [...other, ...turn, 1, 1, 1], 0, 3, 6, 30);
        multiply(out, 32, a, 16, b, 0);
        const rows = (m: Float32Array, at: number) =>
          [0, 1, 2, 3].map((row) => [0, 1, 2, 3].map((column) => m[at + column * 4 + row]));
        const expected = byColumn(product(rows(a, 16), rows(b, 0)));
        const most = Math.max(1, ...expected.map(Math.abs));
        expected.forEach((one, i) => {
          expect(Math.abs(out[32 + i] - one)).toBeLessThan(1e-5 * most);
        });
        expect([...out.subarray(0, 32)].every((one) => one === 0)).toBe(true);
      }),
    );
  });
});
