/** Features of the blocks of a sound, one row a block: those of blocks that sound alike lie near each other. */
export interface FeatureRows {
  width: number;
  /** Row after row. */
  values: Float32Array;
}

/** How alike two rows are: 1 for equal ones, towards 0 for those that lie more than one apart. */
export function similarity({ width, values }: FeatureRows, a: number, b: number): number {
  let sum = 0;
  for (let i = 0; i < width; i++) sum += (values[a * width + i] - values[b * width + i]) ** 2;
  return Math.exp(-sum / 2);
}

/**
 * Novelty of each block (Foote 2000): how alike the blocks before it are to each other and those after it to each other,
 * less how alike the two sides are; those near count most.
 *
 * @param reach  blocks on either side
 * @returns 0 for the same on both sides, towards 1 for two sides of their own; the first and the last `reach / 2` blocks have none
 */
export function noveltyOf(rows: FeatureRows, reach: number): Float32Array {
  const count = rows.values.length / rows.width;
  const novelty = new Float32Array(count);
  const weights = Float32Array.from({ length: reach }, (_none, away) =>
    Math.exp(-2 * ((away + 0.5) / reach) ** 2),
  );
  // Similarities of a block to those up to two reaches later.
  const span = 2 * reach;
  const alike = new Float32Array(count * span);
  for (let a = 0; a < count; a++)
    for (let k = 0; k < Math.min(span, count - a); k++) alike[a * span + k] = similarity(rows, a, a + k);
  const mean = (fromA: number, fromB: number, stepA: number, stepB: number, block: number) => {
    let [sum, weight] = [0, 0];
    for (let i = 0; i < reach; i++) {
      const a = block + fromA + stepA * i;
      if (a < 0 || a >= count) break;
      for (let j = 0; j < reach; j++) {
        const b = block + fromB + stepB * j;
        if (b < 0 || b >= count) break;
        const w = weights[i] * weights[j];
        sum += w * alike[Math.min(a, b) * span + Math.abs(a - b)];
        weight += w;
      }
    }
    return sum / weight;
  };
  for (let block = Math.ceil(reach / 2); block <= count - reach / 2; block++) {
    const before = mean(-1, -1, -1, -1, block);
    const after = mean(0, 0, 1, 1, block);
    const across = mean(-1, 0, -1, 1, block);
    if (block < count) novelty[block] = Math.max(0, (before + after) / 2 - across);
  }
  return novelty;
}
