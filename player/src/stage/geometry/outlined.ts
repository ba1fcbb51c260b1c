import { BufferAttribute, BufferGeometry, ShapeUtils, Vector2 } from "three";
import { mergeVertices, toCreasedNormals } from "three/examples/jsm/utils/BufferGeometryUtils.js";

/** Angle between sides from which an edge is seen as one. */
const CREASE = Math.PI / 5;
/** Points of a round outline. */
const ROUND_POINTS = 64;
const BEVEL_STEPS = 5;

export type OutlineName = "polygon" | "star" | "leaf" | "heart" | "gear" | "cross" | "drop" | "drawn";

/**
 * The points of an outline, seen from above, within −½ to ½ on the wider axis.
 *
 * @param sides  corners of polygons and stars, teeth of gears
 * @param inner  radius of the inner corners of stars and gears, as a share of the outer
 * @param drawn  points of an outline of one's own
 * @param fineness  share of the points that round outlines have
 */
export function outlinePoints(
  name: OutlineName,
  sides: number,
  inner: number,
  drawn: readonly (readonly number[])[],
  fineness = 1,
): Vector2[] {
  const roundPoints = Math.max(12, Math.round(ROUND_POINTS * fineness));
  const round = (count: number, at: (angle: number, i: number) => [x: number, y: number]) =>
    Array.from({ length: count }, (_, i) => new Vector2(...at((2 * Math.PI * i) / count, i)));
  const turned = (radius: number, angle: number): [number, number] => [
    radius * Math.sin(angle),
    -radius * Math.cos(angle),
  ];
  switch (name) {
    case "polygon":
      return fitted(round(sides, (angle) => turned(1, angle)));
    case "star":
      return fitted(round(sides * 2, (angle, i) => turned(i % 2 === 0 ? 1 : inner, angle)));
    case "gear":
      return fitted(round(sides * 4, (angle, i) => turned(i % 4 < 2 ? 1 : inner, angle)));
    case "leaf":
      return fitted(
        round(roundPoints, (angle) => [
          Math.cos(angle),
          Math.sign(Math.sin(angle)) * Math.abs(Math.sin(angle)) ** 1.6 * inner,
        ]),
      );
    case "heart":
      return fitted(
        round(roundPoints, (t) => [
          16 * Math.sin(t) ** 3,
          13 * Math.cos(t) - 5 * Math.cos(2 * t) - 2 * Math.cos(3 * t) - Math.cos(4 * t),
        ]).reverse(),
      );
    case "drop":
      return fitted(round(roundPoints, (t) => [Math.sin(t) * Math.sin(t / 2) ** 1.5, -Math.cos(t)]));
    case "cross": {
      const arm = inner / 2 + 0.05;
      const corners = [
        [arm, 1],
        [arm, arm],
        [1, arm],
        [1, -arm],
        [arm, -arm],
        [arm, -1],
        [-arm, -1],
        [-arm, -arm],
        [-1, -arm],
        [-1, arm],
        [-arm, arm],
        [-arm, 1],
      ];
      return fitted(corners.map(([x, y]) => new Vector2(x, y)).reverse());
    }
    case "drawn":
      return fitted(drawn.map(([x, , z]) => new Vector2(x, -z)));
  }
}

/** Moves and scales points to lie about the origin, one metre at their widest, against the clock. */
function fitted(points: Vector2[]): Vector2[] {
  const low = points.reduce((a, b) => a.min(b), points[0].clone());
  const high = points.reduce((a, b) => a.max(b), points[0].clone());
  const middle = low.clone().add(high).multiplyScalar(0.5);
  const wide = Math.max(high.x - low.x, high.y - low.y) || 1;
  const moved = points.map((point) => point.clone().sub(middle).divideScalar(wide));
  return ShapeUtils.isClockWise(moved) ? moved.reverse() : moved;
}

/**
 * An outline drawn upwards into a body, one metre high.
 *
 * @param taper  how much narrower the foot is, 0..1
 * @param twist  turn of the top against the foot, radians
 * @param bevel  width of the rounded rims, as a share of the outline's
 * @param fineness  share of the steps of the rims
 */
export function outlined(
  points: readonly Vector2[],
  taper: number,
  twist: number,
  bevel: number,
  fineness = 1,
): BufferGeometry {
  const bevelSteps = Math.max(1, Math.round(BEVEL_STEPS * fineness));
  const levels: { height: number; scale: number }[] = [];
  const sideSteps = twist === 0 ? 1 : 16;
  for (let i = 0; i < bevelSteps && bevel > 0; i++) {
    const angle = (Math.PI / 2) * (i / bevelSteps);
    levels.push({ height: bevel * (1 - Math.cos(angle)), scale: 1 - bevel * 2 * (1 - Math.sin(angle)) });
  }
  for (let i = 0; i <= sideSteps; i++) {
    levels.push({ height: bevel + (1 - 2 * bevel) * (i / sideSteps), scale: 1 });
  }
  for (let i = bevelSteps - 1; i >= 0 && bevel > 0; i--) {
    const angle = (Math.PI / 2) * (i / bevelSteps);
    levels.push({ height: 1 - bevel * (1 - Math.cos(angle)), scale: 1 - bevel * 2 * (1 - Math.sin(angle)) });
  }
  const around = points.length;
  const positions: number[] = [];
  for (const { height, scale } of levels) {
    const size = scale * (1 - taper * (1 - height));
    const [sin, cos] = [Math.sin(twist * height), Math.cos(twist * height)];
    for (const { x, y } of points) {
      positions.push(size * (x * cos - y * sin), height - 0.5, -size * (x * sin + y * cos));
    }
  }
  const indices: number[] = [];
  for (let level = 0; level < levels.length - 1; level++) {
    for (let i = 0; i < around; i++) {
      const [a, b] = [level * around + i, level * around + ((i + 1) % around)];
      indices.push(a, b, b + around, a, b + around, a + around);
    }
  }
  const top = (levels.length - 1) * around;
  for (const [a, b, c] of ShapeUtils.triangulateShape([...points], [])) {
    indices.push(top + a, top + b, top + c, c, b, a);
  }
  return creased(positions, indices);
}

/** Geometry with soft sides and hard edges; images lie on it from above. */
function creased(positions: readonly number[], indices: number[]): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(Float32Array.from(positions), 3));
  geometry.setIndex(indices);
  const finished = toCreasedNormals(geometry, CREASE);
  geometry.dispose();
  const { position } = finished.attributes;
  const uvs = new Float32Array(position.count * 2);
  for (let i = 0; i < position.count; i++) uvs.set([position.getX(i) + 0.5, 0.5 - position.getZ(i)], i * 2);
  finished.setAttribute("uv", new BufferAttribute(uvs, 2));
  // Corners that face the same way are one vertex again: without that each triangle has three of its own.
  const merged = mergeVertices(finished);
  finished.dispose();
  return merged;
}

/**
 * A profile turned about the upright axis, one metre high and wide.
 *
 * @param radiusAt  half the width at a height of 0 to 1, as a share of half a metre
 */
export function turnedProfile(
  radiusAt: (height: number) => number,
  around: number,
  along: number,
): BufferGeometry {
  const positions: number[] = [];
  const indices: number[] = [];
  const rows = along + 3;
  for (let row = 0; row < rows; row++) {
    // Closed at the foot and at the top.
    const height = Math.min(1, Math.max(0, (row - 1) / along));
    const radius = row === 0 || row === rows - 1 ? 0 : Math.max(0, radiusAt(height)) / 2;
    for (let j = 0; j < around; j++) {
      const angle = (2 * Math.PI * j) / around;
      positions.push(radius * Math.sin(angle), height - 0.5, radius * Math.cos(angle));
    }
  }
  for (let row = 0; row < rows - 1; row++) {
    for (let j = 0; j < around; j++) {
      const [a, b] = [row * around + j, row * around + ((j + 1) % around)];
      indices.push(a, b, b + around, a, b + around, a + around);
    }
  }
  return creased(positions, indices);
}

/**
 * A square of land, one metre wide and at most one metre high.
 *
 * @param heightAt  height of 0 to 1 at a place of 0 to 1 across and in depth
 */
export function terrain(heightAt: (x: number, z: number) => number, steps: number): BufferGeometry {
  const side = steps + 1;
  const positions = new Float32Array(side * side * 3);
  const uvs = new Float32Array(side * side * 2);
  const indices: number[] = [];
  for (let row = 0; row < side; row++) {
    for (let column = 0; column < side; column++) {
      const at = row * side + column;
      const [x, z] = [column / steps, row / steps];
      positions.set([x - 0.5, heightAt(x, z) - 0.5, z - 0.5], at * 3);
      uvs.set([x, 1 - z], at * 2);
      if (row === steps || column === steps) continue;
      indices.push(at, at + side, at + 1, at + 1, at + side, at + side + 1);
    }
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(positions, 3));
  geometry.setAttribute("uv", new BufferAttribute(uvs, 2));
  geometry.setIndex(indices);
  geometry.computeVertexNormals();
  return geometry;
}
