import { describe, expect, it } from "@jest/globals";
import { type UnitEvent, UnitTimes } from "./units";

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

describe("times of units", () => {
  it("computes a unit's position from its last event", () => {
    const units = new UnitTimes();
    expect(units.positionS("bell", 5)).toBe(0);
    units.record(event({ timeS: 2, positionS: 0.5 }));
    units.record(event({ timeS: 3, unitId: "horn", positionS: 1 }));
    units.record(event({ timeS: 4, positionS: 2.5, running: false }));
    expect([1, 2, 3, 4, 9].map((timeS) => units.positionS("bell", timeS))).toEqual([0, 0.5, 1.5, 2.5, 2.5]);
    expect([1, 3, 4].map((timeS) => units.isRunning("bell", timeS))).toEqual([false, true, false]);
    expect(units.positionS("horn", 3.25)).toBe(1.25);
  });

  it("stops a unit at its end, or starts it again", () => {
    const units = new UnitTimes();
    units.record(event({ unitId: "once" }));
    units.record(event({ unitId: "round", loops: true }));
    expect(units.positionS("once", 7)).toBe(3);
    expect(units.positionS("round", 7)).toBe(1);
  });

  it("tells since when a unit stands still", () => {
    const units = new UnitTimes();
    const since = (timeS: number) => units.standsSinceS("bell", timeS);
    expect(since(1)).toBe(Number.NEGATIVE_INFINITY);
    units.record(event({ timeS: 0, running: false }));
    units.record(event({ timeS: 2, positionS: 0.5 }));
    units.record(event({ timeS: 3, positionS: 1.5, running: false }));
    units.record(event({ timeS: 5, positionS: 2 }));
    // Started at 2 s of 3 s, it ends a second later.
    expect([1, 2.5, 4, 5.5, 9].map(since)).toEqual([Number.NEGATIVE_INFINITY, undefined, 3, undefined, 6]);
  });

  it("drops later events when the tape is moved back, and replaces one at the same time", () => {
    const units = new UnitTimes();
    units.record(event({ timeS: 1 }));
    units.record(event({ timeS: 6, positionS: 2 }));
    units.record(event({ timeS: 4, positionS: 1 }));
    expect(units.events.map(({ timeS }) => timeS)).toEqual([1, 4]);
    units.record(event({ timeS: 4, positionS: 1.5 }));
    expect(units.events).toHaveLength(2);
    expect(units.positionS("bell", 4)).toBe(1.5);
    units.dropAfter(2);
    expect(units.events.map(({ timeS }) => timeS)).toEqual([1]);
  });
});
