import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { integratedLoudness, WeightedEnergy } from "../dsp/level/loudness";
import { Resampler, resample } from "../dsp/maths/resample";
import { makeNoise } from "../dsp/tone/tone";
import { SoundFormatError } from "../errors";
import { casesOf } from "../testing/full";
import { describeSound, SoundDescriber } from "./samples/sound";
import { openWav, readWav, WAV_ENCODINGS, wavData, wavHeader, writeWav } from "./samples/wav";

/** Cuts a sound into blocks of any sizes. */
const cuts = fc.array(fc.integer({ min: 1, max: 9000 }), { minLength: 1, maxLength: 12 });
function* blocks(length: number, sizes: number[]): Generator<[number, number]> {
  for (let at = 0, i = 0; at < length; i++) {
    const to = Math.min(length, at + sizes[i % sizes.length]);
    yield [at, to];
    at = to;
  }
}
const left = makeNoise("pink", 30_000, 3, 0.9);
const right = makeNoise("brown", 30_000, 4, 0.5);

describe("a sound that arrives in blocks", () => {
  it("is resampled to the very samples of the whole", () => {
    for (const rate of casesOf([44_100, 8000, 96_000], 1)) {
      const whole = resample(left, rate);
      fc.assert(
        fc.property(cuts, (sizes) => {
          const resampler = new Resampler(rate);
          const parts = [...blocks(left.length, sizes)].map(([a, b]) => resampler.push(left.subarray(a, b)));
          const all = [...parts, resampler.end()].flatMap((part) => [...part]);
          expect(Float32Array.from(all)).toEqual(whole);
        }),
        { numRuns: 4 },
      );
    }
  });

  it("has the facts of the whole", () => {
    const whole = describeSound({ channels: [left, right], originalRateHz: 44_100 });
    fc.assert(
      fc.property(cuts, (sizes) => {
        const describer = new SoundDescriber(2, 44_100);
        for (const [a, b] of blocks(left.length, sizes))
          describer.push([left.subarray(a, b), right.subarray(a, b)]);
        const facts = describer.facts();
        expect(facts.integratedLufs).toBeCloseTo(whole.integratedLufs!, 6);
        expect({ ...facts, integratedLufs: 0 }).toEqual({ ...whole, integratedLufs: 0 });
      }),
      { numRuns: 10 },
    );
    expect(whole.integratedLufs).toBeCloseTo(integratedLoudness([left, right]), 9);
  });

  it("has one energy a hop, a last short one counting its missing samples as silence", () => {
    const meter = new WeightedEnergy([1]);
    meter.push([left.subarray(0, 1000)]);
    expect(meter.hops).toHaveLength(2);
    meter.end();
    meter.end();
    expect(meter.hops).toHaveLength(3);
  });
});

describe("a WAV file that is read in parts", () => {
  const sourceOf = (bytes: Uint8Array) => {
    const asked: [number, number][] = [];
    const read = async (offset: number, length: number) => {
      asked.push([offset, length]);
      expect(offset + length).toBeLessThanOrEqual(bytes.length);
      return bytes.slice(offset, offset + length);
    };
    return { source: { size: bytes.length, read }, asked };
  };

  it.each(WAV_ENCODINGS)("gives the samples of the whole (%s)", async (encoding) => {
    const bytes = writeWav([left.subarray(0, 3000), right.subarray(0, 3000)], 44_100, encoding);
    const { source, asked } = sourceOf(bytes);
    const wav = await openWav(source, "quay.wav");
    expect(asked.reduce((sum, [, length]) => sum + length, 0)).toBeLessThan(100);
    const whole = readWav(bytes);
    expect([wav.sampleRateHz, wav.channelCount, wav.length]).toEqual([44_100, 2, 3000]);
    const first = await wav.read(0, 1700);
    const rest = await wav.read(1700, 9999);
    whole.channels.forEach((channel, c) => {
      expect(Float32Array.from([...first[c], ...rest[c]])).toEqual(channel);
    });
    expect((await wav.read(5000, 10))[0]).toHaveLength(0);
  });

  it("is refused as the whole is, and counts a bad sample as 0", async () => {
    const good = writeWav([left.subarray(0, 2000)], 48_000, "float32");
    await expect(openWav(sourceOf(good.subarray(0, 100)).source, "quay.wav")).rejects.toThrow(
      SoundFormatError,
    );
    await expect(openWav(sourceOf(new Uint8Array(0)).source)).rejects.toMatchObject({ code: "sound-empty" });
    new DataView(good.buffer).setFloat32(44 + 1500 * 4, Number.NaN, true);
    const wav = await openWav(sourceOf(good).source, "quay.wav");
    await expect(wav.read(0, 1000)).resolves.toHaveLength(1);
    expect(wav.badSamples).toBe(0);
    const [channel] = await wav.read(1000, 1000);
    expect([channel[500], wav.badSamples]).toEqual([0, 1]);
  });

  it("is written in parts to the same bytes", () => {
    for (const encoding of WAV_ENCODINGS) {
      const header = wavHeader(2, 1000, 48_000, encoding);
      const parts = [
        [0, 300],
        [300, 1000],
      ].map(([a, b]) => wavData([left.subarray(a, b), right.subarray(a, b)], encoding));
      const joined = Uint8Array.from([header, ...parts].flatMap((part) => [...part]));
      expect(joined).toEqual(writeWav([left.subarray(0, 1000), right.subarray(0, 1000)], 48_000, encoding));
    }
    expect(() => wavHeader(1, 2 ** 31, 48_000, "float32")).toThrow(/4 GiB/);
  });
});
