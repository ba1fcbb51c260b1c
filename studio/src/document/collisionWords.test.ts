import { placeWords } from "@bumbrel/core/check/placeWords";
import type { Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { mergeScenes } from "@bumbrel/core/document/versions/merge";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import { describe, expect, it } from "@jest/globals";
import { sideWords } from "./collisionWords";

/** As it comes from the server. */
const copyOf = (scene: Scene): Scene => JSON.parse(JSON.stringify(scene));
const made = newScene("Quay");
const lantern = newObject("lantern", "sphere", "Lantern");
made.objects.push(lantern);
made.strands.push(newStrand(made, "kick", "Kick", { kind: "nothing" }));
made.bindings.push(newBinding("b", "kick", lantern, "scale"));
const BASE = copyOf(made);

function quay(change: (scene: Scene) => void = () => {}): Scene {
  const scene = copyOf(BASE);
  change(scene);
  return scene;
}

function said(mine: (scene: Scene) => void, theirs: (scene: Scene) => void): string[] {
  const [here, there] = [quay(mine), quay(theirs)];
  return mergeScenes(BASE, here, there).collisions.map((collision) => {
    const place = placeWords(collision.path, [here, BASE, there]);
    return `${place}: ${sideWords(collision.mine, collision.base)} / ${sideWords(collision.theirs, collision.base)}`;
  });
}

describe("collisions in words", () => {
  it("name the thing and its property as the interface does, with the value of each side", () => {
    const last = (scene: Scene) => scene.objects.at(-1)!;
    expect(
      said(
        (mine) => {
          mine.name = "Pier";
          last(mine).rest.scale = 2;
          mine.strands[0].shaping.follow.attackMs = 6;
          mine.bindings = [];
        },
        (theirs) => {
          theirs.name = "Mole";
          last(theirs).rest.scale = 3;
          theirs.strands[0].shaping.follow.attackMs = 50;
          theirs.bindings[0].output = { kind: "range", low: 0, high: 9 };
        },
      ),
    ).toEqual([
      "Project name: Pier / Mole",
      "Strand Kick: shaping follow attack ms: 6 / 50",
      "Object Lantern: Scale: 2 / 3",
      "Binding Kick → Lantern, Scale: deleted / changed",
    ]);
  });
});
