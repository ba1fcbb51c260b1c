import { Worker } from "node:worker_threads";
import type { ToScripts } from "@bumbrel/core/analyse/scripts/scriptMessages";
import { runScriptsIn, type ScriptWorker } from "@bumbrel/core/analyse/scripts/scriptThread";

/** Memory of a thread beside that of the engine, which has an end of its own. */
const HEAP_MEGABYTES = 512;

/** A thread of Node's with the face of a web worker. */
class NodeScripts implements ScriptWorker {
  private readonly worker: Worker;

  constructor(file: string) {
    this.worker = new Worker(file, {
      env: {},
      execArgv: [],
      resourceLimits: { maxOldGenerationSizeMb: HEAP_MEGABYTES },
    });
    // A program that hangs keeps no process from ending.
    this.worker.unref();
  }

  postMessage(message: ToScripts): void {
    this.worker.postMessage(message);
  }

  terminate(): void {
    void this.worker.terminate();
  }

  addEventListener(kind: "message" | "error", listener: (event: never) => void): void {
    if (kind === "error") this.worker.on("error", listener as (error: Error) => void);
    else this.worker.on("message", (data) => listener({ data } as never));
  }
}

/**
 * Has programs run in threads that are ended when one does not come back.
 *
 * @param file  the built `scriptWorker`
 */
export const runScriptsInThreads = (file: string): void => runScriptsIn(() => new NodeScripts(file));
