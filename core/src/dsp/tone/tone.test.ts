import { describe, expect, it } from "@jest/globals";
import { RealFft } from "../spectrum/fft";
import { noteToHz } from "./note";
import { makeNoise, makeTone, NOISE_KINDS, sweepHz, TONE_KINDS } from "./tone";

const RATE = 48_000;
const SIZE = 16_384;
/** A frequency of exactly this many cycles in `SIZE` samples: near 1 kHz, and no divisor of the sample rate. */
const CYCLES = 341;

function powersOf(samples: Float32Array, size = SIZE): Float64Array {
  const fft = new RealFft(size);
  const re = new Float64Array(fft.binCount);
  const im = new Float64Array(fft.binCount);
  fft.forward(samples, re, im);
  return re.map((x, k) => x * x + im[k] * im[k]);
}

describe("makeTone", () => {
  it.each(["triangle", "square", "sawtooth"] as const)(
    "makes a %s of its own harmonics with aliases below −60 dB",
    (kind) => {
      const powers = powersOf(makeTone(kind, (CYCLES * RATE) / SIZE, SIZE));
      const fundamental = powers[CYCLES];
      let worst = 0;
      powers.forEach((power, bin) => {
        if (bin % CYCLES !== 0) worst = Math.max(worst, power);
      });
      expect(10 * Math.log10(worst / fundamental)).toBeLessThan(-60);
      // Fourier series: a sawtooth falls as 1/n, a square as 1/n over odd n, a triangle as 1/n² over odd n.
      for (const n of [2, 3, 5, 8, 15]) {
        const isOdd = n % 2 === 1;
        const ideal = kind === "sawtooth" ? 1 / n : isOdd ? (kind === "square" ? 1 / n : 1 / n ** 2) : 0;
        const level = Math.sqrt(powers[CYCLES * n] / fundamental);
        expect(Math.abs(level - ideal)).toBeLessThan(ideal === 0 ? 1e-4 : ideal * 0.01);
      }
    },
  );

  it.each(["square", "sawtooth"] as const)("sweeps with a %s without clicks", (kind) => {
    // About 512 Hz four cycles are 375 samples; there a harmonic reaches the limit and goes.
    const tone = makeTone(kind, { fromHz: 511.9, toHz: 512.1, sweep: "linear" }, 4 * RATE);
    let most = 0;
    for (let i = 1.9 * RATE; i < 2.1 * RATE; i++) most = Math.max(most, Math.abs(tone[i + 375] - tone[i]));
    expect(most).toBeLessThan(0.03);
  });

  it("makes a sine of its level, and nothing else", () => {
    const tone = makeTone("sine", (CYCLES * RATE) / SIZE, SIZE, 0.25);
    const powers = powersOf(tone);
    const rest = powers.reduce((sum, power, bin) => (bin === CYCLES ? sum : sum + power), 0);
    expect(10 * Math.log10(rest / powers[CYCLES])).toBeLessThan(-100);
    expect(Math.max(...tone)).toBeCloseTo(0.25, 5);
  });

  it("sweeps through the frequencies it says, without a jump", () => {
    for (const sweep of ["linear", "logarithmic"] as const) {
      const tone = makeTone("sine", { fromHz: 100, toHz: 1600, sweep }, 10 * RATE);
      for (const share of [0.1, 0.5, 0.9]) {
        const from = Math.round(share * tone.length);
        let crossings = 0;
        for (let i = from - 12_000; i < from + 12_000; i++) if (tone[i - 1] < 0 && tone[i] >= 0) crossings++;
        const expected = sweepHz({ fromHz: 100, toHz: 1600, sweep }, share) * 0.5;
        expect(Math.abs(crossings / expected - 1)).toBeLessThan(0.03);
      }
      let step = 0;
      for (let i = 1; i < tone.length; i++) step = Math.max(step, Math.abs(tone[i] - tone[i - 1]));
      expect(step).toBeLessThan((2 * Math.PI * 1601) / RATE);
    }
  });

  it.each(TONE_KINDS)("peaks with a %s at its level, whatever its pitch", (kind) => {
    for (const hz of [5, 16, 440, 3001, 7999, 23_999]) {
      const tone = makeTone(kind, hz, 48_000, 0.5);
      const peak = tone.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
      expect(peak).toBeLessThanOrEqual(0.5 + 1e-6);
      // A narrow peak may lie between two samples.
      expect(peak).toBeGreaterThan(0.48);
    }
    expect(() => makeTone(kind, 24_000, 10)).toThrow(/below 24000/);
    expect(() => makeTone(kind, Number.NaN, 10)).toThrow(RangeError);
  });
});

describe("makeNoise", () => {
  const OCTAVES = [63, 125, 250, 500, 1000, 2000, 4000, 8000];
  /** Mean power density of an octave about each centre, in dB. */
  function densities(noise: Float32Array): number[] {
    const size = 8192;
    const sums = new Float64Array(size / 2 + 1);
    for (let at = 0; at + size <= noise.length; at += size / 2) {
      const windowed = Float32Array.from(
        { length: size },
        (_, i) => noise[at + i] * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size)),
      );
      powersOf(windowed, size).forEach((power, bin) => {
        sums[bin] += power;
      });
    }
    return OCTAVES.map((centre) => {
      const from = Math.round((centre / Math.SQRT2 / RATE) * size);
      const to = Math.round(((centre * Math.SQRT2) / RATE) * size);
      let sum = 0;
      for (let bin = from; bin < to; bin++) sum += sums[bin];
      return 10 * Math.log10(sum / (to - from));
    });
  }

  it.each([
    ["white", 0],
    ["pink", -3.0103],
    ["brown", -6.0206],
  ] as const)("falls from octave to octave: %s by %d dB", (kind, slope) => {
    const levels = densities(makeNoise(kind, 60 * RATE, 3));
    // Least squares over all octaves.
    const mean = levels.reduce((a, b) => a + b, 0) / levels.length;
    const middle = (levels.length - 1) / 2;
    let [above, below] = [0, 0];
    levels.forEach((level, i) => {
      above += (i - middle) * (level - mean);
      below += (i - middle) ** 2;
    });
    expect(Math.abs(above / below - slope)).toBeLessThan(0.1);
    for (let i = 1; i < levels.length; i++)
      expect(Math.abs(levels[i] - levels[i - 1] - slope)).toBeLessThan(0.5);
  });

  it.each(NOISE_KINDS)("makes the same %s from the same seed, inside full scale", (kind) => {
    const noise = makeNoise(kind, RATE, 11);
    expect(makeNoise(kind, RATE, 11)).toEqual(noise);
    expect(makeNoise(kind, RATE, 12)).not.toEqual(noise);
    expect(noise.every((x) => Math.abs(x) <= 1)).toBe(true);
    const mean = noise.reduce((sum, x) => sum + x, 0) / noise.length;
    expect(Math.abs(mean)).toBeLessThan(0.05);
    expect(makeNoise(kind, 0, 1)).toHaveLength(0);
  });
});

describe("noteToHz", () => {
  it.each([
    ["A4", 440],
    ["a4", 440],
    ["C4", 261.6256],
    ["C#4", 277.1826],
    ["Db4", 277.1826],
    ["B♭3", 233.0819],
    ["C-1", 8.1758],
  ])("reads %s", (text, hz) => expect(noteToHz(text)).toBeCloseTo(hz, 3));

  it.each(["H4", "A", "440", "", "A#", "A44x"])("does not take %j for a note", (text) => {
    expect(noteToHz(text)).toBeUndefined();
  });
});
