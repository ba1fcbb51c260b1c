/** Four-by-four matrices, column by column as WebGL has them, at an offset in a longer array: nothing is allocated. */
export type Matrices = Float32Array;

const RADIANS = Math.PI / 180;

/**
 * Writes place, turn and size. Angles are in degrees and apply about z, then y, then x.
 *
 * @param v  values that hold x, y, z of the place at `p`, of the turn at `r` and of the size at `s`
 * @param spin  further degrees about the upright axis, before the turn
 */
export function compose(
  out: Matrices,
  at: number,
  v: ArrayLike<number>,
  p: number,
  r: number,
  s: number,
  spin: number,
): void {
  const [cx, sx] = [Math.cos(v[r] * RADIANS), Math.sin(v[r] * RADIANS)];
  const [cy, sy] = [Math.cos((v[r + 1] + spin) * RADIANS), Math.sin((v[r + 1] + spin) * RADIANS)];
  const [cz, sz] = [Math.cos(v[r + 2] * RADIANS), Math.sin(v[r + 2] * RADIANS)];
  out[at] = cy * cz * v[s];
  out[at + 1] = (cx * sz + sx * sy * cz) * v[s];
  out[at + 2] = (sx * sz - cx * sy * cz) * v[s];
  out[at + 3] = 0;
  out[at + 4] = -cy * sz * v[s + 1];
  out[at + 5] = (cx * cz - sx * sy * sz) * v[s + 1];
  out[at + 6] = (sx * cz + cx * sy * sz) * v[s + 1];
  out[at + 7] = 0;
  out[at + 8] = sy * v[s + 2];
  out[at + 9] = -sx * cy * v[s + 2];
  out[at + 10] = cx * cy * v[s + 2];
  out[at + 11] = 0;
  out[at + 12] = v[p];
  out[at + 13] = v[p + 1];
  out[at + 14] = v[p + 2];
  out[at + 15] = 1;
}

/** Writes a quaternion's turn, a size for each axis, and a place. */
export function composeTurned(
  out: Matrices,
  at: number,
  q: ArrayLike<number>,
  qAt: number,
  x: number,
  y: number,
  z: number,
  sx: number,
  sy: number,
  sz: number,
): void {
  const qx = q[qAt];
  const qy = q[qAt + 1];
  const qz = q[qAt + 2];
  const qw = q[qAt + 3];
  out[at] = (1 - 2 * (qy * qy + qz * qz)) * sx;
  out[at + 1] = 2 * (qx * qy + qw * qz) * sx;
  out[at + 2] = 2 * (qx * qz - qw * qy) * sx;
  out[at + 3] = 0;
  out[at + 4] = 2 * (qx * qy - qw * qz) * sy;
  out[at + 5] = (1 - 2 * (qx * qx + qz * qz)) * sy;
  out[at + 6] = 2 * (qy * qz + qw * qx) * sy;
  out[at + 7] = 0;
  out[at + 8] = 2 * (qx * qz + qw * qy) * sz;
  out[at + 9] = 2 * (qy * qz - qw * qx) * sz;
  out[at + 10] = (1 - 2 * (qx * qx + qy * qy)) * sz;
  out[at + 11] = 0;
  out[at + 12] = x;
  out[at + 13] = y;
  out[at + 14] = z;
  out[at + 15] = 1;
}

/** Writes a · b, both without perspective; `out` must not be either of them. */
export function multiply(
  out: Matrices,
  at: number,
  a: Matrices,
  aAt: number,
  b: Matrices,
  bAt: number,
): void {
  // Read once: this runs thousands of times a frame.
  const a0 = a[aAt];
  const a1 = a[aAt + 1];
  const a2 = a[aAt + 2];
  const a4 = a[aAt + 4];
  const a5 = a[aAt + 5];
  const a6 = a[aAt + 6];
  const a8 = a[aAt + 8];
  const a9 = a[aAt + 9];
  const a10 = a[aAt + 10];
  for (let c = 0; c < 16; c += 4) {
    const x = b[bAt + c];
    const y = b[bAt + c + 1];
    const z = b[bAt + c + 2];
    out[at + c] = a0 * x + a4 * y + a8 * z;
    out[at + c + 1] = a1 * x + a5 * y + a9 * z;
    out[at + c + 2] = a2 * x + a6 * y + a10 * z;
    out[at + c + 3] = 0;
  }
  out[at + 12] += a[aAt + 12];
  out[at + 13] += a[aAt + 13];
  out[at + 14] += a[aAt + 14];
  out[at + 15] = 1;
}

/**
 * Writes a · b, where b is a place and a size without a turn; a has no perspective, and `out` must not be a.
 * Thousands of copies a frame have no turn of their own: this takes a third of the time of {@link multiply}.
 */
export function multiplySized(
  out: Matrices,
  at: number,
  a: Matrices,
  aAt: number,
  x: number,
  y: number,
  z: number,
  sx: number,
  sy: number,
  sz: number,
): void {
  const a0 = a[aAt];
  const a1 = a[aAt + 1];
  const a2 = a[aAt + 2];
  const a4 = a[aAt + 4];
  const a5 = a[aAt + 5];
  const a6 = a[aAt + 6];
  const a8 = a[aAt + 8];
  const a9 = a[aAt + 9];
  const a10 = a[aAt + 10];
  out[at] = a0 * sx;
  out[at + 1] = a1 * sx;
  out[at + 2] = a2 * sx;
  out[at + 3] = 0;
  out[at + 4] = a4 * sy;
  out[at + 5] = a5 * sy;
  out[at + 6] = a6 * sy;
  out[at + 7] = 0;
  out[at + 8] = a8 * sz;
  out[at + 9] = a9 * sz;
  out[at + 10] = a10 * sz;
  out[at + 11] = 0;
  out[at + 12] = a0 * x + a4 * y + a8 * z + a[aAt + 12];
  out[at + 13] = a1 * x + a5 * y + a9 * z + a[aAt + 13];
  out[at + 14] = a2 * x + a6 * y + a10 * z + a[aAt + 14];
  out[at + 15] = 1;
}

/**
 * Takes place, turn and sizes out of a matrix without shear; a mirrored one counts as turned.
 *
 * @param place  receives x, y, z
 * @param turn  receives a quaternion: x, y, z, w
 * @param sizes  receives the length of each axis
 */
export function decompose(
  m: Matrices,
  at: number,
  place: Float64Array,
  turn: Float64Array,
  sizes: Float64Array,
): void {
  for (let axis = 0; axis < 3; axis++) {
    const c = at + axis * 4;
    place[axis] = m[at + 12 + axis];
    sizes[axis] = Math.sqrt(m[c] * m[c] + m[c + 1] * m[c + 1] + m[c + 2] * m[c + 2]);
  }
  const [a, b, c] = [1 / (sizes[0] || 1), 1 / (sizes[1] || 1), 1 / (sizes[2] || 1)];
  const [m00, m10, m20] = [m[at] * a, m[at + 1] * a, m[at + 2] * a];
  const [m01, m11, m21] = [m[at + 4] * b, m[at + 5] * b, m[at + 6] * b];
  const [m02, m12, m22] = [m[at + 8] * c, m[at + 9] * c, m[at + 10] * c];
  const trace = m00 + m11 + m22;
  if (trace > 0) {
    const s = Math.sqrt(trace + 1) * 2;
    setTurn(turn, (m21 - m12) / s, (m02 - m20) / s, (m10 - m01) / s, s / 4);
  } else if (m00 > m11 && m00 > m22) {
    const s = Math.sqrt(Math.max(1e-12, 1 + m00 - m11 - m22)) * 2;
    setTurn(turn, s / 4, (m01 + m10) / s, (m02 + m20) / s, (m21 - m12) / s);
  } else if (m11 > m22) {
    const s = Math.sqrt(Math.max(1e-12, 1 + m11 - m00 - m22)) * 2;
    setTurn(turn, (m01 + m10) / s, s / 4, (m12 + m21) / s, (m02 - m20) / s);
  } else {
    const s = Math.sqrt(Math.max(1e-12, 1 + m22 - m00 - m11)) * 2;
    setTurn(turn, (m02 + m20) / s, (m12 + m21) / s, s / 4, (m10 - m01) / s);
  }
}

function setTurn(out: Float64Array, x: number, y: number, z: number, w: number): void {
  const length = Math.sqrt(x * x + y * y + z * z + w * w) || 1;
  out[0] = x / length;
  out[1] = y / length;
  out[2] = z / length;
  out[3] = w / length;
}

/**
 * A point of the stage as a matrix's own coordinates: what the matrix would take there.
 *
 * @returns false for a matrix that has no extent in some direction
 */
export function toLocal(
  m: Matrices,
  at: number,
  x: number,
  y: number,
  z: number,
  out: Float64Array,
): boolean {
  const [a, b, c] = [m[at], m[at + 1], m[at + 2]];
  const [d, e, f] = [m[at + 4], m[at + 5], m[at + 6]];
  const [g, h, i] = [m[at + 8], m[at + 9], m[at + 10]];
  const determinant = a * (e * i - f * h) - d * (b * i - c * h) + g * (b * f - c * e);
  if (Math.abs(determinant) < 1e-18) return false;
  const [px, py, pz] = [x - m[at + 12], y - m[at + 13], z - m[at + 14]];
  out[0] = (px * (e * i - f * h) - py * (d * i - f * g) + pz * (d * h - e * g)) / determinant;
  out[1] = (-px * (b * i - c * h) + py * (a * i - c * g) - pz * (a * h - b * g)) / determinant;
  out[2] = (px * (b * f - c * e) - py * (a * f - c * d) + pz * (a * e - b * d)) / determinant;
  return true;
}
