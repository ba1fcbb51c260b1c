import { describe, expect, it } from "@jest/globals";
import { newScene } from "../../kinds/create";
import { newStrand } from "./newStrand";

describe("a new strand", () => {
  it("has a hue and a shape of its own", () => {
    const scene = newScene("Quay");
    for (let i = 0; i < 8; i++) scene.strands.push(newStrand(scene, `s${i}`, `S${i}`, { kind: "nothing" }));
    expect(new Set(scene.strands.map(({ hue }) => hue)).size).toBe(8);
    expect(new Set(scene.strands.map(({ shape }) => shape)).size).toBe(8);
  });
});
