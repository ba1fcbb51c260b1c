import { describe, expect, it } from "@jest/globals";
import { HIT_LAG, HIT_SPECTRA } from "../maths/measureWindows";
import { seededRandom } from "../maths/random";
import { HIT_FEATURES, HitFeatures } from "./hitFeatures";
import {
  distance,
  type HitModel,
  likeness,
  rangeOfHits,
  readHitModel,
  scoreHit,
  writeHitModel,
} from "./hitModel";
import { fitLogistic, scoreOf } from "./logistic";

const row = (fill: (k: number) => number) =>
  Float64Array.from({ length: HIT_FEATURES }, (_none, k) => fill(k));
const model: HitModel = {
  line: { weights: row((k) => (k === 4 ? 0.1 : 0)), bias: -1 },
  mean: row((k) => (k === 22 ? 30 : -20)),
  spread: row(() => 4),
  others: [row(() => -60), row((k) => (k < 18 ? -20 : -60))],
  sizes: [1, 100],
};

describe("a model of hits", () => {
  it("is read as it was written, and refused when it is damaged", () => {
    const text = writeHitModel(model);
    expect(readHitModel(text)).toEqual(model);
    const features = row((k) => -20 + (k % 3));
    expect(scoreHit(readHitModel(text), features)).toBeCloseTo(scoreHit(model, features), 6);
    for (const damaged of [
      "x",
      text.slice(0, -200),
      text.replace("-60", "NaN"),
      text.replaceAll("4,4", "0,0"),
      `${text};1,2`,
      text.split(";").slice(0, 4).join(";"),
    ]) {
      expect(() => readHitModel(damaged)).toThrow(/damaged: mark some of them/);
    }
  });

  it("accepts onsets like the hits and rejects those like the others", () => {
    expect(likeness(model, model.mean)).toBeGreaterThan(0);
    expect(likeness(model, model.others[0])).toBeLessThan(0);
    // No single feature counts for more than four times what hits differ by.
    expect(
      distance(
        row((k) => (k === 0 ? 1000 : 0)),
        row(() => 0),
        row(() => 2),
      ),
    ).toBe(16);
  });

  it("says in which range its hits rise most", () => {
    expect(rangeOfHits(model)).toEqual({ lowHz: 1200, highHz: 2200 });
  });
});

describe("logistic regression", () => {
  it("meets the condition of its smallest cost, found by other means", () => {
    const random = seededRandom(4);
    const examples = Array.from({ length: 30 }, () =>
      Float64Array.from({ length: 3 }, () => 2 * random() - 1),
    );
    const isMeant = examples.map(([a, b]) => a + 0.5 * b + 0.4 * (random() - 0.5) > 0.3);
    const ridge = 0.05;
    const { weights, bias } = fitLogistic(examples, isMeant, ridge);
    const count = isMeant.filter(Boolean).length;
    const cost = (w: ArrayLike<number>, b: number) => {
      let sum = (ridge / 2) * Array.from(w).reduce((all, one) => all + one * one, 0);
      examples.forEach((x, i) => {
        const score = b + x.reduce((all, value, k) => all + value * w[k], 0);
        const share = isMeant[i] ? 0.5 / count : 0.5 / (30 - count);
        sum += share * Math.log(1 + Math.exp(isMeant[i] ? -score : score));
      });
      return sum;
    };
    // Its slope, by differences, is 0 in every direction.
    const at = [...weights, bias];
    at.forEach((_value, k) => {
      const moved = (by: number) => at.map((value, i) => value + (i === k ? by : 0));
      const [more, less] = [moved(1e-4), moved(-1e-4)].map((p) => cost(p.slice(0, 3), p[3]));
      expect(Math.abs(more - less) / 2e-4).toBeLessThan(1e-3);
    });
    expect(
      examples.filter((x, i) => scoreOf({ weights, bias }, x) > 0 === isMeant[i]).length,
    ).toBeGreaterThan(25);
  });
});

describe("features of hits", () => {
  /** Powers of a spectrum with one level in all bins of a range. */
  const spectrum = (fromHz: number, toHz: number, power: number) =>
    Float32Array.from({ length: HIT_SPECTRA.fftSize / 2 + 1 }, (_none, bin) => {
      const hz = (bin * 48_000) / HIT_SPECTRA.fftSize;
      return hz >= fromHz && hz < toHz ? power : 0;
    });

  it("say how loud a band gets, how much it rises, and how much is left 80 ms later", () => {
    const finder = new HitFeatures();
    const found: number[] = [];
    // From 2200 to 4000 Hz lie 76.8 bins: 0.001 in each is −8.1 dBFS, and a hundredth of it 20 dB less.
    for (let frame = 0; frame < 60; frame++) {
      const isLoud = frame >= 30 && frame < 34;
      const powers = spectrum(2000, 5000, isLoud ? 1e-3 : 1e-5);
      if (finder.push(powers, 0) && frame > 20) found.push(frame - HIT_LAG);
    }
    expect(found).toEqual([30]);
    const band = 8;
    const [peak, rise, later] = finder.features.subarray(3 * band, 3 * band + 3);
    expect(peak).toBeCloseTo(10 * Math.log10(2 * 76.8e-3), 1);
    expect(rise).toBeCloseTo(20, 6);
    expect(later).toBeCloseTo(-20, 6);
    expect([...finder.features].every(Number.isFinite)).toBe(true);
  });
});
