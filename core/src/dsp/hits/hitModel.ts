import { HIT_BANDS_HZ, HIT_FEATURES } from "./hitFeatures";
import { type Line, scoreOf } from "./logistic";

/** Features further off than so many times what hits differ by count no more: one that is masked does not rule a hit out. */
const FURTHEST = 4;
/** Share of the straight line's vote; the rest is that of likeness. */
const LINE_SHARE = 0.3;

/**
 * Tells some hits from everything else that begins in a sound, by two votes: a straight line through the space of
 * features, and whether they are more like the hits than like the nearest of the others.
 */
export interface HitModel {
  line: Line;
  /** The hits in the mean, and how much they differ among themselves: dB. */
  mean: Float64Array;
  spread: Float64Array;
  /** Others that are most like them. */
  others: Float64Array[];
  /** Usual mean and spread of the two votes, to give them equal weight. */
  sizes: readonly [line: number, likeness: number];
}

/** How far features lie from others, by what the hits differ among themselves. */
export function distance(features: Float64Array, from: Float64Array, spread: Float64Array): number {
  let sum = 0;
  for (let k = 0; k < features.length; k++) {
    const off = Math.abs(features[k] - from[k]) / spread[k];
    sum += Math.min(FURTHEST, off) ** 2;
  }
  return sum;
}

/** How much more like the hits than like any of the others. */
export function likeness({ mean, spread, others }: HitModel, features: Float64Array): number {
  let nearest = Number.POSITIVE_INFINITY;
  for (const other of others) nearest = Math.min(nearest, distance(features, other, spread));
  return nearest - distance(features, mean, spread);
}

/** Above 0 for what is taken for one of the hits. */
export function scoreHit(model: HitModel, features: Float64Array): number {
  const [line, like] = model.sizes;
  return (
    (LINE_SHARE * scoreOf(model.line, features)) / line +
    ((1 - LINE_SHARE) * likeness(model, features)) / like
  );
}

/** How sure it is that features are those of one of the hits: 0.5 to 1, and 0 for anything else. */
export function hitStrength(model: HitModel, features: Float64Array): number {
  const score = scoreHit(model, features);
  return score > 0 ? 1 / (1 + Math.exp(-score)) : 0;
}

/** Range in which the hits rise most: where their time is read. */
export function rangeOfHits({ mean }: HitModel): { lowHz: number; highHz: number } {
  let best = 0;
  for (let band = 1; band < HIT_BANDS_HZ.length - 1; band++) {
    if (mean[3 * band + 1] > mean[3 * best + 1]) best = band;
  }
  return { lowHz: HIT_BANDS_HZ[best], highHz: HIT_BANDS_HZ[best + 1] };
}

/** Others that a model keeps. */
export const MOST_OTHERS = 16;
const row = (numbers: Iterable<number>, digits: number) =>
  Array.from(numbers, (value) => String(Number(value.toFixed(digits)))).join(",");

/** A model as text, as it stands in scenes. */
export const writeHitModel = ({ line, mean, spread, others, sizes }: HitModel): string =>
  [
    row([line.bias, ...sizes], 4),
    row(line.weights, 4),
    row(mean, 1),
    row(spread, 1),
    ...others.map((other) => row(other, 0)),
  ].join(";");

/** @throws RangeError for a text that {@link writeHitModel} has not written */
export function readHitModel(text: string): HitModel {
  const [head, weights, mean, spread, ...others] = text
    .split(";")
    .map((numbers) => Float64Array.from(numbers.split(","), Number));
  const rows = [weights, mean, spread, ...others];
  if (
    head?.length !== 3 ||
    others.length < 1 ||
    others.length > MOST_OTHERS ||
    rows.some((one) => one?.length !== HIT_FEATURES || one.some((value) => !Number.isFinite(value))) ||
    head.some((value) => !Number.isFinite(value)) ||
    spread.some((value) => value <= 0) ||
    !(head[1] > 0 && head[2] > 0)
  ) {
    throw new RangeError("what was learnt of these hits is damaged: mark some of them and catch them again");
  }
  return { line: { weights, bias: head[0] }, mean, spread, others, sizes: [head[1], head[2]] };
}
