import { ACTION_KINDS } from "@bumbrel/core/action/actions";
import { CUE_SOURCE_KINDS } from "@bumbrel/core/action/cueSources";
import { parseScene } from "@bumbrel/core/check/readScene";
import { checkReferences } from "@bumbrel/core/check/references";
import { clip, readClipping } from "@bumbrel/core/edit/paste";
import { setMeasure, setMeasureSetting } from "@bumbrel/core/edit/strandEdits";
import { newScene, withSingletons } from "@bumbrel/core/kinds/create";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import { beforeEach, describe, expect, it } from "@jest/globals";
import { applyEdit, endGesture, type History, undo } from "../../document/history";
import * as answers from "./answers";
import type { Editable } from "./dispatch";
import * as sounds from "./sounds";
import * as stage from "./stage";
import * as strands from "./strands";

/** A document with history. */
class Desk implements Editable {
  history: History = { scene: newScene("Quay"), past: [], future: [] };
  get scene() {
    return this.history.scene;
  }
  edit(...args: Parameters<Editable["edit"]>) {
    this.history = applyEdit(this.history, ...args);
  }
  endGesture() {
    this.history = endGesture(this.history);
  }
  get labels() {
    return this.history.past.map(({ label }) => label);
  }
}

let desk: Desk;
beforeEach(() => {
  desk = new Desk();
  desk.edit("add a sound", (scene) => {
    scene.sounds.push({ ...newSoundBasics("song", "Song"), kind: "file", storedId: "x" });
  });
});
const strandNamed = (name: string) => desk.scene.strands.find((one) => one.name === name)!;
const objectNamed = (name: string) => withSingletons(desk.scene.objects).find((one) => one.name === name)!;
const range = { lowHz: 40, highHz: 80 };

/** After any edit the document is valid and connected. */
function expectSound() {
  expect(checkReferences(parseScene(desk.scene))).toEqual([]);
}

describe("edits of strands", () => {
  it("give each strand a name, hue and shape of its own", () => {
    const ids = [0, 1, 2].map(() => strands.addStrand(desk, strands.soundBeforeFader("song"), range));
    strands.removeStrand(desk, strandNamed("Strand 2"));
    strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    expect(new Set(ids).size).toBe(3);
    expect(desk.scene.strands.map(({ name }) => name)).toEqual(["Strand 1", "Strand 3", "Strand 4"]);
    expect(new Set(desk.scene.strands.map(({ hue }) => hue)).size).toBe(3);
    expectSound();
  });

  it("never change the defaults of other or new strands", () => {
    strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    const id = strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    strands.editStrand(desk, id, "move it", ({ measure }) => Object.assign(measure, { lowHz: 50 }));
    strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    expect(desk.scene.strands.map(({ measure }) => measure.kind === "band" && measure.lowHz)).toEqual([
      40, 50, 40,
    ]);
  });

  it("make one step of a whole drag with its fit", () => {
    const id = strands.addStrand(desk, strands.soundBeforeFader("song"), range, "drag");
    const raw = Float32Array.from({ length: 200 }, (_, i) => 10 ** ((-50 + i * 0.1) / 20));
    const traces = { raw, shaped: { width: 1, values: raw }, framesReady: 0, cues: [] };
    for (const highHz of [90, 100, 110]) {
      strands.editStrand(desk, id, "drag", ({ measure }) => Object.assign(measure, { highHz }), "drag");
      expect(strands.fitStrand(desk, desk.scene.strands[0], traces, "drag")).toBe(true);
    }
    expect(desk.labels).toEqual(["add a sound", "add Strand 1"]);
    expect(desk.scene.strands[0].shaping.window).toMatchObject({ on: true, floorDb: -48, rangeDb: 16.9 });
    desk.history = undo(desk.history);
    expect(desk.scene.strands).toEqual([]);
  });

  it("leave the window alone when there is nothing to fit to", () => {
    strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    const silence = {
      raw: new Float32Array(50),
      shaped: { width: 1, values: new Float32Array(50) },
      framesReady: 0,
      cues: [],
    };
    expect(strands.fitStrand(desk, desk.scene.strands[0], silence)).toBe(false);
    expect(desk.labels.at(-1)).toBe("add Strand 1");
  });
});

describe("edits of many strands", () => {
  const three = () => [0, 1, 2].map(() => strands.addStrand(desk, strands.soundBeforeFader("song"), range));
  const names = () => desk.scene.strands.map(({ name }) => name);

  it("put them in another order and duplicate them beside themselves", () => {
    const [first, , third] = three();
    strands.moveStrand(desk, third, 0);
    expect(names()).toEqual(["Strand 3", "Strand 1", "Strand 2"]);
    strands.moveStrand(desk, first, 9);
    strands.moveStrand(desk, "gone", 0);
    expect(desk.labels.at(-1)).toBe("move Strand 3");
    strands.duplicateStrand(desk, strandNamed("Strand 1"));
    strands.duplicateStrand(desk, strandNamed("Strand 1"));
    expect(names()).toEqual(["Strand 3", "Strand 1", "Strand 1 copy 2", "Strand 1 copy", "Strand 2"]);
    expect(new Set(desk.scene.strands.map(({ hue }) => hue)).size).toBe(5);
    expectSound();
  });

  it("take a strand that is removed out of those made of it", () => {
    const [first, second] = three();
    strands.addStrandOf(desk, { kind: "strands", ids: [first, second] }, { kind: "sum" });
    strands.removeStrand(desk, strandNamed("Strand 1"));
    expect(strandNamed("Strand 4").listensTo).toEqual({ kind: "strands", ids: [second] });
    expectSound();
  });

  it("keep a fan's bands when they are laid out in another way, and push the ends of a range along", () => {
    const strand = {
      measure: { ...MEASURES.fan.defaults, layout: "octave", perOctave: 6, bands: 4 },
    } as unknown as Parameters<typeof setMeasureSetting>[0];
    const { measure } = strand as unknown as { measure: Record<string, unknown> };
    // Sixth octaves from 40 Hz to 16 kHz: 8.64 octaves of six.
    setMeasureSetting(strand, "layout", "equal");
    expect(measure.layout).toBe("equal");
    expect(measure.bands).toBeGreaterThanOrEqual(51);
    expect(measure.bands).toBeLessThanOrEqual(54);
    setMeasureSetting(strand, "lowHz", 18_000);
    expect(measure.lowHz).toBeCloseTo(18_000, 0);
    expect(measure.highHz).toBeGreaterThan(18_000);
    setMeasureSetting(strand, "highHz", 100);
    // A range is at least a semitone wide.
    expect(measure.lowHz).toBeLessThanOrEqual(100);
    expect(measure.highHz).toBeLessThan(107);
    setMeasureSetting(strand, "tiltDb", 3);
    expect(measure.tiltDb).toBe(3);
  });

  it("find another measure when their new source lacks theirs, and keep a range between measures that have one", () => {
    const [first, second] = three();
    strands.editStrand(desk, first, "onsets", (one) => setMeasure(one, "onset"));
    expect(strandNamed("Strand 1").measure).toMatchObject({ kind: "onset", ...range });
    expect(strandNamed("Strand 1").shaping.window.scale).toBe("linear");
    strands.editStrand(desk, first, "pitch", (one) => setMeasure(one, "pitch"));
    expect(strandNamed("Strand 1").measure).toMatchObject({ kind: "pitch", ...range });
    strands.listenTo(desk, first, { kind: "strands", ids: [second] });
    expect(strandNamed("Strand 1").measure).toEqual({ kind: "product" });
    expectSound();
  });

  it("begin from a starting point as one step, with the part of a fan it brings", () => {
    const fan = strands.addStrandOf(desk, strands.soundBeforeFader("song"), MEASURES.fan.defaults);
    strands.startFrom(desk, desk.scene.strands[0], "fence");
    expect(desk.scene.strands[0]).toMatchObject({
      id: fan,
      measure: { tiltDb: 3 },
      shaping: { neighbours: { on: true } },
    });
    desk.history = undo(desk.history);
    expect(desk.scene.strands[0]).toMatchObject({
      measure: { tiltDb: 0 },
      shaping: { neighbours: { on: false } },
    });
    expectSound();
  });

  it("keep all tunings under a name and go back to them as one step", () => {
    const [first] = three();
    const keep = strands.addKeep(desk, "Before the chorus");
    strands.applyShaping(desk, strandNamed("Strand 1"), "louder", { gain: { db: 12 } });
    strands.goBackTo(desk, keep);
    expect(desk.scene.strands.find(({ id }) => id === first)!.shaping.gain.db).toBe(0);
    desk.history = undo(desk.history);
    expect(strandNamed("Strand 1").shaping.gain.db).toBe(12);
    strands.renameKeep(desk, keep, "Verse");
    expect(desk.scene.keeps.map(({ name }) => name)).toEqual(["Verse"]);
    strands.removeKeep(desk, keep);
    strands.goBackTo(desk, keep);
    expect([desk.scene.keeps, desk.labels.at(-1)]).toEqual([[], "remove a keep"]);
    expectSound();
  });
});

describe("edits of the stage", () => {
  it("add, rest, bind and remove, and can all be taken back", () => {
    const start = desk.scene;
    const strandId = strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    stage.addObject(desk, "box");
    stage.addObject(desk, "box");
    stage.renameObject(desk, objectNamed("Box 2"), "Ferry");
    stage.setRest(desk, [objectNamed("Ferry")], "scale", [2, 2, 2]);
    stage.bind(desk, [objectNamed("Ferry")], "scale", strandId);
    expect(desk.scene.bindings[0]).toMatchObject({
      property: "scale",
      axes: ["x", "y", "z"],
      output: { low: 2, high: 2.8 },
    });
    stage.editBindings(desk, [desk.scene.bindings[0].id], "move less", ({ output }) =>
      Object.assign(output, { high: 2.5 }),
    );
    expect(desk.scene.bindings[0].output).toMatchObject({ high: 2.5 });
    expectSound();
    stage.removeObjects(desk, [objectNamed("Ferry").id]);
    expect(desk.scene.bindings).toEqual([]);
    while (desk.history.past.length > 1) desk.history = undo(desk.history);
    expect(desk.scene).toEqual(start);
  });

  it("remove a strand's bindings with it, so that its targets come to rest", () => {
    const strandId = strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    stage.addObject(desk, "sphere");
    stage.bind(desk, [objectNamed("Sphere")], "radius", strandId);
    stage.bind(desk, [objectNamed("Sphere")], "colour", strandId);
    strands.removeStrand(desk, strandNamed("Strand 1"));
    expect(desk.scene.bindings).toEqual([]);
    stage.bind(desk, [objectNamed("Sphere")], "radius", "s");
    stage.removeBindings(desk, [desk.scene.bindings[0].id]);
    expect(desk.scene.bindings).toEqual([]);
  });

  it("write down a camera that was there only because there always is one", () => {
    desk.edit("start bare", (scene) => {
      scene.objects = [];
    });
    const camera = objectNamed("Camera");
    stage.setRest(desk, [camera], "fieldOfView", 70);
    stage.setRest(desk, [camera], "fieldOfView", 75);
    expect(desk.scene.objects).toEqual([
      {
        id: "camera",
        kind: "camera",
        name: "Camera",
        parentId: null,
        hidden: false,
        locked: false,
        settings: {},
        rest: { fieldOfView: 75 },
      },
    ]);
    expectSound();
  });

  it("put objects into a group about their middle, and take them out where they were", () => {
    stage.addObject(desk, "box");
    stage.addObject(desk, "sphere");
    stage.setRest(desk, [objectNamed("Box")], "position", [2, 0, 0]);
    stage.setRest(desk, [objectNamed("Sphere")], "position", [4, 2, 0]);
    const id = stage.group(desk, [objectNamed("Box"), objectNamed("Sphere")])!;
    const made = desk.scene.objects.find((one) => one.id === id)!;
    expect(made.rest.position).toEqual([3, 1, 0]);
    expect(objectNamed("Box")).toMatchObject({ parentId: id, rest: { position: [-1, -1, 0] } });
    expectSound();
    stage.ungroup(desk, made);
    expect(objectNamed("Sphere")).toMatchObject({ parentId: null, rest: { position: [4, 2, 0] } });
    expect(desk.scene.objects.some((one) => one.id === id)).toBe(false);
    stage.group(desk, [objectNamed("Box")]);
    stage.removeObjects(desk, [objectNamed("Group").id]);
    expect(desk.scene.objects.some(({ name }) => name === "Box")).toBe(false);
    expect(stage.group(desk, [objectNamed("Camera")])).toBeUndefined();
    expectSound();
  });

  it("copy objects into another project with their bindings, materials and strands", () => {
    const strandId = strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    stage.addObject(desk, "box", { formation: "ring" });
    stage.bind(desk, [objectNamed("Box")], "growth", strandId);
    const materialId = stage.shareSurface(desk, objectNamed("Box"));
    expect(objectNamed("Box").settings.materialId).toBe(materialId);
    const clipping = readClipping(JSON.stringify(clip(desk.scene, [objectNamed("Box").id])))!;
    expect(clipping.objects.map(({ kind }) => kind).sort()).toEqual(["box", "material"]);
    desk.edit("leave for another project", (scene) => {
      scene.objects = [];
      scene.bindings = [];
      scene.strands = [];
      scene.sounds = [];
    });
    const [pasted] = stage.paste(desk, clipping);
    const box = desk.scene.objects.find(({ id }) => id === pasted)!;
    expect(box.id).not.toBe(clipping.objects[0].id);
    expect(box.settings.formation).toBe("ring");
    const material = desk.scene.objects.find(({ id }) => id === box.settings.materialId);
    expect(material?.kind).toBe("material");
    expect(desk.scene.bindings).toMatchObject([{ objectId: pasted, strandId, property: "growth" }]);
    expect(desk.scene.strands[0].listensTo).toEqual({ kind: "nothing" });
    expect(checkReferences(parseScene(desk.scene)).map(({ code }) => code)).toEqual(["strand-no-sound"]);
    expect(readClipping("a shopping list")).toBeUndefined();
    expect(readClipping('{"bumbrel":"other"}')).toBeUndefined();
  });

  it("share a surface, and give one of its own back with all that moved it", () => {
    const strandId = strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    stage.addObject(desk, "sphere");
    stage.setRest(desk, [objectNamed("Sphere")], "roughness", 0.1);
    stage.bind(desk, [objectNamed("Sphere")], "emissionStrength", strandId);
    stage.shareSurface(desk, objectNamed("Sphere"));
    const material = objectNamed("Sphere surface");
    expect(material.rest.roughness).toBe(0.1);
    expect(desk.scene.bindings).toMatchObject([{ objectId: material.id }]);
    stage.setRest(desk, [material], "roughness", 0.3);
    stage.ownSurface(desk, objectNamed("Sphere"));
    expect(objectNamed("Sphere").rest.roughness).toBe(0.3);
    expect(desk.scene.bindings.map(({ objectId }) => objectId)).toEqual([
      material.id,
      objectNamed("Sphere").id,
    ]);
    stage.setSetting(desk, [objectNamed("Sphere")], "materialId", material.id);
    stage.removeObjects(desk, [material.id]);
    expect(objectNamed("Sphere").settings.materialId).toBeNull();
    expectSound();
  });

  it("kick with cues switched on, copy bindings to others, and put them in another order", () => {
    const strandId = strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    stage.addObject(desk, "particles");
    stage.addObject(desk, "box");
    stage.addObject(desk, "box");
    stage.bind(desk, [objectNamed("Particles")], "burst", strandId);
    expect(desk.scene.bindings[0].mode).toBe("kick");
    expect(strandNamed("Strand 1").cues.on).toBe(true);
    stage.bind(desk, [objectNamed("Box")], "growth", strandId);
    stage.bind(desk, [objectNamed("Box")], "growth", strandId);
    const [, first, second] = desk.scene.bindings;
    stage.moveBinding(desk, second, -1);
    expect(desk.scene.bindings.map(({ id }) => id).slice(1)).toEqual([second.id, first.id]);
    stage.moveBinding(desk, second, -1);
    stage.copyBinding(desk, first, [objectNamed("Box 2"), objectNamed("Particles")]);
    expect(desk.scene.bindings.slice(3)).toMatchObject([{ objectId: objectNamed("Box 2").id }]);
    expectSound();
  });

  it("take a model apart into a group that keeps its bindings", () => {
    const asset = {
      kind: "model",
      id: "m",
      name: "Ferry",
      storedId: "f",
      parts: ["Hull", "Mast"],
      triangles: 12,
    } as const;
    const strandId = strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    stage.addAsset(desk, { ...asset, parts: [...asset.parts] });
    stage.bind(desk, [objectNamed("Ferry")], "scale", strandId);
    stage.bind(desk, [objectNamed("Ferry")], "growth", strandId);
    const groupId = stage.takeApart(desk, objectNamed("Ferry"), {
      ...asset,
      parts: [...asset.parts],
    });
    expect(objectNamed("Hull")).toMatchObject({
      parentId: groupId,
      settings: { modelId: "m", part: "Hull" },
    });
    expect(desk.scene.bindings).toMatchObject([{ objectId: groupId, property: "scale" }]);
    expectSound();
  });
});

describe("edits of sounds", () => {
  const soundNamed = (name: string) => desk.scene.sounds.find((one) => one.name === name)!;

  it("add every kind of sound under a name of its own, valid from the start", () => {
    for (let twice = 0; twice < 2; twice++) {
      sounds.addKind(desk, "tone", 12);
      sounds.addKind(desk, "noise", 12);
      sounds.addKind(desk, "clock", 12);
      sounds.addKind(desk, "input", 12);
      sounds.addKind(desk, "keys", 12);
      sounds.addStored(desk, "Horn", "file", "h");
    }
    expect(new Set(desk.scene.sounds.map(({ name }) => name)).size).toBe(13);
    expect(soundNamed("Clock")).toMatchObject({ seconds: 12, heard: false });
    expectSound();
  });

  it("replace a sound's bytes and leave all else as it was", () => {
    sounds.addBus(desk, soundNamed("Song"));
    sounds.editSound(desk, soundNamed("Song"), "move", (one) => {
      one.faderDb = -9;
    });
    strands.addStrand(desk, strands.soundBeforeFader("song"), range);
    const before = soundNamed("Song");
    sounds.replaceSound(desk, "song", "file", "other");
    expect(soundNamed("Song")).toEqual({ ...before, storedId: "other" });
    sounds.replaceSound(desk, "gone", "file", "other");
    expect(desk.labels.at(-1)).toBe("replace Song");
    expectSound();
  });

  it("leave nothing that points at a bus, a group or a sound that is gone", () => {
    sounds.addKind(desk, "tone", 12);
    sounds.addBus(desk, soundNamed("Tone"));
    const [bus] = desk.scene.buses;
    const listensTo = { kind: "bus", id: bus.id, tap: "after" } as const;
    strands.addStrand(desk, listensTo, range);
    sounds.putInGroup(desk, soundNamed("Tone"), "new");
    sounds.putInGroup(desk, soundNamed("Song"), desk.scene.groups[0].id);
    sounds.editRunning(desk, soundNamed("Song"), { loops: true });
    expect(desk.scene.groups).toMatchObject([{ loops: true, runs: "tape" }]);
    expect(soundNamed("Song").loops).toBe(false);
    expectSound();
    sounds.removeBus(desk, bus);
    expect(soundNamed("Tone").busId).toBeNull();
    sounds.putInGroup(desk, soundNamed("Tone"), null);
    expect(desk.scene.groups).toHaveLength(1);
    sounds.removeSound(desk, soundNamed("Song"));
    expect(desk.scene.groups).toEqual([]);
    expect(checkReferences(parseScene(desk.scene)).map(({ code }) => code)).toEqual(["strand-no-sound"]);
  });
});

describe("edits of answers", () => {
  const addLamp = () => {
    const id = stage.addObject(desk, "sphere");
    return desk.scene.objects.find((one) => one.id === id)!;
  };

  it("begin with the object they are made for, and with a visible property of it", () => {
    const lamp = addLamp();
    const id = answers.addAnswer(desk, "tap", lamp);
    const made = () => desk.scene.answers.find((one) => one.id === id)!;
    expect(made()).toMatchObject({ name: "Answer 1", on: true, cue: { kind: "tap", objectId: lamp.id } });
    answers.addAction(desk, made(), "glide", lamp);
    expect(made().actions[0]).toMatchObject({ objectId: lamp.id, property: "emissionStrength", to: 3 });
    answers.addAction(desk, made(), "stepColours", lamp);
    expect(made().actions[1]).toMatchObject({ objectId: lamp.id, property: "colour" });
    expect(answers.answersAbout(desk.scene, lamp.id)).toHaveLength(1);
    expect(answers.answersAbout(desk.scene, "camera")).toEqual([]);
    expectSound();
    desk.history = undo(desk.history);
    expect(made().actions).toHaveLength(1);
  });

  it("keep what two cue sources have in common when one becomes the other", () => {
    const lamp = addLamp();
    stage.addObject(desk, "zone");
    const id = answers.addAnswer(desk, "tap", lamp);
    const made = () => desk.scene.answers.find((one) => one.id === id)!;
    answers.changeCue(desk, made(), "press");
    expect(made().cue).toEqual({ kind: "press", objectId: lamp.id, holdMs: 500 });
    answers.changeCue(desk, made(), "enter");
    expect(made().cue).toMatchObject({ kind: "enter", zoneId: expect.any(String), who: "visitor" });
    expectSound();
  });

  it("offer every kind of cue and action with values that the document takes", () => {
    const lamp = addLamp();
    for (const kind of CUE_SOURCE_KINDS) answers.addAnswer(desk, kind, lamp);
    for (const kind of ACTION_KINDS) answers.addAction(desk, desk.scene.answers[0], kind, lamp);
    expect(new Set(desk.scene.answers.map(({ name }) => name)).size).toBe(CUE_SOURCE_KINDS.length);
    expect(() => parseScene(desk.scene)).not.toThrow();
  });

  it("set marks, and move and remove them", () => {
    const id = answers.addMark(desk, 1.23456);
    answers.editMark(desk, id, { name: "Chorus", beginsSection: true });
    expect(desk.scene.marks).toEqual([{ id, name: "Chorus", timeS: 1.235, beginsSection: true }]);
    answers.removeMark(desk, id);
    expect(desk.scene.marks).toEqual([]);
    expectSound();
  });

  it("are reported when their object is removed", () => {
    const lamp = addLamp();
    const id = answers.addAnswer(desk, "tap", lamp);
    const made = desk.scene.answers.find((one) => one.id === id)!;
    answers.addAction(desk, made, "glide", lamp);
    stage.removeObjects(desk, [lamp.id]);
    expect(checkReferences(desk.scene).map(({ code, where }) => `${code} ${where}`)).toEqual([
      "answer-lost-reference /answers/0/cue/objectId",
      "answer-lost-reference /answers/0/actions/0/objectId",
    ]);
  });
});
