import { describe, expect, it } from "@jest/globals";
import { seededRandom } from "../maths/random";
import type { PeriodCandidates } from "./pitch";
import { PitchPath } from "./pitchPath";

const frameOf = (...all: [lag: number, depth: number, probability: number][]): PeriodCandidates => ({
  count: all.length,
  lags: Float64Array.from(all, ([lag]) => lag),
  depths: Float64Array.from(all, ([, depth]) => depth),
  probabilities: Float64Array.from(all, ([, , probability]) => probability),
});
const lagsOf = (frames: readonly PeriodCandidates[]) => {
  const path = new PitchPath(frames.length);
  for (const frame of frames) path.push(frame);
  return path.whole().map(({ lag }) => lag);
};
const lagsSoFar = (frames: readonly PeriodCandidates[]) => {
  const path = new PitchPath(1);
  return frames.map((frame) => {
    path.push(frame);
    return path.newest().lag;
  });
};
const repeat = (count: number, frame: PeriodCandidates) => Array.from({ length: count }, () => frame);

/** How likely a way through states is, 6 for no pitch, by the model as it is described. */
function logLikely(frames: readonly PeriodCandidates[], states: readonly number[]): number {
  let sum = 0;
  states.forEach((state, frame) => {
    const { count, depths, lags, probabilities } = frames[frame];
    const clearest = Math.min(1, ...depths.subarray(0, count));
    sum += Math.log(Math.max(1e-4, state === 6 ? clearest : (1 - clearest) * probabilities[state]));
    if (frame === 0) return;
    const before = states[frame - 1];
    if ((before === 6) !== (state === 6)) sum += Math.log(0.01);
    else if (state === 6) sum += Math.log(0.99);
    else {
      const cents = Math.abs(1200 * Math.log2(frames[frame - 1].lags[before] / lags[state]));
      sum += Math.log(0.99 * Math.max(1e-4, 1 - cents / 80));
    }
  });
  return sum;
}

describe("PitchPath", () => {
  const clear = frameOf([100, 0.3, 0.1], [200, 0.02, 0.9]);
  const fooled = frameOf([100, 0.05, 0.8], [200, 0.02, 0.2]);

  it("keeps its octave through frames that prefer another", () => {
    const frames = [...repeat(10, clear), ...repeat(3, fooled), ...repeat(10, clear)];
    expect(lagsOf(frames)).toEqual(frames.map(() => 200));
    expect(lagsSoFar(frames)).toEqual(frames.map(() => 200));
  });

  it("takes a new note at its first frame over a whole sound, and soon after it so far", () => {
    const high = frameOf([100, 0.02, 0.95], [200, 0.01, 0.05]);
    const frames = [...repeat(12, clear), ...repeat(12, high)];
    expect(lagsOf(frames)).toEqual([...Array(12).fill(200), ...Array(12).fill(100)]);
    const soFar = lagsSoFar(frames);
    expect(soFar.slice(0, 12)).toEqual(Array(12).fill(200));
    expect(soFar.slice(15)).toEqual(Array(9).fill(100));
  });

  it("begins afresh after a stretch without a pitch, where each frame has its own likeliest", () => {
    const noise = frameOf([150, 0.7, 0.6], [310, 0.6, 0.4]);
    const other = frameOf([133, 0.02, 0.6], [266, 0.01, 0.4]);
    expect(lagsOf([...repeat(5, clear), ...repeat(20, noise), ...repeat(5, other)])).toEqual([
      ...Array(5).fill(200),
      ...Array(20).fill(150),
      ...Array(5).fill(133),
    ]);
  });

  it("finds the way that is likeliest of all", () => {
    const random = seededRandom(8);
    for (let round = 0; round < 12; round++) {
      const frames = Array.from({ length: 6 }, () => {
        const cut = random();
        const least = random() ** 3;
        return frameOf([100 + 4 * random(), least + 0.1, cut], [200 + 8 * random(), least, 1 - cut]);
      });
      let [best, most] = [[0], Number.NEGATIVE_INFINITY];
      for (let code = 0; code < 3 ** 6; code++) {
        const states = frames.map((_frame, i) => [0, 1, 6][Math.floor(code / 3 ** i) % 3]);
        const likely = logLikely(frames, states);
        if (likely > most) [best, most] = [states, likely];
      }
      const path = new PitchPath(6);
      for (const frame of frames) path.push(frame);
      const meant = best.map((state, i) => {
        const { lags, probabilities } = frames[i];
        return lags[state === 6 ? Number(probabilities[1] > probabilities[0]) : state];
      });
      path.whole().forEach(({ lag }, i) => {
        expect(lag).toBeCloseTo(meant[i], 4);
      });
    }
  });

  it("gives nothing in silence and before the first frame of it", () => {
    expect(lagsOf(repeat(4, frameOf()))).toEqual([0, 0, 0, 0]);
    expect(new PitchPath(0).whole()).toEqual([]);
  });
});
