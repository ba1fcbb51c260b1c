import { ScriptThread } from "@bumbrel/core/analyse/scripts/scriptThread";

/** The thread of a program, as one of its drawings holds it. */
export interface HeldThread extends Pick<ScriptThread, "ask"> {
  newSandbox(): number;
  /** Lets go of a sandbox, and of the thread. */
  close(sandbox: number): void;
  /** Called when something has come that can be drawn. */
  onArrival(): void;
}

/** Threads of drawing programs: one for each code, so that a program that hangs takes no other along. */
export class DrawingThreads {
  private readonly threads = new Map<string, { thread: ScriptThread; users: number; sandboxes: number }>();
  private readonly onArrival: () => void;

  constructor(onArrival: () => void) {
    this.onArrival = onArrival;
  }

  hold(code: string): HeldThread {
    const { threads, onArrival } = this;
    let held = threads.get(code);
    if (!held?.thread.isAlive) {
      held = { thread: new ScriptThread(), users: 0, sandboxes: 0 };
      threads.set(code, held);
    }
    const mine = held;
    mine.users++;
    return {
      ask: (message) => mine.thread.ask(message),
      newSandbox: () => ++mine.sandboxes,
      onArrival,
      close(sandbox) {
        mine.thread.close(sandbox);
        if (--mine.users > 0) return;
        mine.thread.dispose();
        if (threads.get(code) === mine) threads.delete(code);
      },
    };
  }
}
