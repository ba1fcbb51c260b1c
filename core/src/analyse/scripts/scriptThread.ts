import { ScriptError } from "../../program/scripts/scriptError";
import type { FromScripts, ScriptAnswers, ScriptCall, ToScripts } from "./scriptMessages";
import { SilenceWatch, STOPPED } from "./silenceWatch";

/** A thread in which a `ScriptHost` runs: a web worker, or a thread of Node's with the same face. */
export interface ScriptWorker {
  postMessage(message: ToScripts): void;
  terminate(): void;
  addEventListener(kind: "message", listener: (event: { data: FromScripts }) => void): void;
  addEventListener(kind: "error", listener: (event: { message?: string }) => void): void;
}

interface Waiting {
  resolve(answer: never): void;
  reject(error: Error): void;
}

const SILENT = `${STOPPED} Is there a call that goes through too much at once?`;

let startWorker: (() => ScriptWorker) | undefined;
/** Says how threads for scripts are started here; call it before any script is needed. */
export function runScriptsIn(start: () => ScriptWorker): void {
  startWorker = start;
}

/**
 * Scripts in a thread of their own, which is ended when a script does not come back: the engine of scripts can stop
 * loops, but not what runs inside of one of its own functions.
 */
export class ScriptThread {
  private readonly worker: ScriptWorker;
  private readonly waiting = new Map<number, Waiting>();
  private calls = 0;
  private readonly silence = new SilenceWatch();
  private ended: Error | undefined;

  /** @throws Error where no scripts can be run */
  constructor(start = startWorker) {
    if (!start) throw new Error("Programs in TypeScript cannot be run here.");
    this.worker = start();
    this.worker.addEventListener("message", ({ data }) => this.hear(data));
    this.worker.addEventListener("error", ({ message }) => {
      this.end(new Error(`Programs cannot be run: ${message || "their thread cannot be started"}.`));
    });
  }

  /** False once it has been ended: it answers nothing any more. */
  get isAlive(): boolean {
    return this.ended === undefined;
  }

  /**
   * Carries out a call after those before it.
   *
   * @throws ScriptError when the script fails or does not come back
   */
  ask<Kind extends ScriptCall["kind"]>(
    message: Extract<ScriptCall, { kind: Kind }>,
  ): { answer: Promise<ScriptAnswers[Kind]>; cancel(): void } {
    const call = ++this.calls;
    const answer = new Promise<ScriptAnswers[Kind]>((resolve, reject) => {
      if (this.ended) reject(this.ended);
      else this.waiting.set(call, { resolve, reject });
    });
    if (!this.ended) this.worker.postMessage({ ...message, call } as ToScripts);
    return { answer, cancel: () => this.ended ?? this.worker.postMessage({ kind: "cancel", call }) };
  }

  /** Lets go of a sandbox. */
  close(sandbox: number): void {
    if (!this.ended) this.worker.postMessage({ kind: "close", sandbox });
  }

  dispose(): void {
    this.end(new Error("It is not needed any more."));
  }

  private hear(message: FromScripts): void {
    if (message.kind === "working") {
      this.silence.begin(() => this.end(new ScriptError({ line: 1, message: SILENT })));
      return;
    }
    this.silence.end();
    const waiting = this.waiting.get(message.call);
    this.waiting.delete(message.call);
    if (message.kind === "done") waiting?.resolve(message.answer as never);
    else {
      const { isScript, problem } = message;
      waiting?.reject(isScript ? new ScriptError(problem) : new Error(problem.message));
    }
  }

  private end(error: Error): void {
    if (this.ended) return;
    this.ended = error;
    this.silence.end();
    this.worker.terminate();
    for (const { reject } of this.waiting.values()) reject(error);
    this.waiting.clear();
  }
}
