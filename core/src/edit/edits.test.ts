import { beforeAll, describe, expect, it } from "@jest/globals";
import { newAnswer, newCueSource } from "../action/answer";
import type { Scene } from "../document/scene";
import { newScene } from "../kinds/create";
import { applyEdits, type EditCall } from "./applyEdits";
import { EDITS, type EditName } from "./table";

const call = (edit: EditName, args: object): EditCall => ({ edit, args });
const listensTo = { kind: "sound", id: "tone", tap: "before" };
const boat = {
  kind: "model",
  id: "boat",
  name: "Boat",
  storedId: "s",
  parts: ["Hull", "Mast"],
  triangles: 8,
};
const take = { kind: "take", id: "walk", name: "Walk", storedId: "t", tryOut: "window", lengthS: 9 };
const answer = newAnswer("tap", "Tap", newCueSource("key", { key: "Space" }), []);
const start = newCueSource("start", {});
const NUMBER = "function next(): number { return 0.5; }";

/** Something of everything that edits are about. */
const BASE: EditCall[] = [
  call("addSound", { id: "tone", kind: "tone", name: "Tone" }),
  call("addSound", { id: "hiss", kind: "noise", name: "Hiss" }),
  call("addBus", { id: "bus", soundId: "hiss" }),
  call("addGroup", { id: "pair", soundId: "hiss" }),
  call("addStrand", { id: "low", listensTo }),
  call("addStrand", { id: "high", listensTo }),
  call("addObject", { id: "lamp", kind: "sphere", name: "Lamp" }),
  call("addObject", { id: "buoy", kind: "box", name: "Buoy" }),
  call("setRest", { objectIds: ["lamp"], property: "position", value: [2, 0, 0] }),
  call("setRest", { objectIds: ["buoy"], property: "position", value: [4, 0, 2] }),
  call("bind", { ids: ["b1"], objectIds: ["lamp"], property: "scale", strandId: "low" }),
  call("bind", { ids: ["b2"], objectIds: ["lamp"], property: "scale", strandId: "high" }),
  call("addMark", { id: "start", timeS: 1.23456 }),
  call("addAsset", { asset: boat, objectId: "ship" }),
  call("addAsset", { asset: take }),
  call("addProgram", { id: "half", name: "Half", kind: "number", code: NUMBER }),
  call("addSnapshot", { id: "calm", name: "Calm" }),
];

/** For each edit a call on that scene, and what the scene holds then. */
const CASES: [EditCall | EditCall[], (scene: Scene) => unknown, unknown][] = [
  [call("renameScene", { name: "Mole" }), ({ name }) => name, "Mole"],
  [call("addSound", { id: "t", kind: "tone", name: "Tone" }), ({ sounds }) => sounds.at(-1)!.name, "Tone 2"],
  [
    call("addStoredSound", { id: "song", kind: "file", name: "Song", storedId: "x" }),
    ({ sounds }) => sounds.at(-1),
    expect.objectContaining({ kind: "file", storedId: "x", heard: true }),
  ],
  [
    call("replaceSound", { soundId: "hiss", kind: "file", storedId: "y" }),
    ({ sounds }) => sounds[1],
    expect.objectContaining({ name: "Hiss", busId: "bus", kind: "file", storedId: "y" }),
  ],
  [call("changeSound", { soundId: "tone", values: { faderDb: -3 } }), ({ sounds }) => sounds[0].faderDb, -3],
  [
    call("removeSound", { soundId: "tone" }),
    ({ sounds, strands }) => [sounds.length, strands.map((one) => one.listensTo.kind)],
    [1, ["nothing", "nothing"]],
  ],
  [call("addBus", { id: "two" }), ({ buses }) => buses.map(({ name }) => name), ["Bus", "Bus 2"]],
  [call("changeBus", { busId: "bus", values: { muted: true } }), ({ buses }) => buses[0].muted, true],
  [
    call("removeBus", { busId: "bus" }),
    ({ buses, sounds }) => [buses, sounds.map(({ busId }) => busId)],
    [[], [null, null]],
  ],
  [call("addGroup", { id: "g", soundId: "tone" }), ({ sounds }) => sounds[0].groupId, "g"],
  [call("groupSound", { soundId: "hiss", groupId: null }), ({ groups }) => groups, []],
  [
    call("changeRunning", { soundId: "hiss", values: { loops: true } }),
    ({ groups }) => groups[0].loops,
    true,
  ],
  [
    call("changeMix", { gainDb: -6 }),
    ({ sounds, buses }) => [...sounds, ...buses].map(({ faderDb }) => faderDb),
    // Hiss goes to the bus, which is changed in its place.
    [-18, -12, -6],
  ],
  [
    call("addStrand", { id: "s", name: "Kick", listensTo }),
    ({ strands }) => strands.at(-1),
    expect.objectContaining({ name: "Kick", measure: expect.objectContaining({ kind: "band" }) }),
  ],
  [
    call("changeStrand", { strandId: "low", values: { shaping: { gain: { on: true, db: 6 } } } }),
    ({ strands }) => strands[0].shaping.gain,
    { on: true, db: 6 },
  ],
  [
    call("removeStrand", { strandId: "low" }),
    ({ strands, bindings }) => [strands.length, bindings.map(({ id }) => id)],
    [1, ["b2"]],
  ],
  [
    call("duplicateStrand", { strandId: "low", id: "copy" }),
    ({ strands }) => strands.map(({ name }) => name),
    ["Strand 1", "Strand 1 copy", "Strand 2"],
  ],
  [
    call("moveStrand", { strandId: "low", to: 1 }),
    ({ strands }) => strands.map(({ id }) => id),
    ["high", "low"],
  ],
  [call("setMeasure", { strandId: "low", kind: "pitch" }), ({ strands }) => strands[0].measure.kind, "pitch"],
  [
    // The other end of the range is pushed along.
    call("setMeasureSetting", { strandId: "low", key: "lowHz", value: 12_000 }),
    ({ strands: [{ measure }] }) => "lowHz" in measure && measure.highHz > measure.lowHz,
    true,
  ],
  [
    call("listenTo", { strandId: "low", listensTo: { kind: "bus", id: "bus", tap: "before" } }),
    ({ strands }) => strands[0].listensTo,
    { kind: "bus", id: "bus", tap: "before" },
  ],
  [
    call("changeShaping", { strandId: "low", change: { gate: { on: true } } }),
    ({ strands }) => strands[0].shaping.gate.on,
    true,
  ],
  [
    call("startFrom", { strandId: "low", name: "swell" }),
    ({ strands }) => JSON.stringify(strands[0].shaping) !== JSON.stringify(strands[1].shaping),
    true,
  ],
  [
    call("chooseNumber", { strandId: "low", programId: "half" }),
    ({ strands }) => (strands[0].measure as { programId?: string }).programId,
    "half",
  ],
  [
    call("addSnapshot", { id: "k", name: "Loud" }),
    ({ keeps }) => keeps.map(({ name }) => name),
    ["Calm", "Loud"],
  ],
  [
    [
      call("changeStrand", { strandId: "low", values: { cues: { on: true } } }),
      call("goBackTo", { snapshotId: "calm" }),
    ],
    ({ strands }) => strands[0].cues.on,
    false,
  ],
  [call("renameSnapshot", { snapshotId: "calm", name: "Still" }), ({ keeps }) => keeps[0].name, "Still"],
  [call("removeSnapshot", { snapshotId: "calm" }), ({ keeps }) => keeps, []],
  [
    call("addObject", { id: "o", kind: "sphere", name: "Lamp" }),
    ({ objects }) => objects.at(-1)!.name,
    "Lamp 2",
  ],
  [
    call("addAsset", { asset: { ...boat, id: "b", name: "Boat" }, objectId: "o" }),
    ({ objects }) => objects.at(-1),
    expect.objectContaining({ name: "Boat 2", settings: { modelId: "b" }, own: expect.anything() }),
  ],
  [
    call("takeModelApart", { objectId: "ship", groupId: "g", partIds: ["hull", "mast"] }),
    ({ objects }) => objects.slice(-3).map(({ id, kind, parentId }) => [id, kind, parentId]),
    [
      ["g", "group", null],
      ["hull", "model", "g"],
      ["mast", "model", "g"],
    ],
  ],
  [call("removeObjects", { objectIds: ["lamp"] }), ({ bindings }) => bindings, []],
  [
    call("renameObject", { objectId: "camera", name: "Eye" }),
    ({ objects }) => named(objects, "Eye")?.kind,
    "camera",
  ],
  [
    call("changeObjects", { objectIds: ["lamp", "buoy"], values: { hidden: true } }),
    ({ objects }) => objects.filter(({ hidden }) => hidden).length,
    2,
  ],
  [
    call("setRest", { objectIds: ["lamp", "buoy"], property: "opacity", value: 0.5 }),
    ({ objects }) => objects.filter(({ rest }) => rest.opacity === 0.5).length,
    2,
  ],
  [
    call("setSetting", { objectIds: ["lamp"], setting: "solid", value: "fixed" }),
    ({ objects }) => named(objects, "Lamp")?.settings.solid,
    "fixed",
  ],
  [
    call("group", { id: "g", objectIds: ["lamp", "buoy"] }),
    ({ objects }) => ["Group", "Lamp", "Buoy"].map((name) => named(objects, name)?.rest.position),
    [
      [3, 0, 1],
      [-1, 0, -1],
      [1, 0, 1],
    ],
  ],
  [
    [call("group", { id: "g", objectIds: ["lamp", "buoy"] }), call("ungroup", { objectId: "g" })],
    ({ objects }) => ["Lamp", "Buoy"].map((name) => named(objects, name)?.rest.position),
    [
      [2, 0, 0],
      [4, 0, 2],
    ],
  ],
  [
    call("shareSurface", { id: "m", objectId: "lamp" }),
    ({ objects }) => [named(objects, "Lamp")?.settings.materialId, objects.at(-1)?.name],
    ["m", "Lamp surface"],
  ],
  [
    [
      call("shareSurface", { id: "m", objectId: "lamp" }),
      call("ownSurface", { objectId: "lamp", bindingIds: [] }),
    ],
    ({ objects }) => named(objects, "Lamp")?.settings.materialId,
    null,
  ],
  [
    call("bind", { ids: ["b3", "b4"], objectIds: ["lamp", "buoy"], property: "opacity", strandId: "low" }),
    ({ bindings }) => bindings.slice(2).map(({ id, objectId }) => [id, objectId]),
    [
      ["b3", "lamp"],
      ["b4", "buoy"],
    ],
  ],
  [
    // A strand that kicks needs cues: they are switched on.
    call("changeBindings", { bindingIds: ["b1"], values: { mode: "kick" } }),
    ({ bindings, strands }) => [bindings[0].mode, strands[0].cues.on],
    ["kick", true],
  ],
  [call("removeBindings", { bindingIds: ["b1"] }), ({ bindings }) => bindings.map(({ id }) => id), ["b2"]],
  [
    call("moveBinding", { bindingId: "b1", by: 1 }),
    ({ bindings }) => bindings.map(({ id }) => id),
    ["b2", "b1"],
  ],
  [
    call("copyBinding", { bindingId: "b1", objectIds: ["buoy", "camera"], ids: ["c1", "c2"] }),
    // A camera has no scale.
    ({ bindings }) => bindings.slice(2).map(({ id, objectId }) => [id, objectId]),
    [["c1", "buoy"]],
  ],
  [
    call("paste", {
      clipping: {
        bumbrel: "objects",
        objects: [],
        bindings: [],
        strands: [],
        assets: [{ ...boat, id: "b" }],
        programs: [],
      },
      ids: {},
      offset: 0,
    }),
    ({ assets }) => assets.at(-1)!.id,
    "b",
  ],
  [call("addAnswer", { answer }), ({ answers }) => answers.map(({ name }) => name), ["Tap"]],
  [
    [call("addAnswer", { answer }), call("changeAnswer", { answerId: "tap", values: { name: "Key" } })],
    ({ answers }) => answers[0].name,
    "Key",
  ],
  [
    [call("addAnswer", { answer }), call("setCue", { answerId: "tap", cue: start, gapMs: 5 })],
    ({ answers: [{ cue, only }] }) => [cue, only.gapMs],
    [start, 5],
  ],
  [[call("addAnswer", { answer }), call("removeAnswer", { answerId: "tap" })], ({ answers }) => answers, []],
  [call("switchCuesOn", { strandId: "high" }), ({ strands }) => strands[1].cues.on, true],
  [call("addMark", { id: "m", timeS: 2 }), ({ marks }) => marks.map(({ timeS }) => timeS), [1.235, 2]],
  [
    call("addSections", { sections: [{ id: "a", name: "A", startS: 3 }] }),
    ({ marks }) => marks.at(-1),
    { id: "a", name: "A", timeS: 3, beginsSection: true },
  ],
  [call("changeMark", { markId: "start", values: { name: "Go" } }), ({ marks }) => marks[0].name, "Go"],
  [call("removeMark", { markId: "start" }), ({ marks }) => marks, []],
  [call("renameAsset", { assetId: "walk", name: "Round" }), ({ assets }) => assets[1].name, "Round"],
  [
    call("trimTake", { assetId: "walk", storedId: "u", lengthS: 4 }),
    ({ assets }) => assets[1],
    expect.objectContaining({ storedId: "u", lengthS: 4 }),
  ],
  [call("chooseTake", { assetId: "walk" }), ({ takeId }) => takeId, "walk"],
  [
    [call("chooseTake", { assetId: "walk" }), call("removeTake", { assetId: "walk" })],
    ({ takeId, assets }) => [takeId, assets.length],
    [null, 1],
  ],
  [
    call("addProgram", { id: "p", name: "Half", kind: "number", code: NUMBER, strandIds: ["low"] }),
    ({ programs, strands }) => [programs[1].name, (strands[0].measure as { programId?: string }).programId],
    ["Half 2", "p"],
  ],
  [
    [
      call("addProgram", { id: "p", name: "Glow", kind: "surface", code: "void surface() {}" }),
      call("chooseProgram", { objectIds: ["lamp"], programId: "p" }),
    ],
    ({ objects }) => named(objects, "Lamp")?.settings.programId,
    "p",
  ],
  [
    call("saveCode", { programId: "half", code: "function next(): number { return 1; }" }),
    ({ programs }) => programs[0].code.includes("return 1"),
    true,
  ],
  [
    call("saveCodeDraft", { programId: "half", code: "function" }),
    ({ programs: [{ code, draft }] }) => [code, draft],
    [NUMBER, "function"],
  ],
  [call("renameProgram", { programId: "half", name: "Even" }), ({ programs }) => programs[0].name, "Even"],
  [call("removeProgram", { programId: "half" }), ({ programs }) => programs, []],
];
const named = (objects: Scene["objects"], name: string) => objects.find((one) => one.name === name);

/** Edits that need more than a line: they are tested where they are used. */
const ELSEWHERE: EditName[] = ["addAction", "setLink"];

describe("each edit", () => {
  let base: Scene;
  beforeAll(() => {
    base = applyEdits(newScene("Quay"), BASE);
  });

  it.each(CASES)("%j", (calls, read, expected) => {
    const list = [calls].flat();
    const edited = applyEdits(base, list);
    expect(read(edited)).toEqual(expected);
    const { edit, args } = list.at(-1)!;
    expect(EDITS[edit as EditName].label(base, args as never)).toMatch(/^[a-z].{3,}/);
  });

  it("has a case", () => {
    const tested = CASES.flatMap(([calls]) => [calls].flat().at(-1)!.edit);
    expect(Object.keys(EDITS).filter((name) => !tested.includes(name))).toEqual(ELSEWHERE);
  });
});
