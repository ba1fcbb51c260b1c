import { BoxGeometry, BufferAttribute, BufferGeometry } from "three";

/**
 * Shapes with rounded edges. Each vertex knows the corner it belongs to, from −1 to 1 on each axis of the unit shape,
 * and the way it faces; {@link ROUNDED_VERTEX} puts it where it belongs for any size and radius, so that edges stay
 * round however the shape is stretched.
 */

/** GLSL that sets `transformed` and `objectNormal` from `corner`, `normal` and the radius `rounding`, in metres. */
export const ROUNDED_VERTEX = `
  #ifdef USE_INSTANCING
    vec3 fullSize = vec3(length(instanceMatrix[0].xyz), length(instanceMatrix[1].xyz), length(instanceMatrix[2].xyz));
  #else
    vec3 fullSize = vec3(1.0);
  #endif
  fullSize = max(fullSize, vec3(1e-5));
  float roundRadius = min(rounding, 0.5 * min(fullSize.x, min(fullSize.y, fullSize.z)));
  vec3 roundShare = roundRadius / fullSize;
  vec3 roundPlace = corner * (0.5 - roundShare) + normal * roundShare;`;
/** GLSL of the normal, which three.js asks for before the place. */
export const ROUNDED_NORMAL = "objectNormal = normal * fullSize;";

/** A cube; `steps` triangles' edges round each of its edges, 0 for sharp ones. */
export function roundedBox(steps: number): BufferGeometry {
  if (steps === 0) return withCorners(new BoxGeometry(), (n, x, y, z) => [2 * x, 2 * y, 2 * z, ...n]);
  const grid = 2 * steps + 1;
  const box = new BoxGeometry(1, 1, 1, grid, grid, grid);
  // A line of the grid belongs to the low or the high corner, and faces away from the middle the more the farther out.
  const read = (x: number): [corner: number, lean: number] => {
    const line = Math.round((x + 0.5) * grid);
    return line <= steps ? [-1, (line - steps) / steps] : [1, (line - steps - 1) / steps];
  };
  return withCorners(box, ([nx, ny, nz], x, y, z) => {
    const along = (n: number, at: number): [number, number] =>
      n !== 0 ? [Math.sign(n), Math.sign(n)] : read(at);
    const [[cx, ax], [cy, ay], [cz, az]] = [along(nx, x), along(ny, y), along(nz, z)];
    const length = Math.hypot(ax, ay, az);
    return [cx, cy, cz, ax / length, ay / length, az / length];
  });
}

function withCorners(
  geometry: BufferGeometry,
  of: (normal: [number, number, number], x: number, y: number, z: number) => number[],
): BufferGeometry {
  const { position, normal, uv } = geometry.attributes;
  const corners = new Float32Array(position.count * 3);
  for (let i = 0; i < position.count; i++) {
    const n: [number, number, number] = [normal.getX(i), normal.getY(i), normal.getZ(i)];
    const values = of(n, position.getX(i), position.getY(i), position.getZ(i));
    corners.set(values.slice(0, 3), i * 3);
    normal.setXYZ(i, values[3], values[4], values[5]);
    position.setXYZ(i, values[0] / 2, values[1] / 2, values[2] / 2);
    // An image spans a side from corner to corner.
    uv.setXY(i, uv.getX(i) < 0.5 ? 0 : 1, uv.getY(i) < 0.5 ? 0 : 1);
  }
  geometry.setAttribute("corner", new BufferAttribute(corners, 3));
  return geometry;
}

/** One point of an outline that is turned about the upright axis: its corner and the way it faces, out and up. */
type ProfilePoint = { corner: readonly [out: number, up: number]; faces: readonly [out: number, up: number] };

function turned(profile: readonly ProfilePoint[], around: number): BufferGeometry {
  const rows = profile.length;
  const count = rows * (around + 1);
  const [positions, normals, corners] = [3, 3, 3].map((width) => new Float32Array(count * width));
  const uvs = new Float32Array(count * 2);
  const indices: number[] = [];
  for (let j = 0; j <= around; j++) {
    const angle = (2 * Math.PI * j) / around;
    const [sin, cos] = [Math.sin(angle), Math.cos(angle)];
    for (let i = 0; i < rows; i++) {
      const at = j * rows + i;
      const { corner, faces } = profile[i];
      corners.set([corner[0] * sin, corner[1], corner[0] * cos], at * 3);
      normals.set([faces[0] * sin, faces[1], faces[0] * cos], at * 3);
      const reach = Math.max(corner[0], faces[0]);
      positions.set([(reach * sin) / 2, corner[1] / 2, (reach * cos) / 2], at * 3);
      uvs.set([j / around, (corner[1] + 1) / 2], at * 2);
      if (j === around || i === rows - 1) continue;
      const next = at + rows;
      indices.push(at, next, at + 1, next, next + 1, at + 1);
    }
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(positions, 3));
  geometry.setAttribute("normal", new BufferAttribute(normals, 3));
  geometry.setAttribute("uv", new BufferAttribute(uvs, 2));
  geometry.setAttribute("corner", new BufferAttribute(corners, 3));
  geometry.setIndex(indices);
  return geometry;
}

const quarter = (steps: number, from: number, corner: readonly [number, number]): ProfilePoint[] =>
  Array.from({ length: steps + 1 }, (_, i) => {
    const angle = from + ((Math.PI / 2) * i) / steps;
    return { corner, faces: [Math.cos(angle), Math.sin(angle)] };
  });

/** A drum with rounded rims. */
export function roundedCylinder(around: number, steps: number): BufferGeometry {
  return turned(
    [
      { corner: [0, -1], faces: [0, -1] },
      ...quarter(steps, -Math.PI / 2, [1, -1]),
      ...quarter(steps, 0, [1, 1]),
      { corner: [0, 1], faces: [0, 1] },
    ],
    around,
  );
}

/** A rod whose ends are half balls, as round as it is wide. */
export function capsule(around: number, steps: number): BufferGeometry {
  return turned([...quarter(steps, -Math.PI / 2, [0, -1]), ...quarter(steps, 0, [0, 1])], around);
}
