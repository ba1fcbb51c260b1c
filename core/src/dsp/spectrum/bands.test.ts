import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { SAMPLE_RATE_HZ } from "../../constants";
import { levelToDb } from "../level/decibel";
import { bandLevel, bandPower, bandShares } from "./bands";
import { PowerSpectrum } from "./spectrum";
import { createWindow, WINDOW_NAMES } from "./window";

const tone = (hz: number, amplitude: number, length = 16_384) =>
  Float32Array.from({ length }, (_, i) => amplitude * Math.sin((2 * Math.PI * hz * i) / SAMPLE_RATE_HZ));

function levelOf(samples: Float32Array, lowHz: number, highHz: number, fftSize = 2048): number {
  const spectrum = new PowerSpectrum(fftSize, "hann");
  const powers = new Float32Array(spectrum.binCount);
  spectrum.at(samples, samples.length / 2, powers);
  return bandLevel(powers, 0, bandShares(lowHz, highHz, fftSize));
}

describe("band level", () => {
  it.each([
    [1000, 1, 0],
    [1000, 0.1, -20],
    [440, 0.5, -6.0206],
    [10_000, 0.001, -60],
    [97.3, 1, 0],
  ])("reads a sine of %d Hz and amplitude %d as %d dBFS", (hz, amplitude, db) => {
    expect(levelToDb(levelOf(tone(hz, amplitude), Math.max(0, hz - 200), hz + 200))).toBeCloseTo(db, 1);
    expect(Math.abs(levelToDb(levelOf(tone(hz, amplitude), 0, 24_000)) - db)).toBeLessThan(0.02);
  });

  it("sums to the mean square of the windowed signal", () => {
    for (const name of WINDOW_NAMES) {
      const samples = Float32Array.from({ length: 2048 }, (_, i) => Math.sin(i * i * 0.37) * 0.7);
      const window = createWindow(name, 2048);
      let weighted = 0;
      let squares = 0;
      for (let i = 0; i < 2048; i++) {
        weighted += (samples[i] * window[i]) ** 2;
        squares += window[i] ** 2;
      }
      const spectrum = new PowerSpectrum(2048, name);
      const powers = new Float64Array(spectrum.binCount);
      spectrum.at(samples, 1024, powers);
      expect(powers.reduce((sum, p) => sum + p, 0)).toBeCloseTo(weighted / squares, 7);
    }
  });

  it("counts a bin by the share of its width inside, so neighbours add up", () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 2_400_000 }), { minLength: 3, maxLength: 3 }),
        (edges) => {
          const [a, b, c] = edges.map((hundredths) => hundredths / 100).sort((x, y) => x - y);
          const powers = Float64Array.from({ length: 1025 }, (_, i) => 1 + (i % 13));
          const square = (low: number, high: number) =>
            bandLevel(powers, 0, bandShares(low, high, 2048)) ** 2;
          expect(square(a, b) + square(b, c)).toBeCloseTo(square(a, c), 6);
        },
      ),
    );
  });

  it("gives an inner bin its full share and the edges half", () => {
    expect(bandShares(0, 24_000, 512)).toEqual({
      firstBin: 0,
      lastBin: 256,
      firstShare: 0.5,
      lastShare: 0.5,
    });
    // One bin alone is 93.75 Hz wide; 40 of them are inside.
    const within = bandShares(100, 140, 512);
    expect(within).toMatchObject({ firstBin: 1, lastBin: 1, lastShare: 0 });
    expect(within.firstShare).toBeCloseTo(40 / 93.75, 12);
    const powers = Float64Array.from({ length: 257 }, (_, bin) => bin);
    expect(bandPower(powers, 0, within)).toBeCloseTo(40 / 93.75, 12);
    expect(bandPower(powers, 0, bandShares(0, 24_000, 512))).toBe((255 * 256) / 2 + 128);
  });

  it("reads silence as exactly 0", () => {
    expect(levelOf(new Float32Array(4096), 20, 20_000)).toBe(0);
    expect(levelToDb(0)).toBe(Number.NEGATIVE_INFINITY);
  });

  it("counts samples outside the sound as 0", () => {
    const spectrum = new PowerSpectrum(1024, "hann");
    const short = Float32Array.of(0.5);
    const padded = new Float32Array(4096);
    padded[2048] = 0.5;
    const a = new Float64Array(spectrum.binCount);
    const b = new Float64Array(spectrum.binCount);
    spectrum.at(short, 0, a);
    spectrum.at(padded, 2048, b);
    expect(a).toEqual(b);
    spectrum.at(short, 90_000, a);
    expect(a.every((p) => p === 0)).toBe(true);
  });

  it.each([
    [100, 100],
    [200, 100],
    [-1, 50],
    [10, 24_001],
    [Number.NaN, 50],
  ])("refuses a band from %d to %d Hz", (low, high) => {
    expect(() => bandShares(low, high, 2048)).toThrow(/0 ≤ low < high/);
  });
});

describe("windows", () => {
  it("are in periodic form: point n equals point size − n", () => {
    for (const name of WINDOW_NAMES) {
      const window = createWindow(name, 64);
      for (let n = 1; n < 64; n++) expect(window[n]).toBeCloseTo(window[64 - n], 12);
    }
  });

  it("have the coherent gain of Harris's table", () => {
    const gain = (name: (typeof WINDOW_NAMES)[number]) =>
      createWindow(name, 1024).reduce((a, b) => a + b, 0) / 1024;
    expect(gain("hann")).toBeCloseTo(0.5, 9);
    expect(gain("hamming")).toBeCloseTo(0.54, 9);
    expect(gain("blackman")).toBeCloseTo(0.42, 9);
    expect(gain("rectangular")).toBe(1);
  });
});
