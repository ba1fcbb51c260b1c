import { describe, expect, it } from "@jest/globals";
import { type BufferGeometry, Vector3 } from "three";
import { type OutlineName, outlined, outlinePoints, terrain, turnedProfile } from "./outlined";
import { capsule, roundedBox, roundedCylinder } from "./rounded";
import { tube } from "./tube";

/** Volume inside a closed body, by the divergence theorem: negative where its sides face inwards. */
function volume(geometry: BufferGeometry, place: (i: number) => Vector3): number {
  const { index } = geometry;
  const count = index ? index.count : geometry.attributes.position.count;
  let sum = 0;
  for (let i = 0; i < count; i += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => place(index ? index.getX(i + k) : i + k));
    sum += a.dot(b.clone().cross(c)) / 6;
  }
  return sum;
}
const at =
  (geometry: BufferGeometry, name = "position") =>
  (i: number) =>
    new Vector3().fromBufferAttribute(geometry.attributes[name] as never, i);

/** Position that the shader gives a vertex of a rounded shape of some size. */
const rounded = (geometry: BufferGeometry, size: [number, number, number], radius: number) => {
  const most = Math.min(radius, Math.min(...size) / 2);
  return (i: number) => {
    const corner = at(geometry, "corner")(i);
    const normal = at(geometry, "normal")(i);
    return new Vector3(
      ...([0, 1, 2].map(
        (axis) => corner.getComponent(axis) * (size[axis] / 2 - most) + normal.getComponent(axis) * most,
      ) as [number, number, number]),
    );
  };
};

describe("rounded shapes", () => {
  it("enclose the volume of a rounded box, whatever its size", () => {
    const [w, h, d] = [2, 1, 0.6];
    const r = 0.2;
    const box = roundedBox(12);
    // Core, six slabs, twelve quarter cylinders and eight eighths of a ball.
    const [a, b, c] = [w - 2 * r, h - 2 * r, d - 2 * r];
    const exact =
      a * b * c +
      2 * r * (a * b + b * c + c * a) +
      Math.PI * r * r * (a + b + c) +
      (4 / 3) * Math.PI * r ** 3;
    expect(volume(box, rounded(box, [w, h, d], r))).toBeCloseTo(exact, 2);
    expect(volume(box, rounded(box, [w, h, d], 0))).toBeCloseTo(w * h * d, 6);
  });

  it("enclose the volume of a capsule", () => {
    const rod = capsule(96, 24);
    const [r, h] = [0.25, 1.4];
    const exact = Math.PI * r * r * (h - 2 * r) + (4 / 3) * Math.PI * r ** 3;
    expect(volume(rod, rounded(rod, [2 * r, h, 2 * r], 1e4))).toBeCloseTo(exact, 2);
  });

  it("are a plain drum without a radius", () => {
    const drum = roundedCylinder(128, 3);
    expect(volume(drum, rounded(drum, [1, 2, 1], 0))).toBeCloseTo(Math.PI * 0.25 * 2, 2);
  });

  it("face outwards with normals of length one", () => {
    for (const geometry of [roundedBox(3), roundedCylinder(24, 2), capsule(24, 6)]) {
      const normal = at(geometry, "normal");
      for (let i = 0; i < geometry.attributes.normal.count; i++) expect(normal(i).length()).toBeCloseTo(1, 5);
    }
  });
});

describe("outlines with depth", () => {
  const NAMES: OutlineName[] = ["polygon", "star", "leaf", "heart", "gear", "cross", "drop", "drawn"];
  const DRAWN = [
    [-1, 0, -0.5],
    [1, 0, -0.5],
    [1, 0, 0.5],
    [-1, 0, 0.5],
  ];

  it.each(NAMES)("are closed bodies a metre wide at most, facing outwards (%s)", (name) => {
    const points = outlinePoints(name, 5, 0.5, DRAWN);
    const body = outlined(points, 0, 0, 0.03);
    body.computeBoundingBox();
    const size = body.boundingBox!.getSize(new Vector3());
    expect(Math.max(size.x, size.z)).toBeCloseTo(1, 5);
    expect(size.y).toBeCloseTo(1, 5);
    expect(volume(body, at(body))).toBeGreaterThan(0.05);
  });

  it("enclose their outline's area times their height, tapered as a frustum", () => {
    const square = outlinePoints("drawn", 3, 0, DRAWN);
    const straight = outlined(square, 0, 0, 0);
    expect(volume(straight, at(straight))).toBeCloseTo(1 * 0.5, 5);
    const tapered = outlined(square, 0.5, 0, 0);
    expect(volume(tapered, at(tapered))).toBeCloseTo((0.5 / 3) * (1 + 0.5 + 0.25), 5);
  });

  it("turn a profile into the volume of its cross-sections", () => {
    const cone = turnedProfile((height) => 1 - height, 128, 64);
    expect(volume(cone, at(cone))).toBeCloseTo((Math.PI * 0.25) / 3, 2);
  });

  it("raise land where it is said to be high", () => {
    const land = terrain((x) => x, 8);
    const { position } = land.attributes;
    for (let i = 0; i < position.count; i++) expect(position.getY(i)).toBeCloseTo(position.getX(i), 6);
  });
});

describe("a tube", () => {
  it("encloses its length times its cross-section, and is closed at its ends", () => {
    const line = [
      [0, 0, 0],
      [1, 0, 0],
      [2, 0, 0],
    ];
    const body = tube(line, false, 16, 96);
    const r = 0.1;
    const place = (i: number) => at(body)(i).addScaledVector(at(body, "normal")(i), r);
    // The point of each cap stands out by the radius.
    const caps = (2 / 3) * Math.PI * r ** 3;
    expect(volume(body, place)).toBeCloseTo(Math.PI * r * r * 2 + caps, 3);
  });
});
