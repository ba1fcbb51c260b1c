import { describe, expect, it } from "@jest/globals";
import { drivingStrands, neededParts } from "../analyse/needed";
import { parseScene } from "../check/readScene";
import { checkReferences } from "../check/references";
import { newStrand } from "../document/newStrand";
import type { Scene } from "../document/scene";
import { newBinding, newObject, newScene } from "./create";
import { changeProgram, giveProgram, lostBindings, unlink } from "./programs";
import { propertyOf } from "./table";

const CODE = `uniform float height; // 0 to 2, default 0.5, m: How far it rises.
uniform vec3 tint; // colour, default #ffcc66: Its colour.
uniform Strand beat; // The strand that moves it.
void move(inout Point p) { p.place.y += height; }`;

function withProgram(code = CODE): Scene {
  const scene = newScene("Quay");
  scene.strands.push(newStrand(scene, "s", "S", { kind: "nothing" }));
  scene.programs.push({ id: "p", name: "Hills", kind: "surface", code, draft: null });
  for (const id of ["a", "b"]) {
    const object = newObject(id, "box", id);
    giveProgram(object, scene.programs[0]);
    scene.objects.push(object);
  }
  return scene;
}
const objectOf = (scene: Scene, id: string) => scene.objects.find((one) => one.id === id)!;

describe("objects that use a program", () => {
  it("have its values as properties, and the document is valid", () => {
    const scene = withProgram();
    const a = objectOf(scene, "a");
    a.rest["program:height"] = 1.5;
    a.rest["program:tint"] = "#102030";
    a.links = { "program:beat": "s" };
    expect(propertyOf(a, "program:height")).toMatchObject({ max: 2, unit: "m" });
    scene.bindings.push(newBinding("x", "s", a, "program:height"));
    expect(parseScene(JSON.parse(JSON.stringify(scene)))).toEqual(scene);
    expect(checkReferences(scene).map(({ code }) => code)).not.toContain("binding-lost-property");
    giveProgram(a, undefined);
    expect(a.own).toBeUndefined();
  });

  it("keep their numbers, bindings and choices when a value is renamed", () => {
    const scene = withProgram();
    const a = objectOf(scene, "a");
    a.rest["program:height"] = 1.5;
    a.links = { "program:beat": "s" };
    scene.bindings.push(newBinding("x", "s", a, "program:height"));
    const lost = changeProgram(scene, "p", CODE.replaceAll("height", "rise").replace("beat", "kick"));
    expect(lost).toEqual([]);
    for (const id of ["a", "b"]) expect(propertyOf(objectOf(scene, id), "program:rise")).toBeDefined();
    expect(propertyOf(a, "program:height")).toBeUndefined();
    expect(a.rest).toMatchObject({ "program:rise": 1.5 });
    expect(a.links).toEqual({ "program:kick": "s" });
    expect(scene.bindings[0].property).toBe("program:rise");
  });

  it("say which bindings a value that is gone leaves behind, and follow it when it comes back", () => {
    const scene = withProgram();
    const a = objectOf(scene, "a");
    scene.bindings.push(newBinding("x", "s", a, "program:height"));
    const lost = changeProgram(scene, "p", "void move(inout Point p) {}");
    expect(lost).toEqual([{ bindingId: "x", object: "a", value: "height" }]);
    expect(scene.bindings).toHaveLength(1);
    changeProgram(scene, "p", CODE);
    expect(lostBindings(scene, "p")).toEqual([]);
  });

  it("rest at the default where their number lies outside of new limits", () => {
    const scene = withProgram();
    const a = objectOf(scene, "a");
    a.rest["program:height"] = 1.5;
    changeProgram(scene, "p", CODE.replace("0 to 2", "0 to 1"));
    expect(a.rest["program:height"]).toBeUndefined();
  });

  it("have their strands computed though nothing else follows them, and what is gone taken away", () => {
    const scene = withProgram();
    const a = objectOf(scene, "a");
    a.links = { "program:beat": "s" };
    expect(drivingStrands(scene).map(({ id }) => id)).toEqual(["s"]);
    expect(neededParts(scene)).toContain("programs");
    scene.strands = [];
    expect(checkReferences(scene).map(({ code }) => code)).toContain("program-lost-link");
    unlink(scene, "s");
    expect(a.links).toBeUndefined();
    expect(checkReferences(scene).map(({ code }) => code)).not.toContain("program-lost-link");
  });
});
