import { describe, expect, it } from "@jest/globals";
import { newObject } from "../kinds/create";
import { evaluateScene } from "../simulate/sceneState";
import { bind, constant, lanternScene } from "../testing/lanternScene";
import { parseScene } from "./readScene";
import { checkReferences } from "./references";

describe("what does not connect on the stage", () => {
  it("is named with its place and a remedy", () => {
    const scene = lanternScene();
    const at = (index: number) => `/objects/${scene.objects.length - 3 + index}`;
    const group = newObject("g", "group", "Group");
    const inner = newObject("h", "group", "Inner");
    const box = newObject("b", "box", "Box");
    scene.objects.push(group, inner, box);
    group.parentId = "h";
    inner.parentId = "g";
    box.parentId = "lantern";
    box.settings = { materialId: "lantern", textureId: "gone" };
    bind(scene, "copies");
    bind(scene, "opacity", { mode: "kick" });
    const codes = checkReferences(parseScene(scene)).map(({ code, where }) => `${code} ${where}`);
    expect(codes).toEqual([
      `group-in-itself ${at(0)}/parentId`,
      `group-in-itself ${at(1)}/parentId`,
      `object-lost-group ${at(2)}/parentId`,
      `object-lost-reference ${at(2)}/settings/materialId`,
      `object-lost-reference ${at(2)}/settings/textureId`,
      "binding-at-rest /bindings/0/property",
      "kick-without-cues /bindings/1/strandId",
    ]);
    // It is evaluated all the same.
    expect(evaluateScene(scene, constant(1), 0).lantern.opacity).toBe(1);
  });
});
