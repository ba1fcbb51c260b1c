import { describe, expect, it } from "@jest/globals";
import { HOP_SAMPLES } from "../../constants";
import { PART_DELAY, PART_DELAY_HOPS } from "../maths/measureWindows";
import { makeNoise } from "../tone/tone";
import { PartsSplitter } from "./partsSplitter";

const tone = (count: number) =>
  Float32Array.from({ length: count }, (_none, i) => 0.3 * Math.sin((2 * Math.PI * 700 * i) / 48_000));
/** Short bursts of noise, ten a second apart by half a second. */
function bursts(count: number): Float32Array {
  const noise = makeNoise("white", count, 5, 0.5);
  return noise.map((x, i) => ((i + 7000) % 24_000 < 480 ? x : 0));
}
function split(samples: Float32Array) {
  const splitter = new PartsSplitter();
  const parts = { percussive: new Float32Array(samples.length), harmonic: new Float32Array(samples.length) };
  for (let at = 0; at < samples.length; at += HOP_SAMPLES) {
    const hop = (all: Float32Array) => all.subarray(at, at + HOP_SAMPLES);
    splitter.push(hop(samples), hop(parts.percussive), hop(parts.harmonic));
  }
  return parts;
}
const power = (all: Float32Array) => all.reduce((sum, x) => sum + x * x, 0);
const db = (ratio: number) => 10 * Math.log10(ratio);

describe("PartsSplitter", () => {
  const count = HOP_SAMPLES * 400;

  it("gives parts that add up to the sound, as late as it says", () => {
    const samples = makeNoise("pink", count, 2, 0.4);
    const { percussive, harmonic } = split(samples);
    expect(PART_DELAY).toBe(PART_DELAY_HOPS * HOP_SAMPLES);
    for (let i = 0; i < count; i += 7)
      expect(percussive[i] + harmonic[i]).toBeCloseTo(i < PART_DELAY ? 0 : samples[i - PART_DELAY], 6);
  });

  it("puts bursts of noise into the percussive part and a tone into the harmonic part, mixed or alone", () => {
    const [struck, lasting] = [bursts(count), tone(count)];
    const { percussive, harmonic } = split(struck.map((x, i) => x + lasting[i]));
    const off = (part: Float32Array, meant: Float32Array) =>
      power(part.subarray(24_000, count - 24_000).map((x, i) => x - meant[i + 24_000 - PART_DELAY]));
    expect(db(off(percussive, struck) / power(struck))).toBeLessThan(-8);
    expect(db(off(harmonic, lasting) / power(lasting))).toBeLessThan(-15);
    expect(db(power(split(struck).harmonic) / power(struck))).toBeLessThan(-12);
    expect(db(power(split(lasting).percussive.subarray(48_000)) / power(lasting))).toBeLessThan(-30);
  });

  it("keeps silence silent", () => {
    const { percussive, harmonic } = split(new Float32Array(count));
    expect(percussive.every((x) => x === 0) && harmonic.every((x) => x === 0)).toBe(true);
  });
});
