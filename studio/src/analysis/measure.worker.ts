import { type PackedSamples, unpackSamples } from "@bumbrel/core/dsp/maths/samples";
import type { Signal } from "@bumbrel/core/strand/hearing/signal";
import { DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { type Measure, measureSliced } from "@bumbrel/core/strand/measures/table";
import { sharedNumbers } from "./loadSound";

/** A signal that offers samples alone, as it is sent. */
export interface PackedSignal extends Pick<Signal, "weights" | "frames"> {
  samples: PackedSamples;
  channels?: PackedSamples[];
}

export type ToMeasurer =
  | { kind: "read"; id: number; signal: PackedSignal; measure: Measure }
  | { kind: "stop" };
export type FromMeasurer =
  | { kind: "read"; id: number; raw: Float32Array }
  | { kind: "failed"; id: number; message: string };

/** Milliseconds between two looks at newer messages. */
const SLICE_MS = 20;
let newest = 0;

const send = (message: FromMeasurer) => postMessage(message);

addEventListener("message", ({ data }: MessageEvent<ToMeasurer>) => {
  newest++;
  if (data.kind === "read") void read(data, newest);
});

/** Reads a measure until another message comes. */
async function read(
  { id, signal, measure }: Extract<ToMeasurer, { kind: "read" }>,
  turn: number,
): Promise<void> {
  try {
    const unpacked: Signal = {
      ...signal,
      samples: unpackSamples(signal.samples),
      channels: signal.channels?.map(unpackSamples),
    };
    const work = measureSliced(unpacked, measure, new DirectSpectra(), sharedNumbers);
    for (let before = performance.now(); ; ) {
      const { done, value } = work.next();
      if (done) {
        send({ kind: "read", id, raw: value });
        return;
      }
      if (performance.now() - before < SLICE_MS) continue;
      await new Promise((resolve) => setTimeout(resolve));
      if (turn !== newest) return;
      before = performance.now();
    }
  } catch (error) {
    send({ kind: "failed", id, message: (error as Error).message });
  }
}
