import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { newObject, newScene } from "../../kinds/create";
import type { Scene } from "../scene";
import { mergeScenes } from "./merge";

const EMPTY: Scene = { ...newScene("Quay"), objects: [] };
const BOX = newObject("box", "box", "Box");

function scene(change: (scene: Scene) => void = () => {}): Scene {
  const made = structuredClone(EMPTY);
  for (const name of ["Boat", "Lantern", "Fog"]) made.objects.push({ ...BOX, id: name, name });
  change(made);
  return made;
}
const ids = ({ objects }: Scene) => objects.map(({ id }) => id);
const remove = (id: string) => (scene: Scene) => {
  scene.objects = scene.objects.filter((object) => object.id !== id);
};
const rename = (index: number, name: string) => (scene: Scene) => {
  scene.objects[index].name = name;
};

/** A scene whose objects are some of nine, in any order, with any of two names, and with any of three names itself. */
const scenes = fc
  .record({
    name: fc.constantFrom("Quay", "Pier", "Mole"),
    objects: fc.shuffledSubarray([..."abcdefghi"]),
    names: fc.array(fc.constantFrom("one", "two"), { minLength: 9, maxLength: 9 }),
  })
  .map(({ name, objects, names }) => ({
    ...EMPTY,
    name,
    objects: objects.map((id, i) => ({ ...BOX, id, name: names[i] })),
  }));

describe("merging scenes", () => {
  it("takes both sides' changes of different things, properties of one thing included", () => {
    const { scene: merged, collisions } = mergeScenes(
      scene(),
      scene((mine) => {
        mine.name = "Pier";
        mine.objects[1].name = "Red lantern";
        mine.objects.splice(1, 0, { ...mine.objects[0], id: "Oar" });
      }),
      scene((theirs) => {
        theirs.objects[1].hidden = true;
        theirs.objects.push({ ...theirs.objects[0], id: "Gull" });
      }),
    );
    expect(collisions).toEqual([]);
    expect(merged.name).toBe("Pier");
    expect(ids(merged)).toEqual(["Boat", "Oar", "Lantern", "Fog", "Gull"]);
    expect(merged.objects[2]).toMatchObject({ name: "Red lantern", hidden: true });
  });

  it("keeps removals, and the order of the side that moved something", () => {
    const moved = scene(({ objects }) => objects.reverse());
    expect(ids(mergeScenes(scene(), scene(remove("Boat")), moved).scene)).toEqual(["Fog", "Lantern"]);
    expect(ids(mergeScenes(scene(), moved, scene(remove("Boat"))).scene)).toEqual(["Fog", "Lantern"]);
  });

  it("names each collision with its place, and takes the side that is chosen for it", () => {
    const sides = [
      scene(),
      scene((mine) => {
        rename(1, "Red")(mine);
        remove("Fog")(mine);
      }),
      scene((theirs) => {
        rename(1, "Blue")(theirs);
        rename(2, "Mist")(theirs);
      }),
    ] as const;
    const { scene: merged, collisions } = mergeScenes(...sides);
    expect(collisions).toMatchObject([
      { path: ["objects", "Lantern", "name"], base: "Lantern", mine: "Red", theirs: "Blue" },
      { path: ["objects", "Fog"], mine: undefined, theirs: { name: "Mist" } },
    ]);
    expect(merged.objects.map(({ name }) => name)).toEqual(["Boat", "Red"]);
    const chosen = mergeScenes(...sides, ({ path }) => (path[1] === "Fog" ? "theirs" : "mine"));
    expect(chosen.scene.objects.map(({ name }) => name)).toEqual(["Boat", "Red", "Mist"]);
  });

  it("never mixes two kinds", () => {
    const { collisions } = mergeScenes(
      scene(),
      scene((mine) => {
        mine.objects[0] = newObject("Boat", "sphere", "Boat");
      }),
      scene((theirs) => {
        theirs.objects[0] = newObject("Boat", "pointLight", "Boat");
      }),
    );
    expect(collisions.map(({ path }) => path)).toEqual([["objects", "Boat"]]);
  });

  it("takes the side that changed something when the other did not, and changes that both made alike", () => {
    fc.assert(
      fc.property(scenes, scenes, (base, other) => {
        for (const merged of [
          mergeScenes(base, other, base),
          mergeScenes(base, base, other),
          mergeScenes(base, other, other),
        ]) {
          expect(merged).toEqual({ scene: other, collisions: [] });
        }
      }),
    );
  });

  it("keeps every item that one side added, and no item twice", () => {
    fc.assert(
      fc.property(scenes, scenes, scenes, (base, mine, theirs) => {
        const merged = ids(mergeScenes(base, mine, theirs).scene);
        expect(new Set(merged).size).toBe(merged.length);
        for (const id of [...ids(mine), ...ids(theirs)]) {
          if (!ids(base).includes(id)) expect(merged).toContain(id);
        }
      }),
    );
  });
});
