import { Take } from "@bumbrel/core/document/take/take";
import { newObject, newScene } from "@bumbrel/core/kinds/create";
import { loadPartsFor } from "@bumbrel/core/simulate/bodies/laterParts";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { describe, expect, it } from "@jest/globals";
import { throwAlong } from "./teleport";

const EYE = 1.6;
const FROM: [number, number, number] = [0, EYE, 0];

describe("the arc of a teleport", () => {
  it("lands on the floor as far away as a throw does, twice as far at twice the scale of the visitor", () => {
    const { landing, points } = throwAlong(
      { from: FROM, way: [0, 0, -1] },
      { scale: 1, feetY: 0, eye: EYE, floorY: 0, bodies: undefined },
    );
    // 6 m/s for the 0.57 s of a fall from 1.6 m, in steps of 24 cm.
    expect(Math.abs(-landing!.z - 6 * Math.sqrt((2 * EYE) / 9.81))).toBeLessThan(0.25);
    expect(landing!.y).toBe(0);
    expect(points.length).toBeGreaterThan(10);
    const large = throwAlong(
      { from: [0, 2 * EYE, 0], way: [0, 0, -1] },
      { scale: 2, feetY: 0, eye: EYE, floorY: 0, bodies: undefined },
    );
    expect(large.landing!.z / landing!.z).toBeCloseTo(2, 1);
  });

  it("lands on a deck, and nowhere on a wall or beyond an edge", async () => {
    const scene = newScene("Yard");
    const box = (id: string, position: [number, number, number], size: [number, number, number]) => {
      const made = newObject(id, "box", id);
      made.settings = { solid: "fixed" };
      made.rest = { position, size };
      return made;
    };
    const ball = newObject("ball", "sphere", "Ball");
    ball.settings = { solid: "moving" };
    ball.rest = { position: [30, 1, 0] };
    scene.objects.push(box("deck", [0, 0, 0], [8, 0.5, 8]), box("wall", [0, 0.5, -3], [8, 3, 0.4]), ball);
    scene.objects.push(box("low", [3, 0.5, 0], [1, 0.8, 1]), box("high", [-3, 0.5, 0], [1, 1.3, 1]));
    await loadPartsFor(scene);
    const state = new SceneState(scene);
    state.setTake(new Take());
    state.advanceTo(0.1);
    const bodies = state.simulation.answering!.bodies;
    const visitor = { scale: 1, feetY: 0.5, eye: EYE, bodies };
    const thrown = (way: [number, number, number]) =>
      throwAlong({ from: [0, 0.5 + EYE, 2], way }, { ...visitor, floorY: -10 }).landing;
    const down = thrown([0, -0.8, -0.6])!;
    expect(down.y).toBeCloseTo(0.5, 2);
    expect(down.z).toBeLessThan(2);
    // Against the wall, and over the edge of the deck.
    expect(thrown([0, 0.4, -0.92])).toBeUndefined();
    expect(thrown([0.95, 0.31, 0])).toBeUndefined();
    // On top of a box that somebody could climb, and not of one that is too high to come back from.
    const onto = (x: number, z: number, feetY: number) =>
      throwAlong({ from: [x, 2.1, z], way: [0, -0.8, -0.6] }, { ...visitor, feetY, floorY: undefined })
        .landing;
    expect(onto(3, 0.7, 0.5)!.y).toBeCloseTo(1.3, 2);
    expect(onto(-3, 0.2, 0.5)).toBeUndefined();
    expect(onto(-3, 0.2, 0.9)!.y).toBeCloseTo(1.8, 2);
    // The floor far below is a place to land only where it counts.
    const over = {
      from: [3.9, 0.5 + EYE, 2] as [number, number, number],
      way: [1, 0, 0] as [number, number, number],
    };
    expect(throwAlong(over, { ...visitor, floorY: -1 }).landing!.y).toBe(-1);
    expect(throwAlong(over, { ...visitor, floorY: undefined }).landing).toBeUndefined();
  });
});
