import { describe, expect, it } from "@jest/globals";
import type { Binding, Scene } from "../document/scene";
import { newStrand } from "../document/strands/newStrand";
import { newBinding, newObject, newScene } from "../kinds/create";
import { SceneState } from "../simulate/sceneState";
import { newSoundBasics } from "../sound/kinds";
import { MEASURES } from "../strand/measures/table";
import { parseScene } from "./readScene";
import { checkReferences } from "./references";

/** A scene in which everything connects: a sound, two strands and one of both, a lantern in a group with a material. */
function quay(): Scene {
  const scene = newScene("Quay");
  scene.sounds.push(
    { ...newSoundBasics("song", "Song"), kind: "file", storedId: "s1", busId: "band", groupId: "together" },
    { ...newSoundBasics("figures", "Figures"), kind: "table", storedId: "s2" },
  );
  scene.buses.push({ id: "band", name: "Band", faderDb: 0, pan: 0, muted: false });
  scene.groups.push({ id: "together", name: "Together", runs: "tape", loops: false });
  scene.assets.push({
    kind: "picture",
    id: "chart",
    name: "Chart",
    storedId: "c",
    widthPx: 64,
    heightPx: 64,
  });
  for (const id of ["kick", "snare"]) {
    scene.strands.push(newStrand(scene, id, id, { kind: "sound", id: "song", tap: "before" }));
  }
  scene.strands.push(
    newStrand(scene, "both", "Both", { kind: "strands", ids: ["kick", "snare"] }, MEASURES.sum.defaults),
  );
  scene.objects.push(
    newObject("boats", "group", "Boats"),
    newObject("paper", "material", "Paper"),
    { ...newObject("lantern", "sphere", "Lantern"), parentId: "boats" },
    { ...newObject("sail", "picture", "Sail"), settings: { pictureId: "chart" } },
  );
  bind(scene, "lantern", "radius");
  bind(scene, "lantern", "colour");
  return scene;
}
function bind(scene: Scene, objectId: string, property: string, change: Partial<Binding> = {}) {
  const object = scene.objects.find(({ id }) => id === objectId)!;
  scene.bindings.push({ ...newBinding(`b${scene.bindings.length}`, "kick", object, property), ...change });
}
const strand = (scene: Scene, id: string) => scene.strands.find((one) => one.id === id)!;
const object = (scene: Scene, id: string) => scene.objects.find((one) => one.id === id)!;

/** Value that a JSON Pointer points at. */
const at = (scene: Scene, pointer: string) =>
  pointer
    .split("/")
    .slice(1)
    .reduce<unknown>((one, key) => (one as Record<string, unknown> | undefined)?.[key], scene);

const DAMAGE: Record<string, { damage: (scene: Scene) => void; where: string }> = {
  "id-twice": {
    damage: ({ sounds }) => sounds.push({ ...sounds[0] }),
    where: "/sounds/2/id",
  },
  "sound-lost-bus": {
    damage: (scene) => {
      scene.buses = [];
    },
    where: "/sounds/0/busId",
  },
  "sound-lost-group": {
    damage: (scene) => {
      scene.groups = [];
    },
    where: "/sounds/0/groupId",
  },
  "strand-no-sound": {
    damage: (scene) => {
      strand(scene, "snare").listensTo = { kind: "nothing" };
    },
    where: "/strands/1",
  },
  "strand-lost-source": {
    damage: (scene) => {
      strand(scene, "both").listensTo = { kind: "strands", ids: ["kick", "gone"] };
    },
    where: "/strands/2/listensTo/ids/1",
  },
  "strand-of-itself": {
    damage: (scene) => {
      strand(scene, "both").listensTo = { kind: "strands", ids: ["both"] };
    },
    where: "/strands/2/listensTo/ids",
  },
  "strand-cannot-read": {
    damage: (scene) => {
      strand(scene, "snare").listensTo = { kind: "sound", id: "figures", tap: "before" };
    },
    where: "/strands/1/measure",
  },
  "strand-lost-sound": {
    damage: (scene) => {
      strand(scene, "snare").listensTo = { kind: "bus", id: "gone", tap: "after" };
    },
    where: "/strands/1/listensTo/id",
  },
  "band-upside-down": {
    damage: (scene) => {
      strand(scene, "snare").measure = { ...MEASURES.band.defaults, lowHz: 900, highHz: 90 };
    },
    where: "/strands/1/measure",
  },
  "object-lost-group": {
    damage: (scene) => {
      object(scene, "sail").parentId = "lantern";
    },
    where: `/objects/${quay().objects.findIndex(({ id }) => id === "sail")}/parentId`,
  },
  "object-lost-reference": {
    damage: (scene) => {
      object(scene, "sail").settings.pictureId = "gone";
    },
    where: `/objects/${quay().objects.findIndex(({ id }) => id === "sail")}/settings/pictureId`,
  },
  "binding-lost-strand": {
    damage: (scene) => {
      scene.bindings[0].strandId = "gone";
    },
    where: "/bindings/0/strandId",
  },
  "binding-lost-object": {
    damage: (scene) => {
      scene.bindings[0].objectId = "gone";
    },
    where: "/bindings/0/objectId",
  },
  "binding-lost-property": {
    damage: (scene) => {
      scene.bindings[0].property = "wings";
    },
    where: "/bindings/0/property",
  },
  "binding-wrong-output": {
    damage: (scene) => {
      scene.bindings[1].output = { kind: "range", low: 0, high: 1 };
    },
    where: "/bindings/1/output",
  },
  "binding-at-rest": {
    damage: (scene) => {
      object(scene, "lantern").settings.materialId = "paper";
      scene.bindings.splice(0, 1);
    },
    where: "/bindings/0/property",
  },
  "kick-without-cues": {
    damage: (scene) => {
      scene.bindings[0].mode = "kick";
    },
    where: "/bindings/0/strandId",
  },
  "binding-wrong-mode": {
    damage: (scene) => {
      scene.bindings[1].mode = "add";
    },
    where: "/bindings/1/mode",
  },
};

describe("what no longer connects", () => {
  it("is nothing in a scene where all is well", () => {
    const scene = quay();
    expect(checkReferences(scene)).toEqual([]);
    strand(scene, "kick").cues.on = true;
    bind(scene, "lantern", "radius", { mode: "kick" });
    expect(checkReferences(scene)).toEqual([]);
  });

  it.each(Object.keys(DAMAGE))("is named with its place and a remedy: %s", (code) => {
    const { damage, where } = DAMAGE[code];
    const scene = quay();
    damage(scene);
    const findings = checkReferences(scene);
    expect(findings.map((one) => `${one.code} ${one.where}`)).toEqual([`${code} ${where}`]);
    expect(at(scene, where)).toBeDefined();
    expect(findings[0].what).toMatch(/[a-z)"]$/);
    expect(findings[0].remedy).toMatch(/^[A-Z].*[^.]$/);
  });

  it.each(Object.keys(DAMAGE))("leaves the scene playing, with finite numbers: %s", (code) => {
    const scene = quay();
    DAMAGE[code].damage(scene);
    const state = new SceneState(scene);
    state.values.fill(Number.NaN);
    const track = { width: 1, values: Float32Array.of(0.2, 0.9), cues: [{ timeS: 0, strength: 1 }] };
    state.setTracks(new Map(scene.strands.map(({ id }) => [id, track])));
    state.advanceTo(0.005);
    expect([...state.values].every(Number.isFinite)).toBe(true);
  });

  it("names each finding of many, in the order of the document", () => {
    const scene = quay();
    for (const code of ["binding-lost-strand", "sound-lost-bus", "strand-no-sound", "object-lost-group"]) {
      DAMAGE[code].damage(scene);
    }
    expect(checkReferences(scene).map(({ code }) => code)).toEqual([
      "sound-lost-bus",
      "strand-no-sound",
      "object-lost-group",
      "binding-lost-strand",
    ]);
  });

  it("finds a group that is in itself from each that is in it", () => {
    const scene = quay();
    scene.objects.push({ ...newObject("fleet", "group", "Fleet"), parentId: "boats" });
    object(scene, "boats").parentId = "fleet";
    const found = checkReferences(scene).filter(({ code }) => code === "group-in-itself");
    expect(found.map(({ what }) => what.split('"')[1]).sort()).toEqual(["Boats", "Fleet", "Lantern"]);
  });

  it("is no matter of the schema: each of these documents can be opened", () => {
    for (const { damage } of Object.values(DAMAGE)) {
      const scene = quay();
      damage(scene);
      expect(checkReferences(parseScene(scene))).toHaveLength(1);
    }
  });
});
