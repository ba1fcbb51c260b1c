import { newPlace } from "@bumbrel/core/sound/kinds";
import { describe, expect, it } from "@jest/globals";
import { PlaceRings } from "./placeRings";

const place = (referenceM: number, maximumM: number) =>
  newPlace({ position: [1, 2, 3], referenceM, maximumM });

describe("rings around sounds", () => {
  it("stand at the reference and the maximum distance, around the place", () => {
    const rings = new PlaceRings();
    rings.show([place(2, 15), place(4, 1)]);
    // A maximum inside the reference distance changes nothing, and is drawn there.
    expect(rings.radii()).toEqual([2, 15, 4, 4]);
    expect(rings.root.children[1].position.toArray()).toEqual([1, 2, 3]);
    const [first] = rings.root.children;
    rings.show([place(2, 15), place(4, 1)]);
    expect(rings.root.children[0]).toBe(first);
    rings.show([]);
    expect(rings.radii()).toEqual([]);
  });
});
