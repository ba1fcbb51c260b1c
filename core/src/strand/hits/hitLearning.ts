import { FRAME_RATE_HZ, frameCount, HOP_SAMPLES } from "../../constants";
import { HIT_FEATURES } from "../../dsp/hits/hitFeatures";
import { distance, type HitModel, likeness, MOST_OTHERS } from "../../dsp/hits/hitModel";
import { HitScanner } from "../../dsp/hits/hitScanner";
import { fitLogistic, scoreOf } from "../../dsp/hits/logistic";
import { type Samples, windowAround } from "../../dsp/maths/samples";
import type { Sliced } from "../../dsp/maths/slices";

/** Everything that begins in a sound. */
export interface Beginning {
  timeS: number;
  features: Float64Array;
}

/** Frames read between two chances to stop. */
const FRAMES_A_SLICE = 200;

/** Reads all that begins in a sound, in slices: at the frames at which strands of learnt hits look for them. */
export function* readBeginnings(samples: Samples): Sliced<Beginning[]> {
  const scanner = new HitScanner();
  const out: Beginning[] = [];
  const frames = frameCount(samples.length);
  for (let frame = 0; frame < frames; frame++) {
    if (frame % FRAMES_A_SLICE === 0) yield;
    const instant = frame * HOP_SAMPLES;
    const around = windowAround(samples, instant);
    const features = scanner.at(around.samples, instant - around.first, frame);
    if (features) out.push({ timeS: frame / FRAME_RATE_HZ, features: Float64Array.from(features) });
  }
  return out;
}

/** How much weights are held down. */
const RIDGE = 0.02;
/** Features differ by at least this among all that begins, in dB. */
const LEAST_SPREAD_DB = 2;
/** Prior spread of hits in dB, and the number of hits it counts for. */
const USUAL_SPREAD_DB = 4;
const USUAL_COUNTS = 3;

/**
 * Learns what tells some hits from others, from a few of each.
 *
 * @param all  everything that begins in the sound: says how features differ in it
 * @param meant  the hits, one or more
 * @param others  what is none, one or more
 */
export function learnHits(
  all: readonly Beginning[],
  meant: readonly Beginning[],
  others: readonly Beginning[],
): HitModel {
  const meanOf = (rows: readonly Beginning[]) =>
    new Float64Array(HIT_FEATURES).map(
      (_zero, k) => rows.reduce((sum, { features }) => sum + features[k], 0) / rows.length,
    );
  const squaresAround = (rows: readonly Beginning[], mean: Float64Array) =>
    mean.map((value, k) => rows.reduce((sum, { features }) => sum + (features[k] - value) ** 2, 0));
  const middle = meanOf(all);
  const size = squaresAround(all, middle).map((sum) => Math.sqrt(sum / all.length + LEAST_SPREAD_DB ** 2));
  const rows = [...meant, ...others];
  const fitted = fitLogistic(
    rows.map(({ features }) => features.map((value, k) => (value - middle[k]) / size[k])),
    rows.map((_row, i) => i < meant.length),
    RIDGE,
  );
  // The same line for features as they are.
  const weights = fitted.weights.map((weight, k) => weight / size[k]);
  const bias = fitted.bias - weights.reduce((sum, weight, k) => sum + weight * middle[k], 0);
  const mean = meanOf(meant);
  const spread = squaresAround(meant, mean).map((sum) =>
    Math.sqrt((sum + USUAL_COUNTS * USUAL_SPREAD_DB ** 2) / (meant.length + USUAL_COUNTS)),
  );
  const nearest = others
    .map(({ features }) => ({ features, off: distance(features, mean, spread) }))
    .sort((a, b) => a.off - b.off)
    .slice(0, MOST_OTHERS);
  const model: HitModel = {
    line: { weights, bias },
    mean,
    spread,
    others: nearest.map(({ features }) => features),
    sizes: [1, 1],
  };
  const usual = (votes: number[]) =>
    Math.max(1e-3, votes.map(Math.abs).sort((a, b) => a - b)[votes.length >> 1]);
  return {
    ...model,
    sizes: [
      usual(rows.map(({ features }) => scoreOf(model.line, features))),
      usual(rows.map(({ features }) => likeness(model, features))),
    ],
  };
}
