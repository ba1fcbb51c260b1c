import { describe, expect, it } from "@jest/globals";
import { LiveNotes } from "./liveNotes";

describe("a keyboard", () => {
  it("knows held keys, struck keys and turned knobs", () => {
    const notes = new LiveNotes();
    let told = 0;
    const stop = notes.onEvent(() => told++);
    notes.receive(Uint8Array.of(0x90, 60, 127));
    notes.receive(Uint8Array.of(0x93, 64, 64));
    expect(notes.held.map(({ note }) => note)).toEqual([60, 64]);
    expect([notes.last, notes.struck]).toEqual([64, 1]);
    notes.settle();
    expect(notes.struck).toBe(0);
    notes.receive(Uint8Array.of(0x80, 60, 0));
    notes.receive(Uint8Array.of(0x90, 64, 0));
    expect(notes.held).toEqual([]);
    expect(notes.last).toBe(64);
    notes.receive(Uint8Array.of(0xb1, 74, 127));
    expect(notes.controls.get(74)).toBe(1);
    notes.receive(Uint8Array.of(0xf8));
    expect(told).toBe(5);
    stop();
    notes.strike(1, 1);
    expect(told).toBe(5);
  });

  it("holds a note once, however often it is struck", () => {
    const notes = new LiveNotes();
    notes.strike(60, 0.2);
    notes.strike(60, 0.7);
    expect(notes.held).toEqual([{ note: 60, velocity: 0.7 }]);
  });
});
