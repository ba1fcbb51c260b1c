import { parseScene } from "@bumbrel/core/check/readScene";
import type { Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import { PROGRAM_EXAMPLES } from "@bumbrel/core/program/examples";
import { describe, expect, it } from "@jest/globals";
import { produce } from "immer";
import type { Editable } from "./dispatch";
import { chooseProgram, removeProgram, saveCode, saveDraft, setLink, writeProgram } from "./programs";

/** A scene, changed one edit at a time. */
function bench() {
  const scene = newScene("Quay");
  scene.strands.push(newStrand(scene, "s", "S", { kind: "nothing" }));
  scene.objects.push(newObject("a", "box", "A"), newObject("b", "box", "B"));
  const made = {
    scene,
    edit(_label: string, recipe: (draft: Scene) => void) {
      made.scene = produce(made.scene, (draft) => {
        recipe(draft as Scene);
      });
      // Every edit leaves a document that can be saved.
      expect(parseScene(JSON.parse(JSON.stringify(made.scene)))).toEqual(made.scene);
    },
  };
  const objectOf = (id: string) => made.scene.objects.find((one) => one.id === id)!;
  return { document: made as Editable, made, objectOf };
}

describe("edits of programs", () => {
  it("begin as an example that follows the first strand there is", () => {
    const { document, made, objectOf } = bench();
    const id = writeProgram(document, [objectOf("a")], PROGRAM_EXAMPLES.rising);
    expect(made.scene.programs).toMatchObject([{ id, name: "Rising hills", draft: null }]);
    expect(objectOf("a").settings.programId).toBe(id);
    expect(objectOf("a").links).toEqual({ "program:beat": "s" });
    writeProgram(document, [], PROGRAM_EXAMPLES.rising);
    expect(made.scene.programs[1].name).toBe("Rising hills 2");
  });

  it("keep a draft beside the version that works, until it works as well", () => {
    const { document, made, objectOf } = bench();
    const id = writeProgram(document, [objectOf("a")], PROGRAM_EXAMPLES.rising);
    const { code } = made.scene.programs[0];
    saveDraft(document, id, "void paint(");
    expect(made.scene.programs[0]).toMatchObject({ code, draft: "void paint(" });
    saveDraft(document, id, code);
    expect(made.scene.programs[0].draft).toBeNull();
    made.edit("bind", (scene) => {
      scene.bindings.push(
        newBinding("x", "s", scene.objects.find((one) => one.id === "a")!, "program:height"),
      );
    });
    const lost = saveCode(document, id, "void paint(inout Surface s) {}");
    expect(lost).toEqual([{ bindingId: "x", object: "A", value: "height" }]);
    expect(made.scene.programs[0]).toMatchObject({ code: "void paint(inout Surface s) {}", draft: null });
  });

  it("copy a program for its users, and keep their links", () => {
    const { document, made, objectOf } = bench();
    const id = writeProgram(document, [objectOf("a"), objectOf("b")], PROGRAM_EXAMPLES.rising);
    setLink(document, [objectOf("a")], "program:beat", null);
    expect(objectOf("a").links).toBeUndefined();
    const copy = writeProgram(document, [objectOf("b")], made.scene.programs[0]);
    expect(made.scene.programs.map(({ name }) => name)).toEqual(["Rising hills", "Rising hills copy"]);
    expect([objectOf("a"), objectOf("b")].map(({ settings }) => settings.programId)).toEqual([id, copy]);
    expect(objectOf("b").links).toEqual({ "program:beat": "s" });
  });

  it("leave nothing behind when a program is taken away or removed", () => {
    const { document, made, objectOf } = bench();
    const id = writeProgram(document, [objectOf("a"), objectOf("b")], PROGRAM_EXAMPLES.rising);
    chooseProgram(document, [objectOf("a")], null);
    expect(objectOf("a").own).toBeUndefined();
    expect(Object.keys(objectOf("b").own!)).toEqual(["program:height", "program:tint"]);
    removeProgram(document, id);
    expect(made.scene.programs).toEqual([]);
    expect(objectOf("b").own).toBeUndefined();
    expect(objectOf("b").settings.programId).toBeNull();
  });
});
