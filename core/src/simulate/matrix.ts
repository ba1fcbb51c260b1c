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
