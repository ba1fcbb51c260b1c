import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { RealFft } from "./fft";

/** The definition, term by term. */
function bruteForce(input: number[]): { re: number[]; im: number[] } {
  const n = input.length;
  const re: number[] = [];
  const im: number[] = [];
  for (let k = 0; k <= n / 2; k++) {
    let sumR = 0;
    let sumI = 0;
    for (let i = 0; i < n; i++) {
      const angle = (-2 * Math.PI * ((k * i) % n)) / n;
      sumR += input[i] * Math.cos(angle);
      sumI += input[i] * Math.sin(angle);
    }
    re.push(sumR);
    im.push(sumI);
  }
  return { re, im };
}

function transform(input: number[]): { re: Float64Array; im: Float64Array } {
  const fft = new RealFft(input.length);
  const re = new Float64Array(fft.binCount);
  const im = new Float64Array(fft.binCount);
  fft.forward(input, re, im);
  return { re, im };
}

describe("RealFft", () => {
  it.each([8, 16, 32, 64, 128, 256, 512, 1024, 2048])("agrees with the definition at %i points", (size) => {
    const input = Array.from({ length: size }, (_, i) => Math.sin(i * 1.7) + Math.cos(i * i * 0.013) - 0.3);
    const truth = bruteForce(input);
    const { re, im } = transform(input);
    for (let k = 0; k <= size / 2; k++) {
      expect(Math.abs(re[k] - truth.re[k])).toBeLessThan(1e-9 * size);
      expect(Math.abs(im[k] - truth.im[k])).toBeLessThan(1e-9 * size);
    }
  });

  it("keeps energy (Parseval) for any input", () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 64, maxLength: 64 }),
        (input) => {
          const { re, im } = transform(input);
          const timeEnergy = input.reduce((sum, x) => sum + x * x, 0);
          let binEnergy = 0;
          for (let k = 0; k <= 32; k++) binEnergy += (k % 32 === 0 ? 1 : 2) * (re[k] ** 2 + im[k] ** 2);
          expect(binEnergy / 64).toBeCloseTo(timeEnergy, 9);
        },
      ),
    );
  });

  it("gives the same powers in one go as from the parts", () => {
    for (const size of [1024, 2048]) {
      const fft = new RealFft(size);
      const samples = Float32Array.from({ length: size + 10 }, (_, i) => Math.sin(i * i * 0.001));
      const window = Float64Array.from({ length: size }, (_, i) => 0.2 + (i % 7) / 10);
      const re = new Float64Array(fft.binCount);
      const im = new Float64Array(fft.binCount);
      fft.forward(
        Array.from(window, (weight, i) => weight * samples[i + 5]),
        re,
        im,
      );
      const out = new Float64Array(fft.binCount + 3);
      fft.power(samples, 5, window, 2, out, 3);
      for (let k = 0; k < fft.binCount; k++) {
        const c = k === 0 || k === size / 2 ? 1 : 2;
        expect(out[k + 3]).toBeCloseTo(c * (re[k] ** 2 + im[k] ** 2), 6);
      }
    }
  });

  it("gives the same powers, bit for bit, when only some bins are wanted", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 256 }), fc.integer({ min: 0, max: 256 }), (a, b) => {
        const fft = new RealFft(512);
        const samples = Float32Array.from({ length: 512 }, (_, i) => Math.sin(i * i * 0.003));
        const window = new Float64Array(512).fill(1);
        const all = new Float64Array(257);
        const some = new Float64Array(257);
        fft.power(samples, 0, window, 2, all, 0);
        const [first, last] = [Math.min(a, b), Math.max(a, b)];
        fft.power(samples, 0, window, 2, some, 0, first, last);
        expect(some.subarray(first, last + 1)).toEqual(all.subarray(first, last + 1));
      }),
    );
  });

  it.each([0, 4, 12, 1000, 8.5, Number.NaN])("refuses a size of %d", (size) => {
    expect(() => new RealFft(size)).toThrow(RangeError);
  });
});
