import { execFileSync } from "node:child_process";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { RealFft } from "./fft";
import { FFT_MODULE } from "./fftModule";

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
  it("runs the module that its source compiles to", () => {
    const print =
      'import { fftModule } from "./tools/build/wasm.mjs"; process.stdout.write(await fftModule());';
    const compiled = execFileSync(process.execPath, ["--input-type=module", "-e", print], {
      encoding: "utf8",
    });
    expect(compiled).toContain(FFT_MODULE);
  });

  it.each([32, 64, 128, 256, 512, 1024, 2048])("agrees with the definition at %i points", (size) => {
    const input = Array.from({ length: size }, (_, i) => Math.sin(i * 1.7) + Math.cos(i * i * 0.013) - 0.3);
    const truth = bruteForce(input);
    const { re, im } = transform(input);
    for (let k = 0; k <= size / 2; k++) {
      expect(Math.abs(re[k] - truth.re[k])).toBeLessThan(3e-7 * size);
      expect(Math.abs(im[k] - truth.im[k])).toBeLessThan(3e-7 * size);
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
          expect(binEnergy / 64).toBeCloseTo(timeEnergy, 4);
        },
      ),
    );
  });

  it("gives the powers of a windowed frame wherever it lies, with silence around the sound", () => {
    for (const size of [512, 2048]) {
      const samples = Float32Array.from({ length: 700 }, (_, i) => Math.sin(i * i * 0.001));
      const window = Float64Array.from({ length: size }, (_, i) => 0.2 + (i % 7) / 10);
      const fft = new RealFft(size, window);
      for (const first of [5, -200, 600, -5000]) {
        const frame = Array.from(window, (weight, i) => weight * (samples[first + i] ?? 0));
        const { re, im } = bruteForce(frame);
        const powers = fft.power(samples, first, 2);
        for (let k = 0; k < fft.binCount; k += 13) {
          const c = k === 0 || k === size / 2 ? 1 : 2;
          const expected = c * (re[k] ** 2 + im[k] ** 2);
          expect(Math.abs(powers[k] - expected)).toBeLessThan(1e-5 * Math.max(1, expected));
        }
      }
    }
  });

  it.each([0, 4, 16, 1000, 32.5, Number.NaN])("refuses a size of %d", (size) => {
    expect(() => new RealFft(size)).toThrow(RangeError);
  });
});
