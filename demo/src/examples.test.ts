import type { Scene } from "@bumbrel/core/document/scene";
import { restingPose } from "@bumbrel/core/document/take/poses";
import { Take } from "@bumbrel/core/document/take/take";
import { TAPE_UNIT } from "@bumbrel/core/document/take/units";
import { loadPartsFor } from "@bumbrel/core/simulate/bodies/laterParts";
import { newInstances } from "@bumbrel/core/simulate/placing";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { STEPS_A_SECOND } from "@bumbrel/core/simulate/stepper";
import { beforeAll, describe, expect, it } from "@jest/globals";
import { EXAMPLES } from "./examples";

const LENGTHS_S: Record<string, number> = {
  netLoft: 9.6,
  boatHouse: 9.6,
  lampRoom: 9.6,
  fogBell: 4.4,
  farewell: 16,
  buoy: 2.2,
};

const sceneOf = (id: "fog-bell" | "ferry-card" | "slipway"): Scene =>
  EXAMPLES[id].scene(Object.fromEntries(EXAMPLES[id].sounds.map((sound) => [sound.id, sound.id])));

beforeAll(() => loadPartsFor(sceneOf("fog-bell")));

/** A run of an example from its start, as a visitor meets it: sounds that answers start wait for them. */
function run(scene: Scene, happens: (take: Take) => void = () => {}) {
  const take = new Take();
  take.isRun = true;
  for (const { id, loops } of scene.sounds) {
    const unit = { kind: "unit", timeS: 0, positionS: 0, lengthS: LENGTHS_S[id], loops } as const;
    take.units.record({ ...unit, unitId: id, running: false });
  }
  take.units.record({
    kind: "unit",
    timeS: 0,
    unitId: TAPE_UNIT,
    positionS: 0,
    running: true,
    lengthS: 0,
    loops: false,
  });
  happens(take);
  const state = new SceneState(scene);
  state.setLengths(
    new Map(scene.sounds.map(({ id, loops }) => [id, { lengthS: LENGTHS_S[id], loops }] as const)),
  );
  state.setTake(take);
  return state;
}

/** Places of all copies of an object as they are drawn. */
function placesOf(state: SceneState, id: string): [number, number, number][] {
  const plan = state.plan.of(id)!;
  const instances = newInstances(state.placing.maxInstances(plan));
  const count = state.placing.writeInstances(plan, state.timeS, state.values, instances);
  return Array.from({ length: count }, (_none, i) => {
    const [x, y, z] = instances.matrices.subarray(i * 16 + 12, i * 16 + 15);
    return [x, y, z];
  });
}
const highest = (state: SceneState, id: string) => Math.max(...placesOf(state, id).map(([, y]) => y));

/** Feet along the quay: from one place to the next, a metre a second. */
function walk(take: Take, ...places: number[]): void {
  let step = 0;
  for (let i = 1; i < places.length; i++) {
    const steps = Math.round(Math.abs(places[i] - places[i - 1]) * STEPS_A_SECOND);
    for (let at = 0; at <= steps; at += 4, step += 4) {
      const z = places[i - 1] + ((places[i] - places[i - 1]) * at) / steps;
      take.poses.head.record(step, { ...restingPose(), y: 2.1, z });
    }
  }
}

describe("Fog Bell", () => {
  const runs = (state: SceneState, id: string) => state.units!.isRunning(id, state.timeS);
  const position = (state: SceneState, id: string) => state.units!.positionS(id, state.timeS);

  it("plays each house's music while somebody is before it, and goes on where it stopped", () => {
    // The net loft's zone reaches from 3.5 to 10.5 along the quay.
    const state = run(sceneOf("fog-bell"), (take) => walk(take, 14, 7, 12, 7));
    state.advanceTo(1);
    expect(["netLoft", "boatHouse", "lampRoom", "fogBell"].map((id) => runs(state, id))).toEqual(
      Array(4).fill(false),
    );
    state.advanceTo(6);
    expect([runs(state, "netLoft"), runs(state, "boatHouse")]).toEqual([true, false]);
    expect(state.valueOf("netLoft-light", "intensity")).toBeGreaterThan(7);
    // Out again after 10.5 s, faded for 0.9 s.
    state.advanceTo(11.6);
    expect(runs(state, "netLoft")).toBe(false);
    const left = position(state, "netLoft");
    expect(left).toBeGreaterThan(6);
    state.advanceTo(13.4);
    expect(position(state, "netLoft")).toBe(left);
    state.advanceTo(15);
    expect(runs(state, "netLoft")).toBe(true);
    expect(position(state, "netLoft")).toBeGreaterThan(left);
    expect(position(state, "netLoft")).toBeLessThan(left + 1.6);
  });

  it("strikes the bell when it is tapped, and its crates jump", () => {
    const ring = (take: Take) =>
      take.record({
        kind: "tap",
        step: 240,
        by: "pointer",
        from: [0, 2, -10],
        way: [0, 0, -1],
        objectId: "bell",
        copy: 0,
        point: [0, 2.5, -17],
      });
    const state = run(sceneOf("fog-bell"), ring);
    state.advanceTo(1.9);
    const before = highest(state, "crates");
    expect(runs(state, "fogBell")).toBe(false);
    let top = 0;
    for (let timeS = 2; timeS < 3; timeS += 1 / 30) {
      state.advanceTo(timeS);
      top = Math.max(top, highest(state, "crates"));
    }
    expect(runs(state, "fogBell")).toBe(true);
    // They are told to jump 0.7 m, and get in each other's way.
    expect(top - before).toBeGreaterThan(0.5);
    // None has fallen off the quay, whose top is at 0.5.
    state.advanceTo(6);
    for (const [, y] of placesOf(state, "crates")) expect(y).toBeGreaterThan(0.6);
  });
});

describe("Ferry Card", () => {
  it("begins at a tap, and its rings are gone when the music ends", () => {
    const tap = (take: Take) =>
      take.record({
        kind: "tap",
        step: 120,
        by: "pointer",
        from: [0, 1, 4],
        way: [0, 0, -1],
        objectId: null,
        copy: 0,
        point: [0, 1, 0],
      });
    const state = run(sceneOf("ferry-card"), tap);
    const seen = (timeS: number) => {
      state.advanceTo(timeS);
      return ["ring-inner", "beads", "lanterns", "words"].map((id) => state.valueOf(id, "visibility"));
    };
    expect(seen(0.5)).toEqual([0, 0, 0, 1]);
    expect(seen(5)).toEqual([1, 1, 1, 0]);
    expect(seen(16.5)).toEqual([1, 1, 1, 0]);
    expect(seen(17.5)).toEqual([0, 0, 0, 1]);
  });
});

describe("Slipway", () => {
  it("rings when a hand strikes a buoy, which swings back to its place", () => {
    const strike = (take: Take) => {
      for (let step = 0; step <= 240; step += 2) {
        // The hand comes from behind the middle buoy's near side, through it, and is drawn back.
        const reach = step < 120 ? 0 : step < 160 ? (step - 120) / 40 : Math.max(0, 1 - (step - 160) / 40);
        take.poses.right.record(step, { ...restingPose(), y: 1.4, z: -0.3 - 0.5 * reach });
      }
      take.poses.head.record(0, { ...restingPose(), y: 1.72, z: 0.3 });
    };
    const scene = sceneOf("slipway");
    const state = run(scene, strike);
    state.advanceTo(0.9);
    const [home] = placesOf(state, "buoy-3");
    let furthest = 0;
    for (let timeS = 1; timeS < 3; timeS += 1 / 60) {
      state.advanceTo(timeS);
      const [[x, y, z]] = placesOf(state, "buoy-3");
      furthest = Math.max(furthest, Math.hypot(x - home[0], y - home[1], z - home[2]));
    }
    expect(state.simulation.answering!.history.map(({ answerId }) => answerId)).toContain("strike-3");
    expect(state.units!.isRunning("buoy", 1.8)).toBe(true);
    expect(furthest).toBeGreaterThan(0.05);
    state.advanceTo(9);
    const [[x, y, z]] = placesOf(state, "buoy-3");
    expect(Math.hypot(x - home[0], y - home[1], z - home[2])).toBeLessThan(0.02);
  });
});
