import { ScriptHost } from "../analyse/scripts/scriptHost";
import type { FromScripts, ToScripts } from "../analyse/scripts/scriptMessages";
import { runScriptsIn, type ScriptWorker } from "../analyse/scripts/scriptThread";
import { platform } from "../platform";

/** A "thread" for scripts that runs in this one, for tests: nothing can end it within a call. */
export class InlineScripts implements ScriptWorker {
  isTerminated = false;
  private readonly listeners: ((event: { data: FromScripts }) => void)[] = [];
  private readonly host = new ScriptHost(
    (data) => {
      if (this.isTerminated) return;
      for (const listener of this.listeners) listener({ data });
    },
    () => 0,
    () => Promise.resolve(),
  );

  postMessage(message: ToScripts): void {
    if (!this.isTerminated) this.host.take(platform.structuredClone(message));
  }

  terminate(): void {
    this.isTerminated = true;
  }

  addEventListener(kind: "message" | "error", listener: (event: never) => void): void {
    if (kind === "message") this.listeners.push(listener as (event: { data: FromScripts }) => void);
  }
}

export const runScriptsInline = (): void => runScriptsIn(() => new InlineScripts());
