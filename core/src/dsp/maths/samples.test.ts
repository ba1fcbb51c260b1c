import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { mixToMono } from "../level/mix";
import { resample } from "./resample";
import {
  MeanSamples,
  PcmSamples,
  packSamples,
  StretchReader,
  SumSamples,
  sampleOf,
  samplesFrom,
  unpackSamples,
  WINDOW_REACH,
  windowAround,
} from "./samples";

/** Interleaved noise. */
function noise(count: number, channels: number, seed: number): Int16Array {
  let state = seed;
  return Int16Array.from({ length: count * channels }, () => {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
    return (state >> 8) - 32_768 * 128 > 0 ? (state >> 9) & 0x7fff : -((state >> 9) & 0x7fff);
  });
}
/** A channel as a whole, at 48 kHz. */
const whole = (pcm: Int16Array, channels: number, channel: number, rateHz: number) =>
  resample(
    Float32Array.from({ length: pcm.length / channels }, (_, i) => pcm[i * channels + channel] / 32_768),
    rateHz,
  );
const longOf = (pcm: Int16Array, rateHz: number) =>
  [0, 1].map((channel) => new PcmSamples(pcm, 2, channel, rateHz));

describe("long sounds' samples", () => {
  it.each([44_100, 48_000, 96_000, 22_050])(
    "are those of the whole brought to 48 kHz from %i Hz, wherever they are read",
    (rateHz) => {
      const pcm = noise(30_000, 2, 7);
      const wholes = [0, 1].map((channel) => whole(pcm, 2, channel, rateHz));
      const long = longOf(pcm, rateHz);
      const mono = new MeanSamples(long);
      const mix = mixToMono(wholes).samples;
      expect(mono.length).toBe(mix.length);
      fc.assert(
        fc.property(
          fc.integer({ min: -500, max: mix.length + 500 }),
          fc.integer({ min: 1, max: 3000 }),
          (from, count) => {
            const expected = (samples: Float32Array) =>
              Float32Array.from({ length: count }, (_, i) => samples[from + i] ?? 0);
            expect(samplesFrom(long[1], from, count)).toEqual(expected(wholes[1]));
            expect(samplesFrom(mono, from, count)).toEqual(expected(mix));
            expect(sampleOf(mono, from)).toBe(mix[from] ?? 0);
          },
        ),
        { numRuns: 30 },
      );
    },
  );

  it("stay the same on their way to another thread", () => {
    const pcm = noise(2000, 2, 3);
    const mono = new MeanSamples(longOf(pcm, 44_100));
    const sum = new SumSamples([{ samples: mono, gain: 0.5, loops: true }], 10_000);
    const arrived = unpackSamples(structuredClone(packSamples(sum)));
    expect(arrived).toHaveLength(10_000);
    expect(samplesFrom(arrived, 0, 10_000)).toEqual(samplesFrom(sum, 0, 10_000));
    const floats = Float32Array.of(1, 2, 3);
    expect(unpackSamples(packSamples(floats))).toBe(floats);
  });

  it("add up, looping ones going round", () => {
    const [a, b] = [Float32Array.of(1, 2, 3, 4), Float32Array.of(10, 20, 30)];
    const sum = new SumSamples(
      [
        { samples: a, gain: 2, loops: false },
        { samples: b, gain: 1, loops: true },
      ],
      8,
    );
    expect([...samplesFrom(sum, 0, 8)]).toEqual([12, 24, 36, 18, 20, 30, 10, 20]);
    expect([...samplesFrom(sum, 3, 3)]).toEqual([18, 20, 30]);
    expect([...samplesFrom(sum, -2, 4)]).toEqual([0, 0, 12, 24]);
    expect([...samplesFrom(sum, 6, 4)]).toEqual([10, 20, 0, 0]);
  });

  it("come in windows that reach two seconds to either side, with silence outside", () => {
    const pcm = noise(2_300_000, 2, 11);
    const [long] = longOf(pcm, 48_000);
    const all = whole(pcm, 2, 0, 48_000);
    for (const centre of [0, 1000, (1 << 20) - 1, 1 << 20, 2_200_000, 10, all.length - 1]) {
      const { samples, first } = windowAround(long, centre);
      for (const at of [-WINDOW_REACH, -1, 0, 1, WINDOW_REACH - 1]) {
        expect(samples[centre + at - first]).toBe(all[centre + at] ?? 0);
      }
    }
    expect(windowAround(all, 5)).toEqual({ samples: all, first: 0 });
  });

  it("are read in short stretches into memory that is used again", () => {
    const pcm = noise(5000, 2, 5);
    const [long] = longOf(pcm, 48_000);
    const all = whole(pcm, 2, 0, 48_000);
    const reader = new StretchReader();
    for (const [from, to] of [
      [100, 400],
      [-5, 20],
      [4990, 5010],
    ]) {
      const { samples, first } = reader.between(long, from, to);
      for (let i = from; i < to; i++) expect(samples[i - first]).toBe(all[i] ?? 0);
    }
    expect(reader.between(all, 3, 4).samples).toBe(all);
  });
});
