import { restingPose } from "@bumbrel/core/document/poses";
import type { StageObject } from "@bumbrel/core/document/scene";
import { Take } from "@bumbrel/core/document/take";
import { newObject, newScene } from "@bumbrel/core/kinds/create";
import { loadPartsFor } from "@bumbrel/core/simulate/laterParts";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
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

  it("goes up steps and stands on what is there", () => {
    const steps = [0, 1, 2].map((i) => put(`step${i}`, [0, 0, 3 - i], [4, 0.25 * (i + 1), 1]));
    const { y, z } = walked(2.5, ...steps);
    expect(z).toBeLessThan(1.4);
    expect(y).toBeGreaterThan(0.65);
    expect(y).toBeLessThan(0.85);
  });
});
