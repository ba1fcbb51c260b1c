import { describe, expect, it } from "@jest/globals";
import * as fc from "fast-check";
import type { Scene } from "../document/scene";
import { newStrand } from "../document/strands/newStrand";
import { changesBetween } from "../document/versions/changes";
import { newBinding, newObject, newScene } from "../kinds/create";
import { changeWords } from "./placeWords";

function quay(): Scene {
  const scene = newScene("Quay");
  const lantern = newObject("lantern", "sphere", "Lantern");
  scene.objects.push(lantern, newObject("buoy", "cone", "Buoy"));
  scene.strands.push(newStrand(scene, "kick", "Kick", { kind: "nothing" }));
  scene.bindings.push(newBinding("b", "kick", lantern, "scale"));
  return scene;
}
const lanternOf = ({ objects }: Scene) => objects.find(({ id }) => id === "lantern")!;
const told = (change: (scene: Scene) => void) => {
  const [before, after] = [quay(), quay()];
  change(after);
  return changesBetween(before, after).map((one) => changeWords(one, [after, before]));
};

describe("changes in words", () => {
  it("name changes as the interface does", () => {
    expect(
      told((scene) => {
        scene.name = "Pier";
        scene.strands[0].shaping.follow.attackMs = 7;
        lanternOf(scene).rest.emissionStrength = 3;
        scene.bindings[0].output = { kind: "range", low: 0, high: 9 };
      }),
    ).toEqual([
      "Project name",
      "Strand Kick: shaping follow attack ms",
      "Object Lantern: Emission",
      "Binding Kick → Lantern, Scale: output low",
      "Binding Kick → Lantern, Scale: output high",
    ]);
  });

  it("tell additions, removals and changes of order", () => {
    expect(
      told((scene) => {
        scene.objects.push(newObject("moon", "sphere", "Moon"));
        scene.objects = scene.objects.filter(({ id }) => id !== "buoy");
        scene.bindings = [];
      }),
    ).toEqual(["Object Buoy, removed", "Object Moon, added", "Binding Kick → Lantern, Scale, removed"]);
    expect(told((scene) => scene.objects.reverse())).toEqual(["Project objects"]);
    expect(told(() => {})).toEqual([]);
  });

  it("are the same places from both sides", () => {
    const edits: ((scene: Scene) => void)[] = [
      (scene) => {
        lanternOf(scene).rest.scale = 4;
      },
      (scene) => {
        scene.marks.push({ id: "m", name: "Verse", timeS: 3, beginsSection: true } as Scene["marks"][number]);
      },
      (scene) => {
        scene.strands[0].muted = true;
      },
    ];
    fc.assert(
      fc.property(fc.subarray(edits), (some) => {
        const [before, after] = [quay(), quay()];
        for (const edit of some) edit(after);
        const paths = (a: Scene, b: Scene) => changesBetween(a, b).map(({ path }) => path.join("."));
        expect(paths(before, after)).toEqual(paths(after, before));
        expect(paths(before, after)).toHaveLength(some.length);
      }),
    );
  });
});
