import { BumbrelError, type Finding, ownError } from "@bumbrel/core/errors";

/** Answer of a worker: its result, or the reason why there is none. */
export type WorkerAnswer<T> = { kind: "done"; result: T } | { kind: "failed"; finding: Finding };

/** Answers, in a worker, with what a promise gives or why it gives nothing. */
export async function answerWith<T>(name: string, work: Promise<T>): Promise<void> {
  const answer = (message: WorkerAnswer<T>) => postMessage(message);
  try {
    answer({ kind: "done", result: await work });
  } catch (error) {
    const inPlace = {
      code: "unreadable",
      what: "it cannot be read",
      where: name,
      remedy: "Save it again, or in another format, and add that file",
    };
    const { code, what, where, remedy } = ownError(error, inPlace);
    answer({ kind: "failed", finding: { code, what, where, remedy } });
  }
}

export interface Asking<Part> {
  /** Name of the file that is being read, for errors. */
  name: string;
  signal?: AbortSignal;
  transfer?: Transferable[];
  /** Called with what the worker says before it is done. */
  onPart?(part: Part): void;
  /** It is stopped after so long, ms. */
  limitMs?: number;
}

/**
 * Has a worker of its own do one thing, and ends the worker.
 *
 * @throws BumbrelError when it fails or takes too long, or the signal's reason
 */
export async function askWorker<Result, Part extends { kind: string } = never>(
  worker: Worker,
  request: unknown,
  { name, signal, transfer = [], onPart, limitMs }: Asking<Part>,
): Promise<Result> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  let stop = () => {};
  const fail = (code: string, what: string, remedy: string) =>
    new BumbrelError({ code, what, where: name, remedy });
  try {
    signal?.throwIfAborted();
    return await new Promise<Result>((resolve, reject) => {
      stop = () => reject(signal?.reason);
      signal?.addEventListener("abort", stop);
      if (limitMs !== undefined) {
        timer = setTimeout(() => {
          const seconds = Math.round(limitMs / 1000);
          reject(
            fail(
              "too-slow",
              `reading it took longer than ${seconds} s, and was stopped`,
              "Make it simpler and add that file",
            ),
          );
        }, limitMs);
      }
      worker.addEventListener("message", ({ data }: MessageEvent<WorkerAnswer<Result> | Part>) => {
        if (data.kind === "done") resolve((data as { result: Result }).result);
        else if (data.kind === "failed") reject(new BumbrelError((data as { finding: Finding }).finding));
        else onPart?.(data as Part);
      });
      worker.addEventListener("error", () =>
        reject(
          fail(
            "worker-stopped",
            "what reads it stopped in the middle",
            "Add it again, or save it in another format first",
          ),
        ),
      );
      worker.postMessage(request, { transfer });
    });
  } finally {
    clearTimeout(timer);
    signal?.removeEventListener("abort", stop);
    worker.terminate();
  }
}
