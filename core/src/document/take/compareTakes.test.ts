import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { compareTakes } from "./compareTakes";
import { restingPose } from "./poses";
import { Take, type VisitorEvent } from "./take";

const key = (step: number, name: string): VisitorEvent => ({ kind: "key", step, key: name });
const tap = (step: number, objectId: string | null): VisitorEvent => ({
  kind: "tap",
  step,
  by: "pointer",
  objectId,
  copy: 0,
  point: [0, 0, 0],
  from: [0, 0, 0],
  way: [0, 0, -1],
});
function takeOf(events: VisitorEvent[], lengthSteps = 1200): Take {
  const take = new Take();
  for (const event of [...events].sort((a, b) => a.step - b.step)) take.record(event);
  take.lastUntil(lengthSteps);
  return take;
}

describe("two takes", () => {
  it("agree where everything happened at nearly the same time", () => {
    const { events, differS } = compareTakes(
      takeOf([key(120, "j"), tap(240, "lamp")]),
      takeOf([key(126, "j"), tap(228, "lamp")]),
    );
    expect(events.map((one) => [one.in, one.atS, Math.round(one.laterS * 100) / 100])).toEqual([
      ["both", 1, 0.05],
      ["both", 2, -0.1],
    ]);
    expect(differS).toBeUndefined();
  });

  it("differ from the first thing on that only one of them has", () => {
    const { events, differS } = compareTakes(
      takeOf([key(120, "j"), tap(240, "lamp"), key(600, "k")]),
      takeOf([key(120, "j"), tap(240, "bell"), key(640, "k")]),
    );
    expect(events.map((one) => [one.in, one.atS])).toEqual([
      ["both", 1],
      ["first", 2],
      ["second", 2],
      ["first", 5],
      ["second", 640 / 120],
    ]);
    expect(differS).toBe(2);
  });

  it("differ where heads part, and where a sound was started by hand", () => {
    const walked = (metres: number) => {
      const take = takeOf([], 480);
      for (let step = 0; step <= 480; step += 4)
        take.poses.head.record(step, { ...restingPose(), x: step < 240 ? 0 : metres });
      return take;
    };
    expect(compareTakes(walked(0), walked(0.1)).differS).toBeUndefined();
    const { headsApartM, differS } = compareTakes(walked(0), walked(3));
    expect(headsApartM).toHaveLength(17);
    expect(headsApartM[16]).toBeCloseTo(3, 2);
    expect(differS).toBe(2);
    const started = walked(0);
    started.units.record({
      kind: "unit",
      timeS: 1,
      unitId: "hum",
      positionS: 0,
      running: true,
      lengthS: 2,
      loops: false,
    });
    expect(compareTakes(walked(0), started).events).toMatchObject([{ in: "second", atS: 1 }]);
  });

  it("count a held press once", () => {
    const held = takeOf(
      [1, 2, 3].map((i) => ({
        kind: "hold",
        step: 100 + i * 12,
        by: "pointer",
        objectId: "lamp",
        copy: 0,
        point: [0, 0, 0],
        heldMs: i * 100,
      })),
    );
    expect(compareTakes(held, takeOf([])).events).toHaveLength(1);
  });

  it("give every event once, whichever way round they are compared, and none that differs from itself", () => {
    const some = fc
      .array(fc.record({ step: fc.integer({ min: 1, max: 1000 }), name: fc.constantFrom("j", "k") }), {
        maxLength: 12,
      })
      .map((list) => takeOf(list.map(({ step, name }) => key(step, name))));
    fc.assert(
      fc.property(some, some, (a, b) => {
        const { events } = compareTakes(a, b);
        const both = events.filter((one) => one.in === "both").length;
        expect(events.length + both).toBe(a.events.length + b.events.length);
        expect(events.filter((one) => one.in === "first").length + both).toBe(a.events.length);
        expect(compareTakes(a, a).differS).toBeUndefined();
      }),
    );
  });
});
