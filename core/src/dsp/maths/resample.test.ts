import { describe, expect, it } from "@jest/globals";
import { resample } from "./resample";

const sine = (hz: number, rateHz: number, length: number) =>
  Float32Array.from({ length }, (_, i) => Math.sin((2 * Math.PI * hz * i) / rateHz));

const db = (ratio: number) => 20 * Math.log10(ratio);

/** Largest difference from the ideal tone, away from the ends where the filter runs out of sound. */
function worstError(out: Float32Array, hz: number, rateHz: number): number {
  let worst = 0;
  for (let i = 2000; i < out.length - 2000; i++) {
    worst = Math.max(worst, Math.abs(out[i] - Math.sin((2 * Math.PI * hz * i) / rateHz)));
  }
  return worst;
}

describe("resample", () => {
  it.each([8000, 11_025, 16_000, 22_050, 32_000, 44_100, 47_999, 88_200, 96_000, 192_000])(
    "turns a tone at %d Hz into the same tone at 48 kHz, to −80 dB",
    (rateHz) => {
      const hz = 0.35 * Math.min(rateHz, 48_000);
      const out = resample(sine(hz, rateHz, Math.round(rateHz / 4)), rateHz);
      expect(out.length).toBe(Math.ceil((Math.round(rateHz / 4) * 48_000) / rateHz));
      expect(db(worstError(out, hz, 48_000))).toBeLessThan(-80);
    },
  );

  it("lets nothing above the new Nyquist frequency through", () => {
    for (const hz of [25_000, 30_000, 40_000]) {
      const out = resample(sine(hz, 96_000, 24_000), 96_000);
      expect(db(Math.max(...out.subarray(1000, -1000).map(Math.abs)))).toBeLessThan(-90);
    }
  });

  it("keeps a constant constant and time 0 at time 0", () => {
    const flat = resample(new Float32Array(4000).fill(0.25), 44_100);
    for (let i = 500; i < flat.length - 500; i++) expect(Math.abs(flat[i] - 0.25)).toBeLessThan(1e-6);
    const click = new Float32Array(4410);
    click[441] = 1;
    const out = resample(click, 44_100);
    expect(out.indexOf(Math.max(...out))).toBe(480);
  });

  it("gives back the input when nothing changes, and copes with the shortest sounds", () => {
    const samples = Float32Array.of(0.1, 0.2);
    expect(resample(samples, 48_000)).toBe(samples);
    expect(resample(Float32Array.of(1), 8000)).toHaveLength(6);
    expect(resample(new Float32Array(0), 44_100)).toHaveLength(0);
  });

  it.each([0, -1, 44_100.5, Number.NaN])("refuses a rate of %d", (rate) => {
    expect(() => resample(new Float32Array(4), rate)).toThrow(/whole number/);
  });
});
