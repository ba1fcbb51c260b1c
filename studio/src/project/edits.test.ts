import { checkReferences } from "@bumbrel/core/check/references";
import { parseScene } from "@bumbrel/core/format/sceneFile";
import { newScene, newSoundBasics } from "@bumbrel/core/scene/create";
import { withSingletons } from "@bumbrel/core/scene/evaluate";
import { beforeEach, describe, expect, it } from "@jest/globals";
import * as sounds from "../sounds/edits";
import * as stage from "../stage/edits";
import * as strands from "../strands/edits";
import { applyEdit, endGesture, type History, undo } from "./history";
import type { Workbench } from "./workbench";

/** The part of a workbench that edits need: a document with history. */
class Desk {
  history: History = { scene: newScene("Quay"), past: [], future: [] };
  get scene() {
    return this.history.scene;
  }
  edit(...args: Parameters<Workbench["edit"]>) {
    this.history = applyEdit(this.history, ...args);
  }
  endGesture() {
    this.history = endGesture(this.history);
  }
  get asWorkbench() {
    return this as unknown as Workbench;
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

/** Whatever edits do, the document stays valid and connected. */
function expectSound() {
  expect(checkReferences(parseScene(desk.scene))).toEqual([]);
}

describe("edits of strands", () => {
  it("give each strand a name, hue and shape of its own", () => {
    const ids = [0, 1, 2].map(() =>
      strands.addStrand(desk.asWorkbench, strands.soundBeforeFader("song"), range),
    );
    strands.removeStrand(desk.asWorkbench, strandNamed("Strand 2"));
    strands.addStrand(desk.asWorkbench, strands.soundBeforeFader("song"), range);
    expect(new Set(ids).size).toBe(3);
    expect(desk.scene.strands.map(({ name }) => name)).toEqual(["Strand 1", "Strand 3", "Strand 4"]);
    expect(new Set(desk.scene.strands.map(({ hue }) => hue)).size).toBe(3);
    expectSound();
  });

  it("never change what other strands or new ones begin with", () => {
    strands.addStrand(desk.asWorkbench, strands.soundBeforeFader("song"), range);
    const id = strands.addStrand(desk.asWorkbench, strands.soundBeforeFader("song"), range);
    strands.editStrand(desk.asWorkbench, id, "move it", ({ measure }) =>
      Object.assign(measure, { lowHz: 50 }),
    );
    strands.addStrand(desk.asWorkbench, strands.soundBeforeFader("song"), range);
    expect(desk.scene.strands.map(({ measure }) => measure.kind === "band" && measure.lowHz)).toEqual([
      40, 50, 40,
    ]);
  });

  it("make one step of a whole drag with its fit", () => {
    const id = strands.addStrand(desk.asWorkbench, strands.soundBeforeFader("song"), range, "drag");
    const raw = Float32Array.from({ length: 200 }, (_, i) => 10 ** ((-50 + i * 0.1) / 20));
    const traces = { raw, shaped: { width: 1, values: raw } };
    for (const highHz of [90, 100, 110]) {
      strands.editStrand(
        desk.asWorkbench,
        id,
        "drag",
        ({ measure }) => Object.assign(measure, { highHz }),
        "drag",
      );
      expect(strands.fitStrand(desk.asWorkbench, desk.scene.strands[0], traces, "drag")).toBe(true);
    }
    expect(desk.labels).toEqual(["add a sound", "add Strand 1"]);
    expect(desk.scene.strands[0].shaping.window).toEqual({ on: true, floorDb: -48, rangeDb: 16.9 });
    desk.history = undo(desk.history);
    expect(desk.scene.strands).toEqual([]);
  });

  it("leave the window alone when there is nothing to fit to", () => {
    strands.addStrand(desk.asWorkbench, strands.soundBeforeFader("song"), range);
    const silence = { raw: new Float32Array(50), shaped: { width: 1, values: new Float32Array(50) } };
    expect(strands.fitStrand(desk.asWorkbench, desk.scene.strands[0], silence)).toBe(false);
    expect(desk.labels.at(-1)).toBe("add Strand 1");
  });
});

describe("edits of the stage", () => {
  it("add, rest, bind and remove, and can all be taken back", () => {
    const start = desk.scene;
    const strandId = strands.addStrand(desk.asWorkbench, strands.soundBeforeFader("song"), range);
    stage.addObject(desk.asWorkbench, "box");
    stage.addObject(desk.asWorkbench, "box");
    stage.renameObject(desk.asWorkbench, objectNamed("Box 2"), "Ferry");
    stage.setRest(desk.asWorkbench, objectNamed("Ferry"), "scale", [2, 2, 2]);
    stage.bind(desk.asWorkbench, objectNamed("Ferry"), "scale", strandId);
    expect(desk.scene.bindings[0]).toMatchObject({
      property: "scale",
      axes: ["x", "y", "z"],
      output: { low: 2, high: 3 },
    });
    stage.editBinding(desk.asWorkbench, desk.scene.bindings[0].id, "move less", ({ output }) =>
      Object.assign(output, { high: 2.5 }),
    );
    expect(desk.scene.bindings[0].output).toMatchObject({ high: 2.5 });
    expectSound();
    stage.removeObject(desk.asWorkbench, objectNamed("Ferry"));
    expect(desk.scene.bindings).toEqual([]);
    while (desk.history.past.length > 1) desk.history = undo(desk.history);
    expect(desk.scene).toEqual(start);
  });

  it("take a strand's bindings away with it, so that what it drove comes to rest", () => {
    const strandId = strands.addStrand(desk.asWorkbench, strands.soundBeforeFader("song"), range);
    stage.addObject(desk.asWorkbench, "sphere");
    stage.bind(desk.asWorkbench, objectNamed("Sphere"), "radius", strandId);
    stage.bind(desk.asWorkbench, objectNamed("Sphere"), "colour", strandId);
    strands.removeStrand(desk.asWorkbench, strandNamed("Strand 1"));
    expect(desk.scene.bindings).toEqual([]);
    stage.bind(desk.asWorkbench, objectNamed("Sphere"), "radius", "s");
    stage.removeBinding(desk.asWorkbench, desk.scene.bindings[0].id);
    expect(desk.scene.bindings).toEqual([]);
  });

  it("write down a camera that was there only because there always is one", () => {
    desk.edit("start bare", (scene) => {
      scene.objects = [];
    });
    const camera = objectNamed("Camera");
    stage.setRest(desk.asWorkbench, camera, "fieldOfView", 70);
    stage.setRest(desk.asWorkbench, camera, "fieldOfView", 75);
    expect(desk.scene.objects).toEqual([
      { id: "camera", kind: "camera", name: "Camera", rest: { fieldOfView: 75 } },
    ]);
    expectSound();
  });
});

describe("edits of sounds", () => {
  const bench = () => Object.assign(desk, { player: { transport: { durationS: 12 } } }).asWorkbench;
  const soundNamed = (name: string) => desk.scene.sounds.find((one) => one.name === name)!;

  it("add every kind of sound under a name of its own, valid from the start", () => {
    for (let twice = 0; twice < 2; twice++) {
      sounds.addTone(bench());
      sounds.addNoise(bench());
      sounds.addClock(bench());
      sounds.addInput(bench());
      sounds.addKeys(bench());
      sounds.addStored(bench(), "Horn", "file", "h");
    }
    expect(new Set(desk.scene.sounds.map(({ name }) => name)).size).toBe(13);
    expect(soundNamed("Clock")).toMatchObject({ seconds: 12, heard: false });
    expectSound();
  });

  it("replace a sound's bytes and leave all else as it was", () => {
    sounds.addBus(bench(), soundNamed("Song"));
    sounds.editSound(bench(), soundNamed("Song"), "move", (one) => {
      one.faderDb = -9;
    });
    strands.addStrand(bench(), strands.soundBeforeFader("song"), range);
    const before = soundNamed("Song");
    sounds.replaceSound(bench(), "song", "file", "other");
    expect(soundNamed("Song")).toEqual({ ...before, storedId: "other" });
    sounds.replaceSound(bench(), "gone", "file", "other");
    expect(desk.labels.at(-1)).toBe("replace Song");
    expectSound();
  });

  it("leave nothing that points at a bus, a group or a sound that is gone", () => {
    sounds.addTone(bench());
    sounds.addBus(bench(), soundNamed("Tone"));
    const [bus] = desk.scene.buses;
    const listensTo = { kind: "bus", id: bus.id, tap: "after" } as const;
    strands.addStrand(bench(), listensTo, range);
    sounds.putInGroup(bench(), soundNamed("Tone"), "new");
    sounds.putInGroup(bench(), soundNamed("Song"), desk.scene.groups[0].id);
    sounds.editRunning(bench(), soundNamed("Song"), { loops: true });
    expect(desk.scene.groups).toMatchObject([{ loops: true, runs: "tape" }]);
    expect(soundNamed("Song").loops).toBe(false);
    expectSound();
    sounds.removeBus(bench(), bus);
    expect(soundNamed("Tone").busId).toBeNull();
    sounds.putInGroup(bench(), soundNamed("Tone"), null);
    expect(desk.scene.groups).toHaveLength(1);
    sounds.removeSound(bench(), soundNamed("Song"));
    expect(desk.scene.groups).toEqual([]);
    expect(checkReferences(parseScene(desk.scene)).map(({ code }) => code)).toEqual(["strand-no-sound"]);
  });
});
