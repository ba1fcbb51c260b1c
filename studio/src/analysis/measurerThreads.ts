import type { Measurers, ReadElsewhere } from "@bumbrel/core/analyse/measurers";
import { packSamples } from "@bumbrel/core/dsp/maths/samples";
import type { Signal } from "@bumbrel/core/strand/hearing/signal";
import type { Measure } from "@bumbrel/core/strand/measures/table";
import type { FromMeasurer, PackedSignal, ToMeasurer } from "./measure.worker";

/** A worker as far as it is used here. */
export interface MeasurerWorker {
  postMessage(message: ToMeasurer): void;
  onmessage: ((event: MessageEvent<FromMeasurer>) => void) | null;
  /** Called when it cannot be started, or an error escapes it. */
  onerror: ((event: ErrorEvent) => void) | null;
}

interface Thread {
  worker?: MeasurerWorker;
  isBroken?: boolean;
  reading?: { id: number; resolve(raw: Float32Array): void; reject(error: Error): void } | undefined;
}

const MOST_THREADS = 3;

/** As many threads that read measures as there are processors beside the one of the analysis worker, at most three. */
export const measurerThreads = (processors: number): number =>
  Math.max(0, Math.min(MOST_THREADS, processors - 1));

/** Workers that read measures, one measure each at a time; each is started when it is first needed. */
export class MeasurerThreads implements Measurers {
  private readonly threads: Thread[];
  private readonly start: () => MeasurerWorker;
  private reads = 0;

  constructor(count: number, start: () => MeasurerWorker) {
    this.threads = Array.from({ length: count }, () => ({}));
    this.start = start;
  }

  read(signal: Signal, measure: Measure): ReadElsewhere | undefined {
    const thread = this.threads.find(({ reading, isBroken }) => !reading && !isBroken);
    if (!thread) return undefined;
    const worker = this.workerOf(thread);
    const id = ++this.reads;
    const numbers = new Promise<Float32Array>((resolve, reject) => {
      thread.reading = { id, resolve, reject };
    });
    worker.postMessage({ kind: "read", id, signal: packed(signal), measure });
    const cancel = () => {
      if (thread.reading?.id !== id) return;
      thread.reading = undefined;
      worker.postMessage({ kind: "stop" });
    };
    return { numbers, cancel };
  }

  private workerOf(thread: Thread): MeasurerWorker {
    if (thread.worker) return thread.worker;
    const worker = this.start();
    worker.onmessage = ({ data }) => {
      const { reading } = thread;
      if (reading?.id !== data.id) return;
      thread.reading = undefined;
      if (data.kind === "read") reading.resolve(data.raw);
      else reading.reject(new Error(data.message));
    };
    worker.onerror = (event) => {
      event.preventDefault();
      thread.isBroken = true;
      thread.reading?.reject(new Error(event.message || "the thread cannot be started"));
      thread.reading = undefined;
    };
    thread.worker = worker;
    return worker;
  }
}

const packed = ({ samples, channels, weights, frames }: Signal): PackedSignal => ({
  samples: packSamples(samples),
  ...(channels && { channels: channels.map(packSamples) }),
  ...(weights && { weights }),
  ...(frames !== undefined && { frames }),
});
