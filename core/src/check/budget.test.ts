import { describe, expect, it } from "@jest/globals";
import type { Scene } from "../document/scene";
import { newObject, newScene } from "../kinds/create";
import { newSound } from "../sound/create";
import type { MadeSound } from "../sound/kinds";
import { checkBudget, checkSize, DOCUMENT_BUDGET } from "./budget";
import { parseScene } from "./readScene";

const formation = (id: string, copies: number, parentId: string | null = null) => ({
  ...newObject(id, "box" as const, id),
  parentId,
  settings: { formation: "grid" },
  rest: { copies },
});
const codes = (scene: Scene) => checkBudget(scene).map(({ code, where }) => `${code} ${where}`);

describe("checkBudget", () => {
  it("accepts a scene that can be played, up to the limit", () => {
    const scene = newScene("Quay");
    for (let i = 0; i < 61; i++) scene.objects.push(formation(`f${i}`, 4096));
    expect(codes(scene)).toEqual([]);
    scene.objects.push(formation("more", 4096));
    expect(codes(scene)).toEqual(["too-many-copies /objects"]);
  });

  it("counts the copies of a group for all that is in it, and those that a strand may make", () => {
    const scene = newScene("Quay");
    const group = {
      ...newObject("g", "group", "G"),
      settings: { formation: "ring" },
      rest: { copies: 4096 },
    };
    scene.objects.push(group);
    for (let i = 0; i < 70; i++) scene.objects.push({ ...newObject(`o${i}`, "box", "O"), parentId: "g" });
    expect(codes(scene)).toEqual(["too-many-copies /objects"]);
    group.rest.copies = 2;
    expect(codes(scene)).toEqual([]);
    scene.bindings.push({ objectId: "g", property: "copies" } as Scene["bindings"][number]);
    expect(codes(scene)).toEqual(["too-many-copies /objects"]);
  });

  it("refuses groups within groups beyond the limit, and takes a group in itself for none", () => {
    const scene = newScene("Quay");
    for (let i = 0; i < 4000; i++) {
      scene.objects.push({ ...newObject(`g${i}`, "group", "G"), parentId: i > 0 ? `g${i - 1}` : null });
    }
    expect(codes(scene)).toHaveLength(1);
    expect(codes(scene)[0]).toMatch(/^groups-too-deep/);
    const around = newScene("Quay");
    around.objects.push({ ...newObject("a", "group", "A"), parentId: "b" });
    around.objects.push({ ...newObject("b", "group", "B"), parentId: "a" });
    expect(codes(around)).toEqual([]);
  });

  it("counts everything that has a limit", () => {
    const scene = newScene("Quay");
    for (let i = 0; i < 64; i++) scene.buses.push({ id: `b${i}` } as Scene["buses"][number]);
    expect(codes(scene)).toEqual([]);
    scene.buses.push({ id: "more" } as Scene["buses"][number]);
    expect(codes(scene)).toEqual(["too-many-buses /buses"]);
  });

  it("adds up the lengths of made sounds", () => {
    const scene = newScene("Quay");
    for (let i = 0; i < 7; i++)
      scene.sounds.push({ ...(newSound("tone", `t${i}`, "T") as MadeSound), seconds: 1800 });
    expect(codes(scene)).toEqual(["made-sounds-too-long /sounds"]);
    scene.sounds.pop();
    expect(codes(scene)).toEqual([]);
  });
});

describe("checkSize", () => {
  it("takes any document that Bumbrel makes", () => {
    expect(checkSize(newScene("Quay"))).toBeUndefined();
    expect(checkSize(null)).toBeUndefined();
  });

  it("refuses endless nesting without a stack overflow", () => {
    const deep = JSON.parse(`${"[".repeat(5000)}${"]".repeat(5000)}`);
    expect(checkSize(deep)?.what).toMatch(/nested more than 64 deep/);
    expect(() => parseScene({ ...newScene("Quay"), keeps: deep })).toThrow(/nested more than 64/);
  });

  it("refuses too many values and too much text", () => {
    const many = Array.from({ length: DOCUMENT_BUDGET.values + 1 }, () => 0);
    expect(checkSize(many)?.what).toMatch(/more than 2000000 values/);
    expect(checkSize(["x".repeat(DOCUMENT_BUDGET.letters + 1)])?.what).toMatch(/letters/);
    expect(checkSize({ ["x".repeat(DOCUMENT_BUDGET.letters + 1)]: 1 })?.what).toMatch(/letters/);
  });
});

describe("reading a scene", () => {
  it.each(["constructor", "__proto__", "toString", "hasOwnProperty"])(
    "refuses %s as an id or a property",
    (name) => {
      const scene = newScene("Quay");
      scene.objects.push(newObject(name, "box", "Box"));
      expect(() => parseScene(scene)).toThrow(/\/objects\/5\/id/);
      const bound = newScene("Quay");
      bound.objects.push(
        JSON.parse(
          `{"id":"b","name":"B","kind":"box","parentId":null,"hidden":false,"locked":false,"settings":{},"rest":{"${name}":1}}`,
        ),
      );
      expect(() => parseScene(bound)).toThrow(/\/objects\/5\/rest/);
    },
  );

  it("refuses a scene over its budget with a remedy", () => {
    const scene = newScene("Quay");
    for (let i = 0; i < 70; i++) scene.objects.push(formation(`f${i}`, 4096));
    expect(() => parseScene(scene)).toThrow(/286725 copies together.*Lower the copies/);
  });

  it("names at most a hundred problems of a document that is nothing but problems", () => {
    const scene = newScene("Quay");
    const strands = Array.from({ length: 1024 }, (_, i) => ({ id: i, name: 7, nonsense: "x".repeat(1000) }));
    const before = performance.now();
    try {
      parseScene({ ...scene, strands });
      throw new Error("it was taken");
    } catch (error) {
      const { problems } = error as { problems: unknown[] };
      expect(problems).toHaveLength(100);
      expect(JSON.stringify(problems).length).toBeLessThan(50_000);
    }
    // A generous bound: it took eleven seconds.
    expect(performance.now() - before).toBeLessThan(8000);
  });
});
