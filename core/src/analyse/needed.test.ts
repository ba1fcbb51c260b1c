import { describe, expect, it } from "@jest/globals";
import { newStrand } from "../document/strands/newStrand";
import { newBinding, newObject, newScene } from "../kinds/create";
import { drivingStrands, neededParts, neededReaders } from "./needed";

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

describe("neededParts", () => {
  const sceneWith = (lens: Record<string, number>, quality: "desktop" | "phone" | "plain" = "desktop") => {
    const scene = newScene("Quay");
    scene.quality = quality;
    scene.objects.find(({ kind }) => kind === "lens")!.rest = { occlusion: 0, ...lens };
    return scene;
  };

  it("are none for a scene that uses none", () => {
    expect(neededParts(sceneWith({}))).toEqual([]);
    expect(neededParts(sceneWith({ bloom: 1, occlusion: 1 }, "plain"))).toEqual([]);
  });

  it("are those that the lens uses, or may come to use by a strand", () => {
    expect(neededParts(sceneWith({ bloom: 0.2 }))).toEqual(["effects"]);
    expect(neededParts(sceneWith({ occlusion: 0.5 }))).toEqual(["effects", "occlusion"]);
    expect(neededParts(sceneWith({ occlusion: 0.5, vignette: 1 }, "phone"))).toEqual(["effects"]);
    const bound = sceneWith({});
    const lens = bound.objects.find(({ kind }) => kind === "lens")!;
    bound.bindings.push(newBinding("b", "s", lens, "feedback"));
    expect(neededParts(bound)).toEqual(["effects"]);
  });

  it("are those that objects use", () => {
    const scene = sceneWith({});
    scene.objects.push(newObject("words", "text", "Words"), newObject("boat", "model", "Boat"), {
      ...newObject("ghost", "box", "Ghost"),
      settings: { blend: "difference" },
    });
    expect(neededParts(scene)).toEqual(["effects", "models", "words"]);
    scene.objects.find(({ kind }) => kind === "environment")!.settings = { scenery: "panorama" };
    expect(neededParts(scene)).toContain("panorama");
  });
});

describe("neededReaders", () => {
  it("contains the splitter where a strand listens to a part of a sound", () => {
    const scene = newScene("Quay");
    const lantern = newObject("lantern", "sphere", "Lantern");
    scene.objects.push(lantern);
    scene.bindings.push(newBinding("b", "a", lantern, "scale"));
    const listensTo = { kind: "bus", id: "drums", tap: "before" } as const;
    scene.strands = [newStrand(scene, "a", "A", listensTo)];
    expect(neededReaders(scene, false)).toEqual([]);
    scene.strands = [newStrand(scene, "a", "A", { ...listensTo, part: "percussive" })];
    expect(neededReaders(scene, false)).toEqual(["parts"]);
  });
});
