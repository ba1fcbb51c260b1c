import { describe, expect, it } from "@jest/globals";
import { drivingStrands, neededParts } from "../analyse/needed";
import { parseScene } from "../check/readScene";
import { checkReferences } from "../check/references";
import type { Scene } from "../document/scene";
import { newStrand } from "../document/strands/newStrand";
import { newBinding, newObject, newScene } from "./create";
import {
  changeProgram,
  choicesFor,
  exposedBy,
  giveProgram,
  giveStrandProgram,
  identifierOf,
  linkByName,
  lostBindings,
  moveLayer,
  strandsBy,
  unlink,
} from "./programs";
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

  it("have their strands computed even if nothing else follows them, and lose links to removed ones", () => {
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

describe("strands by a program", () => {
  const NUMBER = `interface Exposed {
  beats: Whole; // 1 to 16, default 4: Hits in a bar.
}
const bands = 3;
function next(moment: Moment, set: Exposed) { return [1, 2, set.beats]; }`;

  it("are as wide as the program says, and keep their settings when a value is renamed", () => {
    const scene = newScene("Quay");
    const strand = newStrand(scene, "s", "S", { kind: "nothing" });
    scene.strands.push(strand, newStrand(scene, "t", "T", { kind: "nothing" }));
    scene.programs.push({ id: "n", name: "N", kind: "number", code: NUMBER, draft: null });
    giveStrandProgram(strand, scene.programs[0]);
    expect(strandsBy(scene, "n")).toEqual([strand]);
    expect(strand.measure).toEqual({ kind: "program", programId: "n", bands: 3, values: {} });
    expect(choicesFor(scene, "fan")).toEqual([strand]);
    Object.assign(strand.measure, { values: { beats: 7 } });
    changeProgram(scene, "n", NUMBER.replaceAll("beats", "hits").replace("= 3", "= 5"));
    expect(strand.measure).toMatchObject({ bands: 5, values: { hits: 7 } });
    expect(parseScene(JSON.parse(JSON.stringify(scene)))).toEqual(scene);
    giveStrandProgram(strand, undefined);
    expect(strandsBy(scene, "n")).toEqual([]);
  });

  it("refuse a width that strands cannot have", () => {
    const code = "interface Exposed {\n  tint: Colour;\n  music: Sound;\n  mark: number;\n}";
    expect(exposedBy({ kind: "number", code }).map(({ name }) => name)).toEqual(["mark"]);
    expect(exposedBy({ kind: "drawing", code })).toHaveLength(3);
  });
});

describe("names in code", () => {
  it.each([
    ["Snare chorus", "snareChorus"],
    ["Kick", "kick"],
    ["8 bars, low", "barsLow"],
    ["Écluse", "ecluse"],
    ["…", ""],
  ])("%s is written %s", (name, written) => {
    expect(identifierOf(name)).toBe(written);
  });

  it("link things of the same name, and leave chosen links alone", () => {
    const scene = withProgram();
    scene.strands.push(newStrand(scene, "k", "Beat", { kind: "nothing" }));
    const [a, b] = [objectOf(scene, "a"), objectOf(scene, "b")];
    b.links = { "program:beat": "s" };
    for (const object of [a, b]) linkByName(scene, object, exposedBy(scene.programs[0]));
    expect(a.links).toEqual({ "program:beat": "k" });
    expect(b.links).toEqual({ "program:beat": "s" });
  });
});

describe("layers over the picture", () => {
  it("move among each other, and nothing else moves", () => {
    const scene = newScene("Quay");
    const kinds = ["picturePass", "box", "drawingOver", "sphere", "picturePass"] as const;
    scene.objects = kinds.map((kind, i) => newObject(String(i), kind, kind));
    const order = () => scene.objects.map(({ id }) => id).join("");
    moveLayer(scene, "0", 1);
    expect(order()).toBe("21034");
    moveLayer(scene, "4", -9);
    expect(order()).toBe("41230");
    moveLayer(scene, "1", 1);
    moveLayer(scene, "0", 1);
    expect(order()).toBe("41230");
  });
});
