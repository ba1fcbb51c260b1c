import { afterEach, beforeEach, describe, expect, it, jest } from "@jest/globals";
import type { FromScripts, ToScripts } from "./scriptMessages";
import { ScriptThread, type ScriptWorker } from "./scriptThread";

/** A thread that says what the test lets it say. */
class QuietWorker implements ScriptWorker {
  readonly asked: ToScripts[] = [];
  isTerminated = false;
  say: (message: FromScripts) => void = () => {};
  failToStart: (message: string) => void = () => {};
  postMessage(message: ToScripts): void {
    this.asked.push(message);
  }
  terminate(): void {
    this.isTerminated = true;
  }
  addEventListener(kind: "message" | "error", listener: (event: never) => void): void {
    if (kind === "message") this.say = (data) => listener({ data } as never);
    else this.failToStart = (message) => listener({ message } as never);
  }
}

let worker: QuietWorker;
let thread: ScriptThread;
beforeEach(() => {
  jest.useFakeTimers();
  thread = new ScriptThread(() => {
    worker = new QuietWorker();
    return worker;
  });
});
afterEach(() => {
  jest.useRealTimers();
});
const layout = { kind: "number", columns: 0, sounds: 0, bands: 1, values: [], strands: [] } as const;
const open = () =>
  thread.ask<"open">({ kind: "open", sandbox: 1, code: "", layout: structuredClone(layout) as never }).answer;
/** The reason for which a promise has been rejected so far; none while it has not. */
async function outcome(promise: Promise<unknown>): Promise<string> {
  let said = "waiting";
  promise.then(
    () => {
      said = "done";
    },
    (error: Error) => {
      said = error.message;
    },
  );
  await jest.advanceTimersByTimeAsync(0);
  return said;
}

describe("a thread for scripts", () => {
  it("is ended when nothing comes back after a script began, and every call is told", async () => {
    const [first, second] = [open(), open()];
    const [said, alsoSaid] = [outcome(first), outcome(second)];
    worker.say({ kind: "working", call: 1 });
    await jest.advanceTimersByTimeAsync(2900);
    expect(worker.isTerminated).toBe(false);
    await jest.advanceTimersByTimeAsync(300);
    expect(worker.isTerminated).toBe(true);
    expect(thread.isAlive).toBe(false);
    await expect(first).rejects.toThrow("did not answer within 3 s");
    await expect(second).rejects.toThrow("did not answer within 3 s");
    await expect(open()).rejects.toThrow("did not answer within 3 s");
    expect([await said, await alsoSaid]).toEqual(["waiting", "waiting"]);
  });

  it("may take as long as it likes to load, and to work as long as it shows that it is alive", async () => {
    const call = open();
    await jest.advanceTimersByTimeAsync(20_000);
    for (let i = 0; i < 10; i++) {
      worker.say({ kind: "working", call: 1 });
      await jest.advanceTimersByTimeAsync(2500);
    }
    worker.say({ kind: "done", call: 1, answer: undefined });
    await jest.advanceTimersByTimeAsync(10_000);
    expect(await outcome(call)).toBe("done");
    expect(worker.isTerminated).toBe(false);
  });

  it("reads messages that came while its page stood still before it ends a script", async () => {
    const call = open();
    worker.say({ kind: "working", call: 1 });
    // The timer is due; the message that was waiting comes right after it.
    await jest.advanceTimersByTimeAsync(3010);
    worker.say({ kind: "done", call: 1, answer: undefined });
    await jest.advanceTimersByTimeAsync(1000);
    expect(await outcome(call)).toBe("done");
  });

  it("reports a script's error at its line, and other errors as they are", async () => {
    const [script, other] = [open(), open()];
    worker.say({ kind: "failed", call: 1, problem: { line: 7, message: "Fog." }, isScript: true });
    worker.say({ kind: "failed", call: 2, problem: { line: 1, message: "No engine" }, isScript: false });
    await expect(script).rejects.toMatchObject({ problem: { line: 7, message: "Fog." } });
    await expect(other).rejects.toThrow("No engine");
  });

  it("says that it cannot be started", async () => {
    const call = open();
    worker.failToStart("blocked by the policy");
    await expect(call).rejects.toThrow("Programs cannot be run: blocked by the policy.");
  });
});
