/**
 * A number that looks thrown, from whole numbers: the same ones give the same number everywhere, in any order.
 *
 * @returns 0 ≤ x < 1
 */
export function hashed(seed: number, a: number, b = 0): number {
  let h = Math.imul(seed ^ 0x9e3779b9, 0x85ebca6b) ^ Math.imul(a + 0x632be59b, 0xc2b2ae35);
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d) ^ Math.imul(b + 0x1b873593, 0x27d4eb2f);
  h = Math.imul(h ^ (h >>> 13), 0x297a2d39);
  h ^= h >>> 16;
  return (h >>> 0) / 4_294_967_296;
}

/** Smooth noise between neighbours 1 apart, 0..1; the same place always gives the same number. */
export function smoothNoise(seed: number, x: number, y = 0, z = 0): number {
  const [x0, y0, z0] = [Math.floor(x), Math.floor(y), Math.floor(z)];
  const ease = (t: number) => t * t * (3 - 2 * t);
  const [u, v, w] = [ease(x - x0), ease(y - y0), ease(z - z0)];
  const corner = (i: number, j: number, k: number) => hashed(seed, (x0 + i) * 8191 + (y0 + j), z0 + k);
  const along = (j: number, k: number) => corner(0, j, k) * (1 - u) + corner(1, j, k) * u;
  const level = (k: number) => along(0, k) * (1 - v) + along(1, k) * v;
  return level(0) * (1 - w) + level(1) * w;
}
