import { hashed } from "../dsp/maths/hash";
import type { FormationKind } from "../kinds/shared";
import type { PathPoint } from "../setting/descriptor";

export type Facing = "outwards" | "inwards" | "along" | "same";

/** Layout settings of a formation; lengths in metres, angles in degrees. */
export interface FormationShape {
  kind: Exclude<FormationKind, "none" | "cues">;
  copies: number;
  reach: number;
  spacing: number;
  sweep: number;
  climb: number;
  columns: number;
  path: readonly PathPoint[];
  facing: Facing;
  seed: number;
}

const RADIANS = Math.PI / 180;
const GOLDEN = Math.PI * (3 - Math.sqrt(5));
/** Steps along a path's curve between which copies are evenly strung. */
const PATH_STEPS = 256;

/**
 * Places the copies of a formation about its middle.
 *
 * Rings and spirals lie flat and begin towards the viewer; rows go to the right; grids lie flat, line by line away from
 * the back; domes are filled evenly from the top; paths are Catmull–Rom lines with copies at even distances.
 *
 * @param places  receives x, y, z of each copy
 * @param turns  receives the quaternion of each copy's facing (x, y, z, w)
 */
export function layOut(shape: FormationShape, places: Float32Array, turns: Float32Array): void {
  const { kind, copies, reach, spacing, sweep, climb, facing, seed } = shape;
  const last = Math.max(1, copies - 1);
  const share = (i: number) => (copies > 1 ? i / last : 0.5);
  const set = (i: number, x: number, y: number, z: number, outwards: number, along: number) => {
    places[i * 3] = x;
    places[i * 3 + 1] = y;
    places[i * 3 + 2] = z;
    const yaw =
      facing === "outwards"
        ? outwards
        : facing === "inwards"
          ? outwards + Math.PI
          : facing === "along"
            ? along
            : 0;
    setQuaternion(turns, i * 4, 0, yaw);
  };
  switch (kind) {
    case "ring": {
      // Whole turns close: the last copy stands beside the first, not on it.
      const isClosed = sweep !== 0 && sweep % 360 === 0;
      for (let i = 0; i < copies; i++) {
        const angle = sweep * RADIANS * (isClosed ? i / copies : share(i));
        const ahead = Math.sign(sweep || 1) * (Math.PI / 2);
        set(i, Math.sin(angle) * reach, climb * share(i), Math.cos(angle) * reach, angle, angle + ahead);
      }
      break;
    }
    case "row":
      for (let i = 0; i < copies; i++) {
        set(i, (i - (copies - 1) / 2) * spacing, climb * share(i), 0, 0, Math.PI / 2);
      }
      break;
    case "grid": {
      const columns = shape.columns > 0 ? shape.columns : Math.ceil(Math.sqrt(copies));
      const rows = Math.ceil(copies / columns);
      for (let i = 0; i < copies; i++) {
        const x = ((i % columns) - (columns - 1) / 2) * spacing;
        const z = (Math.floor(i / columns) - (rows - 1) / 2) * spacing;
        set(i, x, 0, z, 0, Math.PI / 2);
      }
      break;
    }
    case "spiral":
      for (let i = 0; i < copies; i++) {
        const angle = sweep * RADIANS * share(i);
        const r = reach * share(i);
        set(i, Math.sin(angle) * r, climb * share(i), Math.cos(angle) * r, angle, angle + Math.PI / 2);
      }
      break;
    case "dome":
      for (let i = 0; i < copies; i++) {
        const up = 1 - (i + 0.5) / copies;
        const flat = Math.sqrt(1 - up * up);
        const angle = i * GOLDEN;
        set(
          i,
          Math.sin(angle) * flat * reach,
          up * reach,
          Math.cos(angle) * flat * reach,
          angle,
          angle + Math.PI / 2,
        );
        const pitch = Math.asin(up);
        if (facing === "outwards") setQuaternion(turns, i * 4, -pitch, angle);
        if (facing === "inwards") setQuaternion(turns, i * 4, pitch, angle + Math.PI);
      }
      break;
    case "scatter":
      for (let i = 0; i < copies; i++) {
        const r = reach * Math.sqrt(hashed(seed, i, 1));
        const angle = 2 * Math.PI * hashed(seed, i, 2);
        set(i, Math.sin(angle) * r, 0, Math.cos(angle) * r, angle, 2 * Math.PI * hashed(seed, i, 3));
      }
      break;
    case "path":
      alongPath(shape.path, copies, set);
      break;
  }
}

/** A pitch about x after a yaw about y, as a quaternion. */
function setQuaternion(out: Float32Array, at: number, pitch: number, yaw: number): void {
  const [sx, cx] = [Math.sin(pitch / 2), Math.cos(pitch / 2)];
  const [sy, cy] = [Math.sin(yaw / 2), Math.cos(yaw / 2)];
  out[at] = cy * sx;
  out[at + 1] = sy * cx;
  out[at + 2] = -sy * sx;
  out[at + 3] = cy * cx;
}

function alongPath(
  points: readonly PathPoint[],
  copies: number,
  set: (i: number, x: number, y: number, z: number, outwards: number, along: number) => void,
): void {
  const line = new Float64Array((PATH_STEPS + 1) * 3);
  const lengths = new Float64Array(PATH_STEPS + 1);
  for (let step = 0; step <= PATH_STEPS; step++) {
    catmullRom(points, (step / PATH_STEPS) * (points.length - 1), line, step * 3);
    if (step === 0) continue;
    const at = step * 3;
    lengths[step] =
      lengths[step - 1] +
      Math.hypot(line[at] - line[at - 3], line[at + 1] - line[at - 2], line[at + 2] - line[at - 1]);
  }
  const whole = lengths[PATH_STEPS];
  let step = 1;
  for (let i = 0; i < copies; i++) {
    const wanted = copies > 1 ? (whole * i) / (copies - 1) : whole / 2;
    while (step < PATH_STEPS && lengths[step] < wanted) step++;
    const span = lengths[step] - lengths[step - 1];
    const t = span > 0 ? Math.min(1, (wanted - lengths[step - 1]) / span) : 0;
    const a = (step - 1) * 3;
    const b = step * 3;
    const along = Math.atan2(line[b] - line[a], line[b + 2] - line[a + 2]);
    const mix = (axis: number) => line[a + axis] + (line[b + axis] - line[a + axis]) * t;
    set(i, mix(0), mix(1), mix(2), along - Math.PI / 2, along);
  }
}

/** A point of the Catmull–Rom line through all points, at a place from 0 to their number less one. */
function catmullRom(points: readonly PathPoint[], place: number, out: Float64Array, at: number): void {
  const i = Math.min(points.length - 2, Math.floor(place));
  const t = place - i;
  const p = (k: number) => points[Math.min(points.length - 1, Math.max(0, i + k))];
  for (let axis = 0; axis < 3; axis++) {
    const [a, b, c, d] = [p(-1)[axis], p(0)[axis], p(1)[axis], p(2)[axis]];
    out[at + axis] = b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));
  }
}
