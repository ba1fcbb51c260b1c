import { describe, expect, it } from "@jest/globals";
import type { ObjectKind, StageObject } from "../document/scene";
import { newObject, newProject } from "./create";
import { placeNew } from "./placeNew";

function added(kind: ObjectKind, objects: StageObject[]): StageObject {
  const object = newObject(`o${objects.length}`, kind, kind);
  placeNew(objects, object);
  objects.push(object);
  return object;
}

describe("a new object's place", () => {
  it("goes into the first gap beside the other objects", () => {
    const { objects } = newProject("Quay");
    const xs = [0, 1, 2].map(() => (added("box", objects).rest.position as number[])[0]);
    expect(xs).toEqual([0, 1.7, -1.7]);
  });

  it("is over a floor that is there, for one that would lie in it", () => {
    const { objects } = newProject("Quay");
    const heights = ["ground", "water"].map(
      (kind) => (added(kind as ObjectKind, objects).rest.position as number[])[1],
    );
    expect(heights[0]).toBeGreaterThan(0);
    expect(heights[1]).toBeGreaterThan(heights[0]);
    expect(added("water", []).rest.position).toBeUndefined();
  });
});
