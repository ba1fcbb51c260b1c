import { integratedLoudness, toLufs } from "@bumbrel/core/dsp/level/loudness";
import { makeTone } from "@bumbrel/core/dsp/tone/tone";
import { beforeAll, describe, expect, it } from "@jest/globals";
import { METER_FIELDS } from "./meterLayout";

interface Processor {
  process(inputs: Float32Array[][]): boolean;
}
type Maker = new (options: { processorOptions: unknown }) => Processor;

const made = new Map<string, Maker>();
const posted: { channels: Float32Array[]; endFrame: number }[] = [];

/** The parts of an audio thread that the processors need. */
beforeAll(async () => {
  Object.assign(globalThis, {
    AudioWorkletProcessor: class {
      port = { postMessage: (message: (typeof posted)[0]) => posted.push(message) };
    },
    registerProcessor: (name: string, maker: Maker) => made.set(name, maker),
    currentFrame: 0,
  });
  await import("./processors");
});
const quantum = (samples: Float32Array, at: number) => samples.subarray(at, at + 128);

describe("the meter on the audio thread", () => {
  it("keeps the largest sample until it is taken, and the loudness of the last 3 s", () => {
    const memory = new SharedArrayBuffer(2 * METER_FIELDS * 4);
    const meter = new (made.get("bumbrel-meter")!)({ processorOptions: { memory, points: 2 } });
    const tone = makeTone("sine", 997, 48_000 * 4, 0.5);
    for (let at = 0; at < tone.length; at += 128) {
      const left = quantum(tone, at);
      expect(meter.process([[left, left.map((x) => x / 2)], []])).toBe(true);
    }
    const floats = new Float32Array(memory);
    expect(floats[0]).toBeCloseTo(0.5, 4);
    expect(floats[1]).toBeCloseTo(0.25, 4);
    const both = [tone, tone.map((x) => x / 2)];
    expect(toLufs(floats[2])).toBeCloseTo(integratedLoudness(both), 1);
    // The second point has no input: silence, not nonsense.
    expect([...floats.subarray(METER_FIELDS)]).toEqual([0, 0, 0]);
    Atomics.store(new Int32Array(memory), 0, 0);
    meter.process([[new Float32Array(128).fill(-0.125)], []]);
    expect(floats[0]).toBe(0.125);
    for (let at = 0; at < 48_000 * 3 + 4800; at += 128) meter.process([[], []]);
    expect(floats[2]).toBe(0);
  });
});

describe("the capture on the audio thread", () => {
  const ramp = Float32Array.from({ length: 1024 }, (_, i) => i);
  const run = (processorOptions: unknown, channels: Float32Array[]) => {
    posted.length = 0;
    const capture = new (made.get("bumbrel-capture")!)({ processorOptions });
    for (let at = 0; at < 1024; at += 128) {
      Object.assign(globalThis, { currentFrame: 9000 + at });
      capture.process([channels.map((channel) => quantum(channel, at))]);
    }
    return posted;
  };

  it("hands every sample on once, in blocks of the size that was asked for", () => {
    const blocks = run({ bufferSamples: 512, channel: null }, [ramp, ramp.map((x) => -x)]);
    expect(blocks.map(({ endFrame }) => endFrame)).toEqual([9512, 10_024]);
    expect(blocks.flatMap(({ channels }) => [...channels[0]])).toEqual([...ramp]);
    expect(blocks[1].channels[1][0]).toBe(-512);
  });

  it("hands on one channel where one was chosen, and silence for one that is not there", () => {
    expect(run({ bufferSamples: 256, channel: 1 }, [ramp, ramp.map((x) => -x)])[0].channels).toHaveLength(1);
    expect(posted[0].channels[0][3]).toBe(-3);
    const missing = run({ bufferSamples: 256, channel: 5 }, [ramp]);
    expect(missing[0].channels[0].every((x) => x === 0)).toBe(true);
  });
});
