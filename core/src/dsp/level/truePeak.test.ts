import { describe, expect, it } from "@jest/globals";
import { truePeak } from "./truePeak";

const db = (level: number) => 20 * Math.log10(level);
/** A sine at a share of the sample rate, faded in and out: a hard start would ring. */
function sine(share: number, degrees: number, amplitude: number, length = 4800): Float32Array {
  return Float32Array.from({ length }, (_none, i) => {
    const fade = Math.min(1, i / 480, (length - 1 - i) / 480);
    return amplitude * fade * Math.sin(2 * Math.PI * share * i + (degrees * Math.PI) / 180);
  });
}
const samplePeak = (samples: Float32Array) => samples.reduce((most, one) => Math.max(most, Math.abs(one)), 0);

describe("true peak", () => {
  it("finds tops between the samples, within what EBU Tech 3341 allows: +0.2 and −0.4 dB", () => {
    // Sines at parts of the sample rate whose samples lie beside their tops; each has an amplitude of 0.5.
    for (const [share, degrees] of [
      [1 / 4, 0],
      [1 / 4, 45],
      [1 / 6, 60],
      [1 / 8, 67.5],
    ]) {
      const found = db(truePeak(sine(share, degrees, 0.5))) - db(0.5);
      expect(found).toBeLessThan(0.2);
      expect(found).toBeGreaterThan(-0.4);
    }
    // Its samples alone read three decibels less.
    expect(db(samplePeak(sine(1 / 4, 45, 0.5))) - db(0.5)).toBeCloseTo(-3.01, 1);
  });

  it("goes above full scale where samples do not", () => {
    const loud = sine(1 / 4, 45, Math.SQRT2);
    expect(samplePeak(loud)).toBeCloseTo(1, 3);
    expect(db(truePeak(loud))).toBeGreaterThan(2.6);
  });

  it("is linear, and the same both ways round", () => {
    const random = Float32Array.from({ length: 500 }, (_none, i) => Math.sin(i * i * 0.37));
    const peak = truePeak(random);
    expect(truePeak(random.map((one) => one * 0.25))).toBeCloseTo(peak / 4, 6);
    expect(truePeak(random.map((one) => -one))).toBeCloseTo(peak, 6);
    expect(truePeak([...random].reverse())).toBeCloseTo(peak, 6);
    expect(peak).toBeGreaterThanOrEqual(samplePeak(random) * 0.97);
  });

  it("is 0 for silence and for nothing, and takes bad samples for silence", () => {
    expect(truePeak([])).toBe(0);
    expect(truePeak(new Float32Array(100))).toBe(0);
    expect(truePeak([0, Number.NaN, Number.POSITIVE_INFINITY, 0])).toBe(0);
  });
});
