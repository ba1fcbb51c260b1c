import { BufferAttribute, BufferGeometry, CatmullRomCurve3, Vector3 } from "three";

/**
 * A tube along a line through points, in metres. Each vertex is on the line and knows the way out of it: the shader
 * puts it there for any radius, see {@link TUBE_VERTEX}.
 */
export function tube(
  points: readonly (readonly number[])[],
  isClosed: boolean,
  along: number,
  around: number,
): BufferGeometry {
  const curve = new CatmullRomCurve3(
    points.map(([x, y, z]) => new Vector3(x, y, z)),
    isClosed,
  );
  const { normals, binormals, tangents } = curve.computeFrenetFrames(along, isClosed);
  const rows = along + 1;
  const positions = new Float32Array(rows * (around + 1) * 3);
  const outs = new Float32Array(positions.length);
  const uvs = new Float32Array(rows * (around + 1) * 2);
  const indices: number[] = [];
  const place = new Vector3();
  const out = new Vector3();
  for (let row = 0; row < rows; row++) {
    curve.getPointAt(row / along, place);
    for (let j = 0; j <= around; j++) {
      const angle = (2 * Math.PI * j) / around;
      out
        .copy(normals[row])
        .multiplyScalar(-Math.cos(angle))
        .addScaledVector(binormals[row], Math.sin(angle));
      const at = row * (around + 1) + j;
      place.toArray(positions, at * 3);
      out.normalize().toArray(outs, at * 3);
      uvs.set([row / along, j / around], at * 2);
      if (row === along || j === around) continue;
      const next = at + around + 1;
      indices.push(at, next, at + 1, next, next + 1, at + 1);
    }
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(positions, 3));
  geometry.setAttribute("normal", new BufferAttribute(outs, 3));
  geometry.setAttribute("uv", new BufferAttribute(uvs, 2));
  geometry.setIndex(indices);
  // Ends are closed by caps of one point each, facing along the line.
  return isClosed ? geometry : withCaps(geometry, rows, around, tangents[0], tangents[along]);
}

function withCaps(
  geometry: BufferGeometry,
  rows: number,
  around: number,
  first: Vector3,
  last: Vector3,
): BufferGeometry {
  const { position, normal, uv } = geometry.attributes;
  const count = position.count;
  const grow = (attribute: { array: ArrayLike<number>; itemSize: number }, ends: readonly number[][]) => {
    const array = new Float32Array(attribute.array.length + 2 * attribute.itemSize);
    array.set(attribute.array);
    ends.forEach((end, i) => {
      array.set(end, attribute.array.length + i * attribute.itemSize);
    });
    return new BufferAttribute(array, attribute.itemSize);
  };
  const at = (i: number) => [position.getX(i), position.getY(i), position.getZ(i)];
  const start = (rows - 1) * (around + 1);
  const indices = [...geometry.index!.array];
  for (let j = 0; j < around; j++) indices.push(count, j, j + 1, count + 1, start + j + 1, start + j);
  const capped = new BufferGeometry();
  capped.setAttribute("position", grow(position, [at(0), at(start)]));
  capped.setAttribute("normal", grow(normal, [first.clone().negate().toArray(), last.toArray()]));
  capped.setAttribute(
    "uv",
    grow(uv, [
      [0, 0.5],
      [1, 0.5],
    ]),
  );
  capped.setIndex(indices);
  return capped;
}

/** GLSL that sets `transformed` from a place on the line, the way out of it, and the radius; its ends are tapered. */
export const TUBE_VERTEX = `
  float tubeEnd = 1.0 - tubeTaper * abs(uv.x * 2.0 - 1.0);
  transformed = position + normal * tubeRadius * tubeEnd;`;
