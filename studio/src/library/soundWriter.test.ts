import { waveformPairs } from "@bumbrel/core/dsp/level/overview";
import { resample } from "@bumbrel/core/dsp/maths/resample";
import { makeNoise } from "@bumbrel/core/dsp/tone/tone";
import { describeSound, readProjectSound } from "@bumbrel/core/format/samples/sound";
import { casesOf } from "@bumbrel/core/testing/full";
import { describe, expect, it } from "@jest/globals";
import { SoundWriter } from "./soundWriter";

const samples = makeNoise("pink", 300_000, 8, 0.7);
const push = (writer: SoundWriter, size: number) => {
  for (let at = 0; at < samples.length; at += size) writer.push([samples.subarray(at, at + size)]);
  return writer.end();
};

describe("SoundWriter", () => {
  it.each(casesOf([977, 100_000, 300_000], 1))(
    "writes the sound at 48 kHz, whatever the blocks (%d)",
    async (size) => {
      const pairs: number[] = [];
      const { facts, wav } = push(new SoundWriter(1, 44_100, (part) => pairs.push(...part)), size);
      const [channel] = readProjectSound(new Uint8Array(await wav.arrayBuffer())).channels;
      const whole = resample(samples, 44_100);
      expect(channel).toEqual(whole);
      expect(facts.durationS).toBeCloseTo(300_000 / 44_100, 3);
      expect(facts.peak).toBe(describeSound({ channels: [whole], originalRateHz: 44_100 }).peak);
      expect(Float32Array.from(pairs)).toEqual(waveformPairs(whole));
    },
  );

  it("describes sounds that are stored as they came without writing them", () => {
    const { facts, wav } = push(new SoundWriter(1, 48_000, () => {}, false), 5000);
    expect(wav.size).toBe(0);
    expect(facts.originalRateHz).toBe(48_000);
  });

  it("refuses a sound without samples", () => {
    expect(() => new SoundWriter(2, 48_000).end()).toThrow("no samples");
  });
});
