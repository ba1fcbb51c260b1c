import { makeNoise } from "@bumbrel/core/dsp/tone/tone";
import { DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { MEASURES, measureSound } from "@bumbrel/core/strand/measures/table";
import { beforeAll, describe, expect, it } from "@jest/globals";
import type { FromMeasurer, ToMeasurer } from "./measure.worker";
import { MeasurerThreads, type MeasurerWorker, measurerThreads } from "./measurerThreads";

/** The worker’s own side, which speaks to whichever thread stands before it. */
let hear: (event: { data: ToMeasurer }) => void;
let thread: MeasurerWorker;

beforeAll(async () => {
  Object.assign(globalThis, {
    crossOriginIsolated: false,
    addEventListener: (_: string, listener: typeof hear) => {
      hear = listener;
    },
    postMessage: (data: FromMeasurer) => thread.onmessage?.({ data } as MessageEvent<FromMeasurer>),
  });
  await import("./measure.worker");
});

/** One thread, whose messages reach the worker as copies. */
const oneThread = () =>
  new MeasurerThreads(1, () => {
    const postMessage = (message: ToMeasurer) => setTimeout(hear, 0, { data: structuredClone(message) });
    thread = { postMessage, onmessage: null, onerror: null };
    return thread;
  });

const samples = makeNoise("pink", 48_000 * 2, 3, 0.4);
const signal = { samples, channels: [samples, samples.map((x) => -x)], weights: [1, 1] };

describe("threads that read measures", () => {
  it("give the numbers that the core gives, one measure after the other", async () => {
    const threads = oneThread();
    for (const { defaults } of [MEASURES.momentary, MEASURES.width, MEASURES.pitch, MEASURES.fan]) {
      const elsewhere = threads.read(signal, defaults);
      expect(threads.read(signal, defaults)).toBeUndefined();
      expect(await elsewhere?.numbers).toEqual(measureSound(signal, defaults, new DirectSpectra()));
    }
  });

  it("stop when they are told to, and are free again", async () => {
    const threads = oneThread();
    let isThere = false;
    const first = threads.read(signal, MEASURES.pitch.defaults);
    void first?.numbers.then(() => {
      isThere = true;
    });
    first?.cancel();
    const second = await threads.read(signal, MEASURES.rms.defaults)?.numbers;
    expect(second).toEqual(measureSound(signal, MEASURES.rms.defaults, new DirectSpectra()));
    expect(isThere).toBe(false);
  });

  it("report sounds that cannot be read", async () => {
    const upsideDown = { ...MEASURES.band.defaults, lowHz: 900, highHz: 100 };
    await expect(oneThread().read(signal, upsideDown)?.numbers).rejects.toThrow(/low/);
  });

  it("are not asked again once they are broken", async () => {
    const threads = new MeasurerThreads(1, () => {
      thread = { postMessage: () => undefined, onmessage: null, onerror: null };
      return thread;
    });
    const elsewhere = threads.read(signal, MEASURES.rms.defaults);
    const stopped = { message: "no such file", preventDefault: () => undefined } as ErrorEvent;
    thread.onerror?.(stopped);
    await expect(elsewhere?.numbers).rejects.toThrow("no such file");
    expect(threads.read(signal, MEASURES.rms.defaults)).toBeUndefined();
  });

  it("are as many as there are processors to spare", () => {
    expect([1, 2, 4, 16].map((count) => measurerThreads(count))).toEqual([0, 1, 3, 3]);
  });
});
