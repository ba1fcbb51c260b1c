import { readFileSync } from "node:fs";
import { describe, expect, it } from "@jest/globals";
import { readTake } from "../../check/readTake";
import { restingPose } from "./poses";
import { Take } from "./take";
import { TakeFileSchema, takeToFile } from "./takeFile";

const tap = (step: number) =>
  ({
    kind: "tap",
    step,
    by: "pointer",
    objectId: "bell",
    copy: 0,
    point: [0, 1, 0],
    from: [0, 1.6, 5],
    way: [0, 0, -1],
  }) as const;

function visit(): Take {
  const take = new Take();
  take.isRun = true;
  take.name = "A walk";
  take.soundDelayS = 0.03;
  take.units.record({
    kind: "unit",
    timeS: 0,
    unitId: "",
    positionS: 0,
    running: true,
    lengthS: 30,
    loops: false,
  });
  take.record({ kind: "key", step: 60, key: "Space" });
  take.record(tap(240));
  take.poses.head.record(0, { ...restingPose(), z: 5, y: 1.6 });
  take.poses.head.record(120, { ...restingPose(), z: 3, y: 1.6 });
  take.lastUntil(600);
  return take;
}

describe("a take", () => {
  it("has a published schema that is up to date", () => {
    expect(JSON.parse(readFileSync("docs/take.schema.json", "utf8"))).toEqual(
      JSON.parse(JSON.stringify(TakeFileSchema)),
    );
  });

  it("comes back from its file as it was", () => {
    const take = visit();
    const text = JSON.stringify(takeToFile(take));
    const back = readTake(text, "walk.json");
    expect(JSON.stringify(takeToFile(back))).toBe(text);
    expect(back.isRun).toBe(true);
    expect(back.lengthS).toBe(5);
    expect(back.events).toEqual(take.events);
    const pose = restingPose();
    expect(back.poses.head.at(130, pose) && pose.z).toBe(3);
  });

  it("is trimmed to a part that begins with the state at that time", () => {
    const part = visit().trimmed(120, 480);
    expect(part.lengthSteps).toBe(360);
    expect(part.events).toEqual([tap(120)]);
    expect(part.units.positionS("", 0)).toBe(1);
    expect(part.units.positionS("", 2)).toBe(3);
    const pose = restingPose();
    expect(part.poses.head.at(0, pose) && pose.z).toBe(3);
    expect(takeToFile(visit().trimmed(0, 600))).toEqual(takeToFile(visit()));
  });

  it("forgets later events when one is recorded earlier", () => {
    const take = visit();
    take.record({ kind: "key", step: 200, key: "a" });
    expect(take.events.map(({ step }) => step)).toEqual([60, 200]);
    expect(take.firstFrom(61)).toBe(1);
    expect(take.firstFrom(201)).toBe(2);
  });

  it("of a damaged file reports the problem and the remedy", () => {
    const file = takeToFile(visit());
    const read = (change: object) => () => readTake(JSON.stringify({ ...file, ...change }), "walk.json");
    expect(() => readTake("{", "walk.json")).toThrow(/walk\.json: this is no take that can be read/);
    expect(read({ lengthSteps: -1 })).toThrow(/at \/lengthSteps.*Record the take again/);
    expect(read({ poses: { head: "A" } })).toThrow(/no Base64/);
    expect(read({ poses: { head: "AQE=" } })).toThrow(/cut off/);
    expect(read({ events: [{ kind: "dance", step: 1 }] })).toThrow(/\/events\/0/);
  });
});
