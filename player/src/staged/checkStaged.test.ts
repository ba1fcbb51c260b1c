import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newBinding, newObject, newProject } from "@bumbrel/core/kinds/create";
import { describe, expect, it } from "@jest/globals";
import { checkStaged } from "./checkStaged";

/** A document as it is delivered, with something else at one place; `undefined` takes it away. */
function changed(path: string, value: unknown): unknown {
  const scene = newProject("Quay");
  const buoy = newObject("buoy", "box", "Buoy");
  scene.objects.unshift(buoy);
  scene.strands.push(newStrand(scene, "swell", "Swell", { kind: "nothing" }));
  scene.bindings.push(newBinding("lift", "swell", buoy, "position"));
  const document = JSON.parse(JSON.stringify({ scene, soundsS: { song: 12.5 } }));
  const keys = path.split("/");
  const last = keys.pop()!;
  const holder = keys.reduce((at, key) => at[key], document);
  if (value === undefined) delete holder[last];
  else holder[last] = value;
  return document;
}
const problem = (document: unknown) => {
  try {
    checkStaged(document);
    return "";
  } catch (error) {
    return String(error);
  }
};

describe("a document for the player", () => {
  it("is taken as it is delivered", () => {
    expect(problem(changed("scene/name", "Pier"))).toBe("");
  });

  it("names the broken place, with a remedy", () => {
    for (const [document, said] of [
      [undefined, "at the top it is no object"],
      [[], "at the top it is no object"],
      [{}, "at /scene it has no scene"],
      [changed("scene/format", undefined), "at /scene/format"],
      [changed("scene/version", 3), "at /scene/version it is 3, and this player shows"],
      [changed("scene/strands", undefined), "at /scene/strands it is no list"],
      [changed("scene/answers", {}), "at /scene/answers it is no list"],
      [changed("scene/marks", [null]), "at /scene/marks/0 it is no object"],
      [changed("scene/palette", "night"), "at /scene/palette it is no object"],
      [changed("scene/palette", undefined), "at /scene/palette it is no object"],
      [changed("soundsS", 7), "at /soundsS"],
      [changed("soundsS/song", null), "at /soundsS/song"],
      [changed("scene/objects/0/kind", "constructor"), '"constructor" is no kind of object'],
      [changed("scene/objects/0/rest", 7), "at /scene/objects/0/rest it is no object"],
      [changed("scene/objects/0/rest/position", [0, null, 0]), "at /scene/objects/0/rest/position"],
      [changed("scene/objects/0/parentId", "gone"), 'there is no object "gone"'],
      [changed("scene/bindings/0/objectId", "gone"), "at /scene/bindings/0/objectId"],
      [changed("scene/bindings/0/strandId", "gone"), 'there is no strand "gone"'],
    ] as const) {
      expect(problem(document)).toContain(said);
      expect(problem(document)).toContain("again in Deliver");
    }
  });
});
