import { describe, expect, it } from "@jest/globals";
import { PARTS_AROUND } from "../maths/measureWindows";
import { seededRandom } from "../maths/random";
import { makeNoise, makeTone } from "../tone/tone";
import { PartsMeter, PowerHistory } from "./percussive";

const db = (level: number) => 20 * Math.log10(level);

/** Short bursts of noise every half second. */
function clicks(): Float32Array {
  const noise = makeNoise("white", 96_000, 3, 0.5);
  return noise.map((x, i) => (i % 24_000 >= 12_000 && i % 24_000 < 12_240 ? x : 0));
}

/** Both levels of all frames, and the largest of each. */
function read(samples: Float32Array) {
  const meter = new PartsMeter(100, 10_000, 2048, "hann");
  const levels = Array.from({ length: Math.floor(samples.length / 480) }, (_none, frame) => {
    meter.read(samples, frame * 480, frame);
    return [meter.percussive, meter.harmonic];
  });
  const most = (part: number) => Math.max(...levels.slice(20, -20).map((both) => both[part]));
  return { levels, percussive: most(0), harmonic: most(1) };
}

describe("PartsMeter", () => {
  it("puts a steady tone into the harmonic part, and clicks into the percussive part", () => {
    const chord = makeTone("sawtooth", 220, 96_000, 0.2);
    const lasting = read(chord);
    expect(db(lasting.percussive / lasting.harmonic)).toBeLessThan(-20);
    const struck = read(clicks());
    expect(db(struck.harmonic / struck.percussive)).toBeLessThan(-10);
  });

  it("tells both apart where they sound together", () => {
    const chord = makeTone("sawtooth", 220, 96_000, 0.2);
    const both = clicks().map((x, i) => x + chord[i]);
    const [alone, struck, mixed] = [chord, clicks(), both].map(read);
    expect(Math.abs(db(mixed.percussive / struck.percussive))).toBeLessThan(2);
    // Between the clicks the chord is what it was.
    expect(Math.abs(db(mixed.levels[50][1] / alone.levels[50][1]))).toBeLessThan(1);
    expect(db(mixed.levels[50][0] / mixed.levels[50][1])).toBeLessThan(-15);
  });

  it("keeps the power of the range: both parts add up to its level", () => {
    const noise = makeNoise("pink", 48_000, 8, 0.5);
    const { levels } = read(noise);
    const meter = new PartsMeter(100, 10_000, 2048, "hann");
    meter.read(noise, 50 * 480, 50);
    // Begun in the middle it reads the same.
    expect([meter.percussive, meter.harmonic]).toEqual(levels[50]);
    expect(levels.flat().every((level) => Number.isFinite(level))).toBe(true);
    expect(read(new Float32Array(48_000)).percussive).toBe(0);
    expect(PARTS_AROUND).toBe(8);
  });
});

describe("PowerHistory", () => {
  it("shares bins out by medians of 17 frames and of 17 bins, fewer at the ends of the spectrum", () => {
    const bins = 40;
    const random = seededRandom(3);
    const history = new PowerHistory(bins);
    // Many powers are equal, as those of silence are.
    const frames = Array.from({ length: 60 }, () =>
      Float32Array.from({ length: bins }, () => (random() < 0.3 ? 0 : Math.floor(9 * random()) / 8)),
    );
    const median = (all: number[]) => [...all].sort((a, b) => a - b)[all.length >> 1];
    frames.forEach((row, frame) => {
      history.add(frame, (powers, at) => powers.set(row, at));
      const own = frame - PARTS_AROUND;
      if (own < PARTS_AROUND) return;
      const [first, last] = own % 2 ? [0, bins - 1] : [5, 30];
      const out = new Float32Array(bins);
      history.struckShares(own, first, last, out);
      for (let bin = first; bin <= last; bin++) {
        const along = median(frames.slice(own - PARTS_AROUND, own + PARTS_AROUND + 1).map((one) => one[bin]));
        const across = median([...frames[own].slice(Math.max(0, bin - 8), bin + 9)]);
        expect(out[bin]).toBeCloseTo(along + across > 0 ? across / (along + across) : 0.5, 6);
      }
    });
  });

  it("goes on after powers that are no numbers", () => {
    const history = new PowerHistory(20);
    for (let frame = 0; frame < 60; frame++)
      history.add(frame, (powers, at) => powers.fill(frame === 20 ? Number.NaN : 1, at, at + 20));
    const out = new Float32Array(20);
    history.struckShares(50, 0, 19, out);
    expect(out.every((share) => share === 0.5)).toBe(true);
  });
});
