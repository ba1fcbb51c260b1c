import { describe, expect, it } from "@jest/globals";
import { Take, type UnitEvent } from "./take";

const event = (change: Partial<UnitEvent>): UnitEvent => ({
  kind: "unit",
  timeS: 0,
  unitId: "bell",
  positionS: 0,
  running: true,
  lengthS: 3,
  loops: false,
  ...change,
});

describe("a take", () => {
  it("knows where a unit is from what happened to it last", () => {
    const take = new Take();
    expect(take.unitPositionS("bell", 5)).toBe(0);
    take.record(event({ timeS: 2, positionS: 0.5 }));
    take.record(event({ timeS: 3, unitId: "horn", positionS: 1 }));
    take.record(event({ timeS: 4, positionS: 2.5, running: false }));
    expect([1, 2, 3, 4, 9].map((timeS) => take.unitPositionS("bell", timeS))).toEqual([
      0, 0.5, 1.5, 2.5, 2.5,
    ]);
    expect([1, 3, 4].map((timeS) => take.isRunning("bell", timeS))).toEqual([false, true, false]);
    expect(take.unitPositionS("horn", 3.25)).toBe(1.25);
  });

  it("stops a unit at its end, or starts it again", () => {
    const take = new Take();
    take.record(event({ unitId: "once" }));
    take.record(event({ unitId: "round", loops: true }));
    expect(take.unitPositionS("once", 7)).toBe(3);
    expect(take.unitPositionS("round", 7)).toBe(1);
  });

  it("drops later events when the tape is moved back, and replaces one at the same time", () => {
    const take = new Take();
    take.record(event({ timeS: 1 }));
    take.record(event({ timeS: 6, positionS: 2 }));
    take.record(event({ timeS: 4, positionS: 1 }));
    expect(take.events.map(({ timeS }) => timeS)).toEqual([1, 4]);
    take.record(event({ timeS: 4, positionS: 1.5 }));
    expect(take.events).toHaveLength(2);
    expect(take.unitPositionS("bell", 4)).toBe(1.5);
    take.dropAfter(2);
    expect(take.events.map(({ timeS }) => timeS)).toEqual([1]);
  });
});
