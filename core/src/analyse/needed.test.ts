import { describe, expect, it } from "@jest/globals";
import { newStrand } from "../document/newStrand";
import { newBinding, newObject, newScene } from "../kinds/create";
import { drivingStrands } from "./needed";

describe("drivingStrands", () => {
  it("names each strand that is bound, once, in the order of the scene", () => {
    const scene = newScene("Quay");
    const lantern = newObject("lantern", "sphere", "Lantern");
    for (const id of ["a", "b", "c"]) scene.strands.push(newStrand(scene, id, id, { kind: "nothing" }));
    const bind = (strandId: string, property: string) =>
      scene.bindings.push(newBinding(`${strandId}-${property}`, strandId, lantern, property));
    expect(drivingStrands(scene)).toEqual([]);
    bind("c", "scale");
    bind("a", "radius");
    bind("a", "opacity");
    bind("gone", "opacity");
    expect(drivingStrands(scene).map(({ id }) => id)).toEqual(["a", "c"]);
  });
});
