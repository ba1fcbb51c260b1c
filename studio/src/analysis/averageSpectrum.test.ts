import { makeTone } from "@bumbrel/core/dsp/tone/tone";
import { describe, expect, it } from "@jest/globals";
import { averageSpectrum } from "./averageSpectrum";

describe("the average spectrum", () => {
  it("has a full-scale sine at 0 dBFS in its own third octave, and half of the time 3 dB less", () => {
    const tone = makeTone("sine", 1000, 96_000);
    const { centresHz, levelsDb } = averageSpectrum(tone);
    const at = centresHz.findIndex((hz) => Math.abs(hz - 1000) < 1);
    expect(levelsDb[at]).toBeCloseTo(0, 1);
    expect(levelsDb.indexOf(Math.max(...levelsDb))).toBe(at);
    expect(levelsDb[at + 6]).toBeLessThan(-60);
    const half = Float32Array.from(tone, (x, i) => (i < 48_000 ? x : 0));
    expect(averageSpectrum(half).levelsDb[at]).toBeCloseTo(-3, 0);
  });
});
