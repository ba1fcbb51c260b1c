import { describe, expect, it } from "@jest/globals";
import { seededRandom } from "../maths/random";
import { PitchFinder } from "./pitch";

/** A tone whose harmonics have given strengths, with white noise so many dB below it. */
function rich(
  hzAt: (timeS: number) => number,
  strengths: readonly number[],
  noiseDb: number,
  seed: number,
  seconds = 0.3,
): Float32Array {
  const random = seededRandom(seed);
  const samples = new Float32Array(Math.round(48_000 * seconds));
  const starts = strengths.map(() => 2 * Math.PI * random());
  let phase = 0;
  let energy = 0;
  for (let i = 0; i < samples.length; i++) {
    const hz = hzAt(i / 48_000);
    strengths.forEach((strength, k) => {
      if ((k + 1) * hz < 20_000) samples[i] += 0.1 * strength * Math.sin((k + 1) * phase + starts[k]);
    });
    energy += samples[i] ** 2;
    phase += (2 * Math.PI * hz) / 48_000;
  }
  const deviation = Math.sqrt(energy / samples.length) * 10 ** (-noiseDb / 20);
  // Twelve even numbers add up to nearly a normal one.
  for (let i = 0; i < samples.length; i++) {
    let sum = -6;
    for (let k = 0; k < 12; k++) sum += random();
    samples[i] += deviation * sum;
  }
  return samples;
}

const cents = (found: number, meant: number) => Math.abs(1200 * Math.log2(found / meant));
/** The pitch of a frame by itself: its likeliest candidate. */
function pitchAt(finder: PitchFinder, samples: Float32Array, centre: number) {
  finder.moveTo(samples, centre);
  const { count, lags, depths, probabilities } = finder.candidates();
  if (count === 0) return { hz: 0, certainty: 0 };
  const best = [...probabilities.subarray(0, count)].reduce(
    (most, one, i, all) => (one > all[most] ? i : most),
    0,
  );
  return { hz: finder.refinedHz(lags[best]), certainty: 1 - depths[best] };
}

const INSTANTS = [5000, 7200, 9400];

describe("PitchFinder", () => {
  it("stays in its octave where the second harmonic outweighs the fundamental", () => {
    const finder = new PitchFinder(30, 3000);
    const strengths = Array.from({ length: 16 }, (_none, k) => (k === 0 ? 0.1 : 1 / (k + 1)));
    for (let hz = 1000; hz <= 1500; hz += 12.5) {
      const samples = rich(() => hz, strengths, 60, hz);
      for (const at of INSTANTS) expect(cents(pitchAt(finder, samples, at).hz, hz)).toBeLessThan(1);
    }
  });

  it.each([
    [30, 3000],
    [60, 1500],
  ])(
    "is within 5 cents on any balance of harmonics, 20 dB over noise, looked for from %d to %d Hz",
    (low, high) => {
      const finder = new PitchFinder(low, high);
      const random = seededRandom(low);
      const lowest = Math.max(40, 1.3 * low);
      for (let round = 0; round < 60; round++) {
        const hz = lowest * ((0.99 * high) / lowest) ** random();
        const strengths = Array.from({ length: 12 }, (_none, k) =>
          k === 0 ? 0.1 + 0.9 * random() : random() / Math.sqrt(k + 1),
        );
        const samples = rich(() => hz, strengths, 20, 1000 + round);
        for (const at of INSTANTS) {
          const found = pitchAt(finder, samples, at);
          expect(cents(found.hz, hz)).toBeLessThan(5);
          expect(found.certainty).toBeGreaterThan(0.8);
        }
      }
    },
  );

  it.each([110, 440, 880])("follows a vibrato and a glide about %d Hz at the very instant", (hz) => {
    const finder = new PitchFinder(60, 1500);
    const strengths = [1, 0.6, 0.4, 0.3, 0.2, 0.1];
    const ways = [
      (timeS: number) => hz * 2 ** ((50 / 1200) * Math.sin(2 * Math.PI * 5.5 * timeS)),
      (timeS: number) => hz * 2 ** (timeS - 0.5),
    ];
    for (const way of ways) {
      const samples = rich(way, strengths, 20, hz, 1);
      for (let at = 9600; at < 38_400; at += 480)
        expect(cents(pitchAt(finder, samples, at).hz, way(at / 48_000))).toBeLessThan(5);
    }
  });

  it("finds none in silence, and reads silence before the beginning", () => {
    const finder = new PitchFinder(60, 1500);
    expect(pitchAt(finder, new Float32Array(4800), 2400)).toEqual({ hz: 0, certainty: 0 });
    const samples = rich(() => 300, [1], 60, 3);
    expect(pitchAt(finder, samples, -5000)).toEqual({ hz: 0, certainty: 0 });
    expect(cents(pitchAt(finder, samples, 1000).hz, 300)).toBeLessThan(20);
  });

  it("gives candidates whose probabilities add up to 1, the shortest first and each deeper than those before", () => {
    const finder = new PitchFinder(60, 1500);
    const random = seededRandom(5);
    const noise = new Float32Array(9600).map(() => random() - 0.5);
    for (const samples of [noise, rich(() => 1400, [0.3, 1, 0.2, 0.6], 10, 2)])
      for (const at of INSTANTS) {
        finder.moveTo(samples, at);
        const { count, lags, depths, probabilities } = finder.candidates();
        expect(count).toBeGreaterThan(0);
        const sum = probabilities.subarray(0, count).reduce((before, one) => before + one, 0);
        expect(sum).toBeGreaterThan(0.9);
        expect(sum).toBeLessThanOrEqual(1 + 1e-9);
        for (let i = 1; i < count; i++) {
          expect(lags[i]).toBeGreaterThan(lags[i - 1]);
          expect(depths[i]).toBeLessThan(depths[i - 1]);
        }
      }
  });

  it("refuses a range that is upside down or too wide", () => {
    for (const [low, high] of [
      [500, 400],
      [20, 400],
      [100, 4000],
    ])
      expect(() => new PitchFinder(low, high)).toThrow("a pitch needs 30 ≤ low < high ≤ 3000 Hz");
  });
});
