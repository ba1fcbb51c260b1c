import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { SoundFormatError } from "../../errors";
import { describeSound, readProjectSound } from "./sound";
import { openWav, readWav, WAV_ENCODINGS, type WavEncoding, writeWav } from "./wav";

const ramp = (length: number, offset = 0) =>
  Float32Array.from({ length }, (_, i) => Math.sin(i * 0.37 + offset) * 0.9);

/** Half a step of each encoding. */
const PRECISION: Record<WavEncoding, number> = {
  pcm8: 1 / 256,
  pcm16: 1 / 65_536,
  pcm24: 1 / 16_777_216,
  pcm32: 1e-7,
  float32: 0,
  float64: 0,
};

function refusal(bytes: Uint8Array): SoundFormatError {
  try {
    readWav(bytes, "horn.wav");
  } catch (error) {
    expect(error).toBeInstanceOf(SoundFormatError);
    return error as SoundFormatError;
  }
  throw new Error("the file was accepted");
}

/** A WAV put together by hand from chunks, so that the reader is not only tested against our writer. */
function riff(...chunks: [tag: string, body: number[]][]): Uint8Array {
  const bytes: number[] = [];
  const u32 = (n: number) => [n & 255, (n >> 8) & 255, (n >> 16) & 255, (n >>> 24) & 255];
  const text = (s: string) => [...s].map((c) => c.charCodeAt(0));
  for (const [tag, body] of chunks) {
    bytes.push(...text(tag), ...u32(body.length), ...body, ...(body.length % 2 ? [0] : []));
  }
  return Uint8Array.from([...text("RIFF"), ...u32(bytes.length + 4), ...text("WAVE"), ...bytes]);
}
const fmt = (tag: number, channels: number, rate: number, bits: number, align = (channels * bits) / 8) => [
  ...[tag & 255, tag >> 8, channels & 255, channels >> 8],
  ...[rate & 255, (rate >> 8) & 255, (rate >> 16) & 255, (rate >>> 24) & 255],
  ...[0, 0, 0, 0, align & 255, align >> 8, bits, 0],
];

describe("WAV", () => {
  for (const encoding of WAV_ENCODINGS) {
    it.each([1, 2, 3, 8])(`keeps %i channels of ${encoding}`, (count) => {
      const channels = Array.from({ length: count }, (_, c) => ramp(101, c));
      const wav = readWav(writeWav(channels, 44_100, encoding));
      expect(wav).toMatchObject({ sampleRateHz: 44_100, encoding });
      expect(wav.channels).toHaveLength(count);
      wav.channels.forEach((channel, c) => {
        channel.forEach((x, i) => {
          expect(Math.abs(x - channels[c][i])).toBeLessThanOrEqual(PRECISION[encoding]);
        });
      });
    });
  }

  it("reads bytes laid out by hand", () => {
    const wav = readWav(
      riff(
        ["JUNK", [1, 2, 3]],
        ["fmt ", fmt(1, 2, 8000, 16)],
        ["LIST", [9]],
        ["data", [0, 64, 0, 192, 255, 127, 0, 128]],
      ),
    );
    expect(wav.channels.map((c) => [...c])).toEqual([
      [0.5, Math.fround(32_767 / 32_768)],
      [-0.5, -1],
    ]);
    expect([...readWav(riff(["fmt ", fmt(1, 1, 8000, 8)], ["data", [0, 128, 192]])).channels[0]]).toEqual([
      -1, 0, 0.5,
    ]);
    expect([
      ...readWav(riff(["fmt ", fmt(1, 1, 8000, 24)], ["data", [0, 0, 0x80, 0, 0, 0x40]])).channels[0],
    ]).toEqual([-1, 0.5]);
  });

  it("clips values that PCM cannot hold", () => {
    expect([...readWav(writeWav([Float32Array.of(2, -2)], 48_000, "pcm16")).channels[0]]).toEqual([
      Math.fround(32_767 / 32_768),
      -1,
    ]);
  });

  const good = riff(["fmt ", fmt(1, 1, 8000, 16)], ["data", [1, 2, 3, 4]]);
  it.each<[string, Uint8Array, string]>([
    ["an empty file", new Uint8Array(0), "sound-empty"],
    ["a text file", new TextEncoder().encode("hello, this is no sound"), "sound-not-wav"],
    ["no format", riff(["data", [0, 0]]), "sound-no-format"],
    ["no chunks", riff(), "sound-no-format"],
    ["no samples chunk", riff(["fmt ", fmt(1, 1, 8000, 16)]), "sound-no-data"],
    ["no samples", riff(["fmt ", fmt(1, 1, 8000, 16)], ["data", []]), "sound-empty"],
    ["a short format", riff(["fmt ", [1, 0]], ["data", [0, 0]]), "sound-bad-format"],
    ["0 channels", riff(["fmt ", fmt(1, 0, 8000, 16)], ["data", [0, 0]]), "sound-channels"],
    ["9 channels", riff(["fmt ", fmt(1, 9, 8000, 16)], ["data", [0, 0]]), "sound-channels"],
    ["a rate of 0", riff(["fmt ", fmt(1, 1, 0, 16)], ["data", [0, 0]]), "sound-rate"],
    ["a rate of 1 MHz", riff(["fmt ", fmt(1, 1, 1_000_000, 16)], ["data", [0, 0]]), "sound-rate"],
    ["compressed samples", riff(["fmt ", fmt(0x55, 1, 8000, 16)], ["data", [0, 0]]), "sound-encoding"],
    ["12-bit samples", riff(["fmt ", fmt(1, 1, 8000, 12, 2)], ["data", [0, 0]]), "sound-encoding"],
    [
      "a wrong block size",
      riff(["fmt ", fmt(1, 2, 8000, 16, 3)], ["data", [0, 0, 0, 0]]),
      "sound-bad-format",
    ],
    ["a truncated file", good.subarray(0, good.length - 2), "sound-truncated"],
  ])("names the problem of %s", (_name, bytes, code) => {
    const error = refusal(bytes);
    expect(error.code).toBe(code);
    expect(error.message).toMatch(/^horn\.wav: /);
    expect(error.remedy.length).toBeGreaterThan(10);
  });

  it("is not taken in by a claim of 4 GB", () => {
    const bytes = riff(["fmt ", fmt(1, 1, 8000, 16)], ["data", new Array(900).fill(0)]);
    const view = new DataView(bytes.buffer);
    view.setUint32(40, 0xfffffff0, true);
    expect(refusal(bytes)).toMatchObject({ code: "sound-truncated" });
    expect(refusal(bytes).what).toContain("4294967280");
  });

  it("counts samples that are no numbers as 0 and says how many; a file of nothing else is refused", async () => {
    const bytes = writeWav([ramp(20), ramp(20)], 8000, "float32");
    const view = new DataView(bytes.buffer);
    view.setFloat32(44 + (7 * 2 + 1) * 4, Number.NaN, true);
    view.setFloat32(44 + 9 * 2 * 4, Number.NEGATIVE_INFINITY, true);
    const read = readWav(bytes);
    expect([read.badSamples, read.channels[1][7], read.channels[0][9]]).toEqual([2, 0, 0]);
    expect(read.channels[0][7]).toBe(ramp(20)[7]);
    const inParts = await openWav({
      size: bytes.length,
      read: async (offset, length) => bytes.subarray(offset, offset + length),
    });
    for (let at = 0; at < 20; at += 6) await inParts.read(at, 6);
    expect(inParts.badSamples).toBe(2);
    for (let i = 0; i < 40; i++) view.setFloat32(44 + i * 4, Number.NaN, true);
    expect(refusal(bytes).what).toBe("none of its samples is a finite number");
    expect(() => writeWav([Float32Array.of(Number.NaN)], 8000)).toThrow(SoundFormatError);
  });

  it("refuses or reads any bytes, and never fails otherwise", () => {
    const seeds = WAV_ENCODINGS.map((encoding) => writeWav([ramp(9), ramp(9)], 48_000, encoding));
    fc.assert(
      fc.property(
        fc.constantFrom(...seeds),
        fc.array(fc.tuple(fc.nat(80), fc.nat(255)), { maxLength: 12 }),
        fc.nat(120),
        (seed, changes, length) => {
          const bytes = seed.slice(0, length);
          for (const [at, value] of changes) if (at < bytes.length) bytes[at] = value;
          try {
            for (const channel of readWav(bytes).channels) expect(channel.every(Number.isFinite)).toBe(true);
          } catch (error) {
            expect(error).toBeInstanceOf(SoundFormatError);
          }
        },
      ),
      { numRuns: 2000 },
    );
  });
});

describe("a project's sound", () => {
  it("is at 48 kHz and keeps its own rate as a fact", () => {
    const sound = readProjectSound(writeWav([ramp(4410), ramp(4410)], 44_100, "float32"));
    const facts = describeSound(sound);
    expect(facts).toMatchObject({ originalRateHz: 44_100, channels: 2, durationS: 0.1 });
    expect(facts.peak).toBeGreaterThan(0.85);
  });

  it("reads where the speakers stand, and loudness counts them by that", () => {
    const tone = Float32Array.from({ length: 96_000 }, (_none, i) =>
      Math.sin((2 * Math.PI * 997 * i) / 48_000),
    );
    const silence = new Float32Array(tone.length);
    /** A tone in one channel of eight. */
    const loudness = (channel: number, speakers: number) => {
      const bytes = writeWav(
        Array.from({ length: 8 }, (_none, c) => (c === channel ? tone : silence)),
        48_000,
        "float32",
      );
      new DataView(bytes.buffer).setUint32(40, speakers, true);
      expect(readWav(bytes).speakers).toBe(speakers);
      return describeSound(readProjectSound(bytes));
    };
    // 7.1: left, right, centre, low, back left, back right, side left, side right.
    expect(loudness(0, 0x63f).layout).toBe("7.1");
    expect(loudness(0, 0).layout).toBe("7.1, assumed: the file names no layout");
    expect(loudness(0, 0x63f).integratedLufs).toBeCloseTo(-3.01, 1);
    expect(loudness(3, 0x63f).integratedLufs).toBe(null);
    expect(loudness(4, 0x63f).integratedLufs).toBeCloseTo(-3.01, 1);
    expect(loudness(6, 0x63f).integratedLufs).toBeCloseTo(-3.01 + 10 * Math.log10(1.41), 1);
    // A file that has its speakers at the back, and none at the sides.
    expect(loudness(4, 0x1ff).integratedLufs).toBeCloseTo(-3.01 + 10 * Math.log10(1.41), 1);
  });
});
