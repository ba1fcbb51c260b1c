import { describe, expect, it } from "@jest/globals";
import type { Measure } from "../measures/table";
import { defaultShaping } from "../shape/shaping";
import { CombinedLive, LiveCursor, LiveStrand } from "./live";

describe("a live strand", () => {
  it("reads played notes, and nothing of them from samples", () => {
    const now = {
      held: [
        { note: 40, velocity: 0.9 },
        { note: 70, velocity: 0.4 },
      ],
      last: 70,
      struck: 0.4,
      controls: new Map([[7, 0.25]]),
    };
    const read = (measure: Measure) => {
      const strand = new LiveStrand({ measure, shaping: defaultShaping("share") }, "keys");
      strand.readNotesNow(now);
      strand.readSamples(new LiveCursor());
      return Math.round(strand.track.values[0] * 1e6) / 1e6;
    };
    expect(read({ kind: "velocity", lowNote: 0, highNote: 127 })).toBe(0.4);
    expect(read({ kind: "velocity", lowNote: 0, highNote: 60 })).toBe(0.9);
    expect(read({ kind: "note", lowNote: 60, highNote: 80 })).toBe(0.5);
    expect(read({ kind: "control", controller: 7 })).toBe(0.25);
    expect(read({ kind: "control", controller: 8 })).toBe(0);
    expect(read({ kind: "ticks" })).toBe(0.4);
    expect(read({ kind: "curve" })).toBe(0);
  });

  it("is made of others as they are now", () => {
    const combined = new CombinedLive({ measure: { kind: "product" }, shaping: defaultShaping("share") });
    const live = { width: 1, values: Float32Array.of(0.5) };
    const whole = { width: 2, values: Float32Array.of(0, 0, 0.4, 1) };
    combined.readStrands([live, whole], 0.01);
    expect([...combined.track.values].map((x) => Number(x.toFixed(6)))).toEqual([0.2, 0.5]);
    live.values[0] = 1;
    combined.readStrands([live], 0.01);
    expect([...combined.track.values]).toEqual([1]);
  });
});
