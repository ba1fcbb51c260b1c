import { afterEach, beforeEach, describe, expect, it } from "@jest/globals";
import type { FromCatch, ToCatch } from "../../../analysis/catch.worker";
import {
  addMark,
  beginCatch,
  clearMarks,
  crossNothingOut,
  crossOut,
  endCatch,
  toggleMark,
  useCatching,
} from "./catching";

/** Stands where the worker stands: keeps what it is told, and says what a test lets it say. */
class FakeWorker {
  static all: FakeWorker[] = [];
  told: ToCatch[] = [];
  ended = false;
  private listener: ((event: { data: FromCatch }) => void) | undefined;
  constructor() {
    FakeWorker.all.push(this);
  }
  addEventListener(_kind: string, listener: (event: { data: FromCatch }) => void) {
    this.listener = listener;
  }
  postMessage(message: ToCatch) {
    this.told.push(message);
  }
  terminate() {
    this.ended = true;
  }
  say(data: FromCatch) {
    this.listener!({ data });
  }
}
const place = globalThis as unknown as { Worker: unknown };
const kept = place.Worker;
beforeEach(() => {
  FakeWorker.all = [];
  place.Worker = FakeWorker;
});
afterEach(() => {
  endCatch();
  place.Worker = kept;
});

const state = () => useCatching.getState();
const worker = () => FakeWorker.all.at(-1)!;
const found = (lowHz: number) => ({ lowHz }) as never;

describe("a catch in progress", () => {
  it("keeps its marks in order, each once, and takes one away that is hit again", () => {
    beginCatch("snare", new Float32Array(480));
    for (const timeS of [3, 1, 2]) addMark(timeS);
    // A key that was hit twice, and a press on a mark that stands there.
    addMark(2.05);
    expect(state().marksS).toEqual([1, 2, 3]);
    toggleMark(2.04);
    expect(state().marksS).toEqual([1, 3]);
    toggleMark(2.04, 0.01);
    expect(state().marksS).toEqual([1, 2.04, 3]);
    clearMarks();
    expect(state().marksS).toEqual([]);
  });

  it("searches from three marks on, and drops its result when there are fewer", () => {
    beginCatch("snare", new Float32Array(480));
    addMark(1);
    addMark(2);
    expect([state().isSearching, worker().told.map(({ kind }) => kind)]).toEqual([false, ["samples"]]);
    addMark(3);
    expect(state().isSearching).toBe(true);
    expect(worker().told.at(-1)).toEqual({ kind: "marks", marksS: [1, 2, 3], othersS: [] });
    worker().say({ kind: "caught", search: 1, result: found(180) });
    expect([state().isSearching, state().result]).toEqual([false, { lowHz: 180 }]);
    toggleMark(3);
    expect([state().isSearching, state().result]).toEqual([false, undefined]);
  });

  it("keeps searching while an answer is for fewer marks than there are now", () => {
    beginCatch("snare", new Float32Array(480));
    for (const timeS of [1, 2, 3, 4]) addMark(timeS);
    worker().say({ kind: "caught", search: 1, result: found(90) });
    expect([state().isSearching, state().result]).toEqual([true, { lowHz: 90 }]);
    worker().say({ kind: "caught", search: 2, result: found(180) });
    expect([state().isSearching, state().result]).toEqual([false, { lowHz: 180 }]);
  });

  it("searches again without crossed-out cues, until that is taken back", () => {
    beginCatch("snare", new Float32Array(480));
    for (const timeS of [1, 2, 3]) addMark(timeS);
    crossOut(2.5);
    crossOut(7);
    expect(worker().told.at(-1)).toEqual({ kind: "marks", marksS: [1, 2, 3], othersS: [2.5, 7] });
    addMark(4);
    expect(worker().told.at(-1)).toEqual({ kind: "marks", marksS: [1, 2, 3, 4], othersS: [2.5, 7] });
    crossNothingOut();
    expect([state().othersS, state().isSearching]).toEqual([[], true]);
    crossOut(7);
    clearMarks();
    expect([state().marksS, state().othersS]).toEqual([[], []]);
  });

  it("reports its progress, and errors", () => {
    beginCatch("snare", new Float32Array(480));
    worker().say({ kind: "progress", share: 0.4 });
    expect(state().share).toBe(0.4);
    for (const timeS of [1, 2, 3]) addMark(timeS);
    worker().say({ kind: "failed", message: "There is no sound at the marks." });
    expect([state().failure, state().isSearching]).toEqual(["There is no sound at the marks.", false]);
    addMark(4);
    expect(state().failure).toBeUndefined();
  });

  it("stops all it was doing, and starts over for another strand", () => {
    beginCatch("snare", new Float32Array(480));
    const first = worker();
    for (const timeS of [1, 2, 3]) addMark(timeS);
    beginCatch("kick", new Float32Array(480));
    expect([first.ended, worker() === first, state().strandId, state().marksS]).toEqual([
      true,
      false,
      "kick",
      [],
    ]);
    endCatch();
    expect([worker().ended, state().strandId]).toEqual([true, undefined]);
  });
});
