import type { StageObject } from "@bumbrel/core/document/scene";
import { restingPose } from "@bumbrel/core/document/take/poses";
import { Take } from "@bumbrel/core/document/take/take";
import { newObject, newScene } from "@bumbrel/core/kinds/create";
import { loadPartsFor } from "@bumbrel/core/simulate/bodies/laterParts";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { itInFull } from "@bumbrel/core/testing/full";
import { beforeAll, describe, expect, it } from "@jest/globals";
import { Walker } from "./walker";

const AHEAD = { ahead: 1, right: 0 };

describe("a walker", () => {
  it("walks the way they look, no faster aslant, and stays on the floor", () => {
    const walker = new Walker();
    walker.stand([0, 0, 5], 0);
    for (let i = 0; i < 100; i++) walker.walk(AHEAD, 1.5, 0.02, 1.7, 0, undefined);
    expect(walker.z).toBeCloseTo(2, 6);
    expect(walker.y).toBe(0);
    walker.turn(90, 0);
    for (let i = 0; i < 50; i++) walker.walk({ ahead: 1, right: 1 }, 1.5, 0.02, 1.7, 0, undefined);
    // 90° to the left looks along −x, and its right is along −z.
    expect(walker.x).toBeCloseTo(-1.5 * Math.SQRT1_2, 6);
    expect(walker.z).toBeCloseTo(2 - 1.5 * Math.SQRT1_2, 6);
    walker.turn(0, 400);
    expect(walker.pitch).toBe(89);
  });
});

describe("a walker among solid things", () => {
  const yard = () => {
    const scene = newScene("Yard");
    const ball = newObject("ball", "sphere", "Ball");
    ball.settings = { solid: "moving" };
    ball.rest = { position: [30, 1, 0] };
    scene.objects.push(newObject("floor", "ground", "Floor"), ball);
    return scene;
  };
  beforeAll(() => loadPartsFor(yard()));

  function put(id: string, position: [number, number, number], size: [number, number, number]): StageObject {
    const box = newObject(id, "box", id);
    box.settings = { solid: "fixed" };
    box.rest = { position, size };
    return box;
  }

  /** Walks ahead for some seconds through a scene, with every step recorded as a visit does. */
  function walked(seconds: number, ...things: StageObject[]): Walker {
    const scene = yard();
    scene.objects.push(...things);
    const state = new SceneState(scene);
    const take = new Take();
    state.setTake(take);
    const walker = new Walker();
    walker.stand([0, 0, 5], 0);
    for (let frame = 0; frame < seconds * 60; frame++) {
      const { bodies } = state.simulation.answering!;
      walker.walk(AHEAD, 2, 1 / 60, 1.7, -10, bodies);
      if (frame % 2 === 0) {
        const pose = { ...restingPose(), x: walker.x, y: walker.y + 1.6, z: walker.z, yaw: walker.yaw };
        take.poses.head.record(state.simulation.nextStep, pose);
      }
      state.advanceTo(frame / 60);
    }
    return walker;
  }

  it("stops at a wall", () => {
    const { z, y } = walked(4, put("wall", [0, 0, 0], [6, 3, 1]));
    // The wall's face is half a metre before its middle; a visitor is a quarter of a metre thick.
    expect(z).toBeGreaterThan(0.7);
    expect(z).toBeLessThan(0.85);
    expect(Math.abs(y)).toBeLessThan(0.05);
  });

  itInFull("never gets on top of a kerb that is too high to climb, however long a frame takes", () => {
    let highest = 0;
    for (let turn = -75; turn <= 75; turn += 5) {
      const scene = yard();
      scene.objects.push(put("kerb", [0, 0, 0], [40, 0.6, 0.28]));
      const state = new SceneState(scene);
      const take = new Take();
      state.setTake(take);
      const walker = new Walker();
      walker.stand([0, 0, 1 + (turn % 10) * 0.03], turn);
      for (let frame = 1; frame < 60; frame++) {
        walker.walk(
          AHEAD,
          2,
          0.1 + 0.3 * ((frame * 7) % 10) * 0.1,
          1.7,
          -10,
          state.simulation.answering!.bodies,
        );
        const pose = { ...restingPose(), x: walker.x, y: walker.y + 1.6, z: walker.z, yaw: walker.yaw };
        take.poses.head.record(state.simulation.nextStep, pose);
        state.advanceTo(frame * 0.25);
        if (Math.abs(walker.x) < 15) highest = Math.max(highest, walker.y);
      }
    }
    expect(highest).toBeLessThan(0.1);
  });

  it("climbs steps and stands on solid ground", () => {
    const steps = [0, 1, 2].map((i) => put(`step${i}`, [0, 0, 3 - i], [4, 0.25 * (i + 1), 1]));
    const { y, z } = walked(2.5, ...steps);
    expect(z).toBeLessThan(1.4);
    expect(y).toBeGreaterThan(0.65);
    expect(y).toBeLessThan(0.85);
  });

  it("waits until the ground is loaded, and is lifted out of solid things", () => {
    const walker = new Walker();
    walker.stand([0, 0, 5], 0);
    for (let i = 0; i < 200; i++) walker.walk(AHEAD, 2, 0.4, 1.7, -10, "coming");
    expect([walker.x, walker.y, walker.z]).toEqual([0, 0, 5]);
    // A deck whose top is half a metre above where they arrive, and one that is higher than they are.
    for (const height of [0.5, 2.4]) {
      const deck = put("deck", [0, 0, 0], [60, height, 60]);
      expect(walked(0.2, deck).y).toBeGreaterThan(height - 0.03);
      const later = walked(3, deck);
      expect(Math.abs(later.y - height)).toBeLessThan(0.05);
      expect(later.z).toBeLessThan(0);
    }
  });

  it("never falls through or out, however slow the machine is and wherever they go", () => {
    const deck = put("deck", [0, 0, 0], [16, 0.5, 16]);
    const walls = [
      put("north", [0, 0, -8.25], [17, 4, 0.5]),
      put("south", [0, 0, 8.25], [17, 4, 0.5]),
      put("west", [-8.25, 0, 0], [0.5, 4, 17]),
      put("east", [8.25, 0, 0], [0.5, 4, 17]),
      put("crate", [2, 0.5, 2], [1, 1, 1]),
      put("plinth", [-3, 0.5, -2], [2, 0.3, 2]),
    ];
    const scene = yard();
    scene.objects.push(deck, ...walls);
    const state = new SceneState(scene);
    const take = new Take();
    state.setTake(take);
    const walker = new Walker();
    walker.stand([0, 0, 5], 0);
    let seed = 7;
    const random = () => {
      seed = (Math.imul(seed, 1_103_515_245) + 12_345) & 0x7fffffff;
      return seed / 0x7fffffff;
    };
    let timeS = 0;
    let hasStood = false;
    for (let frame = 0; frame < 900; frame++) {
      // Frames of 16 ms to half a second.
      const passedS = random() < 0.2 ? 0.5 * random() : 0.016;
      timeS += passedS;
      if (random() < 0.1) walker.turn(360 * random(), 0);
      walker.walk(
        { ahead: 1, right: random() - 0.5 },
        3,
        passedS,
        1.7,
        -10,
        state.simulation.answering!.bodies,
      );
      const pose = { ...restingPose(), x: walker.x, y: walker.y + 1.6, z: walker.z, yaw: walker.yaw };
      take.poses.head.record(state.simulation.nextStep, pose);
      state.advanceTo(timeS);
      hasStood ||= walker.y > 0.4;
      if (!hasStood) continue;
      expect(walker.y).toBeGreaterThan(0.45);
      expect(Math.max(Math.abs(walker.x), Math.abs(walker.z))).toBeLessThan(8);
    }
    expect(hasStood).toBe(true);
  });

  it("finds where somebody can be put: on a deck, not in a wall, not over an edge", () => {
    const scene = yard();
    scene.objects.push(put("deck", [0, 0, 0], [6, 0.5, 6]), put("wall", [0, 0.5, -2], [6, 3, 0.4]));
    const state = new SceneState(scene);
    state.setTake(new Take());
    state.advanceTo(0.1);
    const bodies = state.simulation.answering!.bodies!;
    const down = bodies.hit([1, 3, 1], [0, -1, 0], 10)!;
    expect(down.point[1]).toBeCloseTo(0.5, 3);
    expect(bodies.canStand(down.point, down.normal, 1.7)).toBe(true);
    const ahead = bodies.hit([1, 1.5, 1], [0, 0, -1], 10)!;
    expect(ahead.point[2]).toBeCloseTo(-1.8, 3);
    expect(bodies.canStand(ahead.point, ahead.normal, 1.7)).toBe(false);
    const edge = bodies.hit([2.95, 3, 1], [0, -1, 0], 10)!;
    expect(bodies.canStand(edge.point, edge.normal, 1.7)).toBe(false);
    // Under the wall's foot there is no room.
    expect(bodies.isFree([1, 0.5, -2], 1.7)).toBe(false);
    expect(bodies.onTop([1, 0.2, -2], 1.7)[1]).toBeCloseTo(3.5, 1);
  });
});
