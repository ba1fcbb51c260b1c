/** A straight line through the space of features that parts one kind of example from the others. */
export interface Line {
  weights: Float64Array;
  bias: number;
}

/** Steps of the descent: enough for some dozen examples. */
const STEPS = 300;

/**
 * Logistic regression with its weights held small (ridge), each class counting as much as the other.
 *
 * @param examples  rows of features of even size, mean near 0
 * @param isMeant  whether each is of the kind that is looked for; both kinds occur
 * @param ridge  how much weights are held down; more for fewer examples
 * @returns weights and bias: above 0 is likelier of that kind
 */
export function fitLogistic(
  examples: readonly Float64Array[],
  isMeant: readonly boolean[],
  ridge: number,
): Line {
  const width = examples[0].length;
  const meant = isMeant.filter(Boolean).length;
  const share = isMeant.map((is) => (is ? 0.5 / meant : 0.5 / (isMeant.length - meant)));
  const weights = new Float64Array(width);
  let bias = 0;
  // The steepest the curve can be says how long a step may be.
  let most = 0;
  examples.forEach((row, i) => {
    most += share[i] * (1 + row.reduce((sum, value) => sum + value * value, 0));
  });
  const step = 1 / (0.25 * most + ridge);
  const slope = new Float64Array(width);
  // Momentum (Nesterov 1983).
  const ahead = Float64Array.from(weights);
  let aheadBias = bias;
  for (let n = 0; n < STEPS; n++) {
    for (let k = 0; k < width; k++) slope[k] = ridge * ahead[k];
    let biasSlope = 0;
    examples.forEach((row, i) => {
      const off =
        share[i] *
        (1 / (1 + Math.exp(-scoreOf({ weights: ahead, bias: aheadBias }, row))) - (isMeant[i] ? 1 : 0));
      for (let k = 0; k < width; k++) slope[k] += off * row[k];
      biasSlope += off;
    });
    const momentum = n / (n + 3);
    for (let k = 0; k < width; k++) {
      const next = ahead[k] - step * slope[k];
      ahead[k] = next + momentum * (next - weights[k]);
      weights[k] = next;
    }
    const nextBias = aheadBias - step * biasSlope;
    aheadBias = nextBias + momentum * (nextBias - bias);
    bias = nextBias;
  }
  return { weights, bias };
}

/** Which side of a line features lie on, and how far: above 0 is the kind that is looked for. */
export function scoreOf({ weights, bias }: Line, features: Float64Array): number {
  let sum = bias;
  for (let k = 0; k < weights.length; k++) sum += weights[k] * features[k];
  return sum;
}
