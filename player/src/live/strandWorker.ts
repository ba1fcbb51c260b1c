import { SilenceWatch, STOPPED } from "@bumbrel/core/analyse/scripts/silenceWatch";
import type { FromStrands, LiveNumbers, ToStrands } from "./strandHost";

/** Receives the messages of the strands' worker. */
export interface StrandWorkerHost {
  onNumbers(strands: readonly LiveNumbers[], sentMs: number): void;
  /** A program failed, or did not come back; then everything that was asked for has to be asked for again. */
  onFailed(id: string, message: string, isGone: boolean): void;
}

/** The worker that reads live strands. It is ended when a program in it does not come back. */
export class StrandWorker {
  private worker: Worker | undefined;
  private readonly silence = new SilenceWatch();
  private readonly url: string;
  private readonly host: StrandWorkerHost;

  constructor(url: string, host: StrandWorkerHost) {
    this.url = url;
    this.host = host;
  }

  get isRunning(): boolean {
    return this.worker !== undefined;
  }

  send(message: ToStrands, transfer: Transferable[] = []): void {
    if (!this.worker) {
      this.worker = new Worker(this.url, { type: "module" });
      this.worker.addEventListener("message", ({ data }: MessageEvent<FromStrands>) => this.hear(data));
    }
    this.worker.postMessage(message, transfer);
  }

  dispose(): void {
    this.silence.end();
    this.worker?.terminate();
    this.worker = undefined;
  }

  private hear(message: FromStrands): void {
    this.silence.end();
    if (message.kind === "numbers") this.host.onNumbers(message.strands, message.sentMs);
    else if (message.kind === "failed") this.host.onFailed(message.id, message.message, false);
    else this.watch(message.id);
  }

  private watch(id: string): void {
    this.silence.begin(() => {
      this.dispose();
      this.host.onFailed(id, STOPPED, true);
    });
  }
}
