import { describe, expect, it } from "@jest/globals";
import { SAMPLE_RATE_HZ } from "../../constants";
import { loudestMiddleS } from "./loudest";

const tone = (seconds: number, level: (timeS: number) => number) =>
  Float32Array.from(
    { length: seconds * SAMPLE_RATE_HZ },
    (_, i) => level(i / SAMPLE_RATE_HZ) * Math.sin(i * 0.13),
  );

describe("the middle of the loudest stretch", () => {
  it("lies in the chorus, wherever that is", () => {
    for (const from of [0, 11, 30]) {
      const song = tone(40, (timeS) => (timeS >= from && timeS < from + 8 ? 0.9 : 0.1));
      expect(loudestMiddleS([song])).toBeCloseTo(from + 4, 0);
    }
  });

  it("is that of all sounds together, and the middle of short ones", () => {
    const early = tone(30, (timeS) => (timeS < 8 ? 0.4 : 0));
    const late = tone(30, (timeS) => (timeS >= 20 && timeS < 28 ? 0.5 : 0));
    expect(loudestMiddleS([early, late])).toBeCloseTo(24, 0);
    expect(loudestMiddleS([tone(4, () => 0.5)])).toBe(2);
  });

  it("is the beginning of silence and of nothing, whatever broken samples there are", () => {
    expect(loudestMiddleS([])).toBe(0);
    expect(loudestMiddleS([new Float32Array(SAMPLE_RATE_HZ * 10)])).toBe(0);
    const broken = tone(10, () => 0.5);
    broken.fill(Number.NaN, 0, 960);
    expect(Number.isFinite(loudestMiddleS([broken]))).toBe(true);
  });
});
