import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { parseScene } from "../check/readScene";
import { checkReferences } from "../check/references";
import type { Scene } from "../document/scene";
import { newScene } from "../kinds/create";
import { applyEdits, EditError } from "./applyEdits";
import { EDITS } from "./table";

/** A list that builds a scene from nothing, and what it uses. */
const BUILT = [
  { edit: "renameScene", args: { name: "Lantern walk" } },
  { edit: "addSound", args: { id: "tick", kind: "clock", values: { seconds: 12 } } },
  {
    edit: "addStrand",
    args: { id: "beat", listensTo: { kind: "sound", id: "tick", tap: "before" } },
  },
  { edit: "changeStrand", args: { strandId: "beat", values: { cues: { on: true } } } },
  { edit: "addObject", args: { id: "lantern", kind: "sphere", name: "Lantern" } },
  { edit: "setRest", args: { objectIds: ["lantern", "camera"], property: "position", value: [0, 2, 5] } },
  {
    edit: "bind",
    args: { ids: ["b"], objectIds: ["lantern"], property: "scale", strandId: "beat" },
  },
];

const built = () => applyEdits(newScene("Quay"), BUILT);
function refusal(list: unknown, scene: Scene = newScene("Quay")): EditError {
  try {
    applyEdits(scene, list);
  } catch (error) {
    if (error instanceof EditError) return error;
    throw error;
  }
  throw new Error("it was not refused");
}

describe("a list of edits", () => {
  it("builds a scene that is valid and connected", () => {
    const scene = built();
    expect(checkReferences(parseScene(scene))).toEqual([]);
    expect(scene.name).toBe("Lantern walk");
    expect(scene.sounds).toMatchObject([{ kind: "clock", seconds: 12 }]);
    expect(scene.strands).toMatchObject([{ name: "Strand 1", cues: { on: true } }]);
    expect(scene.bindings).toMatchObject([{ objectId: "lantern", property: "scale", strandId: "beat" }]);
    // The camera that every scene has is written into the document with what was changed of it.
    expect(scene.objects.find(({ kind }) => kind === "camera")?.rest.position).toEqual([0, 2, 5]);
  });

  it("leaves the scene that it is given as it was, also when it is refused half-way", () => {
    const scene = built();
    const before = JSON.stringify(scene);
    applyEdits(scene, [{ edit: "removeStrand", args: { strandId: "beat" } }]);
    refusal(
      [
        { edit: "removeStrand", args: { strandId: "beat" } },
        { edit: "removeStrand", args: { strandId: "beat" } },
      ],
      scene,
    );
    expect(JSON.stringify(scene)).toBe(before);
  });

  it("says which edit is wrong, where, and what to do", () => {
    expect(refusal({}).message).toContain("no list");
    expect(refusal([{ edit: "fly" }])).toMatchObject({ where: "/0", what: 'there is no edit "fly"' });
    expect(refusal([null])).toMatchObject({ where: "/0", what: "an edit has no name" });
    expect(refusal([{ edit: "toString", args: {} }]).what).toContain("no edit");
    expect(refusal([{ edit: "renameScene", args: { name: 5 } }])).toMatchObject({
      where: "/0/args/name",
      what: "renameScene must be string",
    });
    expect(refusal([{ edit: "renameScene", args: { name: "A", colour: "red" } }]).message).toContain(
      '"colour"',
    );
    expect(refusal([...BUILT, { edit: "bind", args: { ...BUILT[6].args, strandId: "bass" } }])).toMatchObject(
      { where: "/7/args/ids/0", what: 'the id "b" is taken by another binding' },
    );
    expect(
      refusal([{ edit: "setRest", args: { objectIds: ["x"], property: "scale", value: 1 } }]),
    ).toMatchObject({ where: "/0/args/objectIds/0", what: 'there is no object "x"' });
    // A value that only the schema of the scene knows.
    const odd = { strandId: "beat", values: { shaping: { gain: { db: "loud" } } } };
    expect(refusal([...BUILT, { edit: "changeStrand", args: odd }]).where).toContain("the scene, /strands/0");
  });

  it("changes nothing but the scene, whatever keys its values have", () => {
    const values = JSON.parse(
      '{ "__proto__": { "polluted": 1 }, "constructor": { "prototype": { "polluted": 1 } } }',
    );
    refusal([...BUILT, { edit: "changeStrand", args: { strandId: "beat", values } }]);
    expect(({} as Record<string, unknown>).polluted).toBeUndefined();
  });

  it("gives a valid scene or is refused, whatever it is told", () => {
    const names = Object.keys(EDITS);
    const ids = fc.constantFrom("tick", "beat", "lantern", "b", "camera", "new", "");
    const value = fc.oneof(ids, fc.array(ids, { maxLength: 2 }), fc.integer(), fc.jsonValue({ maxDepth: 2 }));
    const scene = built();
    fc.assert(
      fc.property(fc.constantFrom(...names), fc.infiniteStream(value), (name, stream) => {
        const { properties } = EDITS[name as keyof typeof EDITS].args;
        const args = Object.fromEntries(Object.keys(properties).map((key) => [key, stream.next().value]));
        let edited: Scene;
        try {
          edited = applyEdits(scene, [{ edit: name, args }]);
        } catch (error) {
          if (error instanceof EditError) return;
          throw error;
        }
        const findings = checkReferences(parseScene(edited));
        expect(findings.filter(({ code }) => code !== "strand-no-sound")).toEqual([]);
      }),
      { numRuns: 400, seed: 5 },
    );
  });
});
