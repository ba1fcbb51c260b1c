import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { analyseStrand } from "../analyse/strandAnalysis";
import { FFT_SIZES, frameCount, SAMPLE_RATE_HZ } from "../constants";
import { mixToMono } from "../dsp/level/mix";
import { CachedSpectra, DirectSpectra } from "./hearing/spectra";
import { MEASURES, type Measure, measureSound } from "./measures/table";
import { fitWindow } from "./shape/fit";
import { follower } from "./shape/follow";
import { changeShaping, defaultShaping, type Shaping, type ShapingChange, shape } from "./shape/shaping";
import { trackValueAt } from "./track";

const only = (changes: ShapingChange): Shaping => {
  const shaping = defaultShaping();
  shaping.gain.on = shaping.window.on = shaping.follow.on = shaping.clamp.on = false;
  changeShaping(shaping, changes);
  return shaping;
};
const round = (values: Float32Array) => [...values].map((x) => Math.round(x * 1e5) / 1e5);

describe("shaping", () => {
  it("maps floor to 0 and floor plus range to 1, evenly in dB, silence to 0", () => {
    const window = { on: true, floorDb: -60, rangeDb: 40 };
    expect(round(shape(Float32Array.of(0, 0.001, 0.01, 0.1, 1), only({ window })))).toEqual([
      0, 0, 0.5, 1, 1.5,
    ]);
    expect(round(shape(Float32Array.of(1), only({ window, clamp: { on: true } })))).toEqual([1]);
  });

  it("applies gain before the window", () => {
    const shaped = shape(
      Float32Array.of(0.01),
      only({ gain: { on: true, db: 20 }, window: { on: true, floorDb: -60, rangeDb: 60 } }),
    );
    expect(round(shaped)).toEqual([0.66667]);
  });

  it("passes levels through when every step is off", () => {
    expect(round(shape(Float32Array.of(0.25, 3), only({})))).toEqual([0.25, 3]);
  });

  it("covers 63 % of a rise in the attack time and of a fall in the release time", () => {
    const values = new Float32Array(100).fill(1, 0, 50);
    const out = new Float32Array(100);
    const slow = follower(50, 200);
    values.forEach((value, i) => {
      out[i] = slow(value);
    });
    expect(out[4]).toBeCloseTo(1 - Math.exp(-1), 6);
    expect(out[49]).toBeCloseTo(1 - Math.exp(-10), 6);
    expect(out[69]).toBeCloseTo(out[49] * Math.exp(-1), 6);
    expect(values.map(follower(0, 0))).toEqual(values);
    expect(() => follower(-1, 0)).toThrow(RangeError);
    expect(() => follower(0, Number.POSITIVE_INFINITY)).toThrow(RangeError);
  });

  it("never leaves 0..1 and never gives NaN, whatever comes in", () => {
    const hostile = fc.oneof(
      fc.double({ min: -2, max: 2, noNaN: true }),
      fc.constantFrom(Number.NaN, Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 1e-310, 3e38, -0),
    );
    fc.assert(
      fc.property(
        fc.array(hostile, { minLength: 1, maxLength: 1200 }),
        fc.constantFrom<Measure>(MEASURES.peak.defaults, MEASURES.band.defaults),
        fc.record({
          gain: fc.double({ min: -40, max: 60, noNaN: true }),
          floor: fc.double({ min: -120, max: 0, noNaN: true }),
          range: fc.double({ min: 0.1, max: 120, noNaN: true }),
          ms: fc.integer({ min: 0, max: 2000 }),
          windowOn: fc.boolean(),
        }),
        (input, measure, settings) => {
          const shaping = only({
            gain: { on: true, db: settings.gain },
            window: { on: settings.windowOn, floorDb: settings.floor, rangeDb: settings.range },
            follow: { on: true, attackMs: settings.ms, releaseMs: settings.ms },
            clamp: { on: true },
          });
          const { samples } = mixToMono([Float32Array.from(input)]);
          const { shaped, raw } = analyseStrand({ samples }, { measure, shaping }, new DirectSpectra());
          expect(shaped.values).toHaveLength(frameCount(input.length));
          for (const value of shaped.values) expect(value >= 0 && value <= 1).toBe(true);
          expect(raw.every(Number.isFinite)).toBe(true);
        },
      ),
    );
  });
});

describe("measures over a whole sound", () => {
  const samples = Float32Array.from({ length: SAMPLE_RATE_HZ }, (_, i) =>
    i < 24_000 ? 0 : 0.5 * Math.sin((2 * Math.PI * 1000 * i) / SAMPLE_RATE_HZ),
  );

  it("centres each frame's window on its instant", () => {
    const raw = measureSound(
      { samples },
      { ...MEASURES.band.defaults, lowHz: 500, highHz: 1500 },
      new DirectSpectra(),
    );
    expect(raw).toHaveLength(100);
    expect(raw[27]).toBe(0);
    expect(raw[80]).toBeCloseTo(0.5, 2);
    // Half of the window holds the tone at the instant it begins: half of the power, −3 dB.
    expect(raw[50]).toBeCloseTo(0.5 * Math.SQRT1_2, 2);
  });

  it("gives the same numbers, bit for bit, from kept spectra", () => {
    const cached = new CachedSpectra();
    for (const fftSize of FFT_SIZES) {
      const measure: Measure = { ...MEASURES.band.defaults, lowHz: 321.7, highHz: 4567.8, fftSize };
      const direct = measureSound({ samples }, measure, new DirectSpectra());
      expect(measureSound({ samples }, measure, cached)).toEqual(direct);
      expect(measureSound({ samples }, measure, cached)).toEqual(direct);
    }
  });

  it("still answers when spectra do not fit the budget", () => {
    const tight = new CachedSpectra(500_000);
    const measure = MEASURES.band.defaults;
    const first = measureSound({ samples }, measure, tight);
    measureSound({ samples: samples.slice() }, measure, tight);
    expect(measureSound({ samples }, measure, tight)).toEqual(first);
    expect(measureSound({ samples }, measure, new CachedSpectra(10))).toEqual(first);
  });
});

describe("fit", () => {
  it("spans the 10th to the 95th percentile of the audible frames", () => {
    const levels = Float32Array.from({ length: 1001 }, (_, i) => 10 ** ((-70 + i * 0.06) / 20));
    const withSilence = new Float32Array(3000);
    withSilence.set(levels);
    const { gain, window } = defaultShaping();
    expect(fitWindow(withSilence, { gain, window })).toEqual({ floorDb: -64, rangeDb: 51 });
    expect(fitWindow(withSilence, { gain: { on: true, db: 6 }, window })).toEqual({
      floorDb: -58,
      rangeDb: 51,
    });
    expect(fitWindow(withSilence, { gain: { on: false, db: 6 }, window })).toEqual({
      floorDb: -64,
      rangeDb: 51,
    });
  });

  it("spans the same percentiles of measures that are not in dB", () => {
    const hz = Float32Array.from({ length: 1001 }, (_, i) => (i < 500 ? 0 : 200 + i));
    const { gain, window } = defaultShaping("hz");
    expect(fitWindow(hz, { gain, window })).toEqual({ low: 750, high: 1180 });
  });

  it("has nothing to say of silence", () => {
    expect(fitWindow(new Float32Array(50), defaultShaping())).toBeUndefined();
    expect(fitWindow(new Float32Array(0), defaultShaping("hz"))).toBeUndefined();
  });
});

describe("trackValueAt", () => {
  it("is linear between frames and stays at the ends", () => {
    const track = { width: 2, values: Float32Array.of(0, 10, 1, 20, 3, 30) };
    expect(trackValueAt(track, 0.005)).toBeCloseTo(0.5, 9);
    expect(trackValueAt(track, 0.015, 1)).toBeCloseTo(25, 9);
    expect([trackValueAt(track, -1), trackValueAt(track, 9), trackValueAt(track, Number.NaN)]).toEqual([
      0, 3, 0,
    ]);
    expect(trackValueAt({ width: 1, values: new Float32Array(0) }, 1)).toBe(0);
  });
});
