import { LongSamples, type Samples, samplesFrom } from "@bumbrel/core/dsp/maths/samples";
import { type WavEncoding, writeWav } from "@bumbrel/core/format/samples/wav";
import { newSoundBasics, type Sound } from "@bumbrel/core/sound/kinds";
import { sameNumbers } from "@bumbrel/core/testing/sameNumbers";
import { afterEach, beforeEach, describe, expect, it } from "@jest/globals";
import { loadSound } from "./loadSound";

const SOUND: Sound = { ...newSoundBasics("s", "Harbour"), kind: "file", storedId: "h" };
const before = globalThis.fetch;
let bytes: Uint8Array<ArrayBuffer>;

beforeEach(() => {
  Object.assign(globalThis, { crossOriginIsolated: true });
  globalThis.fetch = (async (_url: string, { headers }: { headers: { Range: string } }) => {
    const [, first, last] = /bytes=(\d+)-(\d+)/.exec(headers.Range)!.map(Number);
    const part = bytes.slice(first, last + 1);
    // In pieces of odd sizes, as they come over a network.
    const body = new ReadableStream({
      start(controller) {
        for (let at = 0; at < part.length; at += 10_001) controller.enqueue(part.slice(at, at + 10_001));
        controller.close();
      },
    });
    const range = `bytes ${first}-${first + part.length - 1}/${bytes.length}`;
    return new Response(body, { status: 206, headers: { "Content-Range": range } });
  }) as unknown as typeof fetch;
});
afterEach(() => {
  globalThis.fetch = before;
});

async function load(mostFloatBytes?: number) {
  const pairs: number[] = [];
  const { data } = await loadSound(
    SOUND,
    "/bytes",
    (_share, firstHop, hops, part) => {
      pairs.length = Math.max(pairs.length, hops * 2);
      // As it is handed to the page: nothing of it is left here.
      structuredClone(part, { transfer: [part.buffer] }).forEach((value, i) => {
        if (firstHop * 2 + i < hops * 2) pairs[firstHop * 2 + i] = value;
      });
    },
    mostFloatBytes,
  );
  return { ...data, pairs };
}

const all = (samples: Samples) => samplesFrom(samples, 0, samples.length);

describe("loading a sound", () => {
  it.each<[WavEncoding, number]>([
    ["pcm16", 44_100],
    ["pcm8", 22_050],
    ["pcm16", 48_000],
    ["pcm24", 44_100],
  ])("gives the same samples of a long one as of a short one: %s at %i Hz", async (encoding, rateHz) => {
    const channel = (seed: number) =>
      Float32Array.from({ length: 100_001 }, (_, i) => 0.8 * Math.sin((i * seed) / 40 + Math.sin(i / 900)));
    bytes = writeWav([channel(1), channel(1.5)], rateHz, encoding) as Uint8Array<ArrayBuffer>;
    const short = await load();
    const long = await load(0);
    expect(short.mono).toBeInstanceOf(Float32Array);
    expect(long.mono).toBeInstanceOf(LongSamples);
    expect(long.channels.every((one) => one instanceof LongSamples)).toBe(encoding !== "pcm24");
    expect(long.mono).toHaveLength(short.mono.length);
    expect(sameNumbers(all(long.mono), all(short.mono))).toBe(true);
    for (const c of [0, 1]) expect(sameNumbers(all(long.channels[c]), all(short.channels[c]))).toBe(true);
    // A waveform is for the eye: of a long sound it is that of the file's own samples.
    expect(long.pairs).toHaveLength(short.pairs.length);
    const apart = long.pairs.map((value, i) => Math.abs(value - short.pairs[i]));
    expect(Math.max(...apart.slice(4, -4))).toBeLessThan(0.06);
  });
});
