import { afterEach, beforeEach, describe, expect, it, jest } from "@jest/globals";
import type { FromStrands, ToStrands } from "./strandHost";
import { StrandWorker } from "./strandWorker";

class QuietWorker {
  static made: QuietWorker[] = [];
  readonly asked: ToStrands[] = [];
  isTerminated = false;
  say: (message: FromStrands) => void = () => {};
  constructor() {
    QuietWorker.made.push(this);
  }
  postMessage(message: ToStrands): void {
    this.asked.push(message);
  }
  terminate(): void {
    this.isTerminated = true;
  }
  addEventListener(_kind: string, listener: (event: { data: FromStrands }) => void): void {
    this.say = (data) => listener({ data });
  }
}

const before = globalThis.Worker;
let failed: [id: string, message: string, isGone: boolean][];
let worker: StrandWorker;
beforeEach(() => {
  jest.useFakeTimers();
  QuietWorker.made = [];
  failed = [];
  globalThis.Worker = QuietWorker as unknown as typeof Worker;
  worker = new StrandWorker("strands.js", {
    onNumbers: () => {},
    onFailed: (...all) => failed.push(all),
  });
  worker.send({ kind: "stop", soundId: "mic" });
});
afterEach(() => {
  jest.useRealTimers();
  globalThis.Worker = before;
});

describe("the worker of live strands", () => {
  it("is ended when a program in it does not come back, and says which; another one takes its place", () => {
    const [first] = QuietWorker.made;
    first.say({ kind: "running", id: "wind" });
    jest.advanceTimersByTime(3200);
    expect(first.isTerminated).toBe(true);
    expect(failed).toEqual([["wind", "It was stopped: it did not answer within 3 s.", true]]);
    worker.send({ kind: "stop", soundId: "mic" });
    expect(QuietWorker.made).toHaveLength(2);
  });

  it("goes on while its programs come back, and where they fail by themselves", () => {
    const [first] = QuietWorker.made;
    for (let i = 0; i < 5; i++) {
      first.say({ kind: "running", id: "wind" });
      jest.advanceTimersByTime(2500);
      first.say({ kind: "numbers", strands: [], sentMs: 0 });
    }
    first.say({ kind: "failed", id: "wind", message: "Fog." });
    jest.advanceTimersByTime(10_000);
    expect(first.isTerminated).toBe(false);
    expect(failed).toEqual([["wind", "Fog.", false]]);
  });
});
