import type { Asset } from "@bumbrel/core/document/scene";
import { describe, expect, it } from "@jest/globals";
import { type ArrivalParts, Arrivals } from "./arrivals";
import type { PendingImport, PendingImports } from "./pendingImports";
import type { PreparedFile } from "./prepareMessages";

const named = (name: string) => new File(["x"], name);

/** Arrivals whose files are read when a test says so. */
function setUp(left: PendingImport[] = []) {
  const reading = new Map<string, { finish(): void; fail(message: string): void }>();
  const added: string[] = [];
  const parts: ArrivalParts = {
    prepare: (file) =>
      new Promise((resolve, reject) => {
        reading.set(file.name, {
          finish: () => resolve({ is: "file", facts: {}, bytes: file } as unknown as PreparedFile),
          fail: (message) => reject(new Error(message)),
        });
      }),
    store: async (name) => `stored-${name}`,
    importAsset: (file) =>
      new Promise((resolve, reject) => {
        reading.set(file.name, {
          finish: () => resolve({ id: file.name } as Asset),
          fail: (message) => reject(new Error(message)),
        });
      }),
    show: ({ id }) => `shown-${id}`,
    add: (name, kind, storedId) => added.push(`${name} ${kind} ${storedId}`),
    replace: (soundId, _kind, storedId) => added.push(`${soundId} = ${storedId}`),
  };
  const begun = new Map<string, PendingImport>();
  const pending: PendingImports = {
    begin: (id, one) => begun.set(id, one),
    end: (id) => begun.delete(id),
    takeLeft: async () => left,
  };
  const arrivals = new Arrivals("quay", parts, pending);
  const settle = () => new Promise((resolve) => setTimeout(resolve));
  const names = () => arrivals.all().map(({ name, stage }) => `${name} ${stage}`);
  const begunNames = () => [...begun.values()].map(({ name }) => name);
  return { arrivals, reading, added, settle, names, begunNames };
}

describe("files on their way in", () => {
  it("each have a row from the start, those of a later batch too", async () => {
    const { arrivals, reading, settle, names } = setUp();
    void arrivals.bring([named("a.wav")]);
    void arrivals.bring([named("b.wav"), named("c.wav"), named("d.wav")]);
    await settle();
    expect(names()).toEqual(["a.wav reading", "b.wav reading", "c.wav reading", "d.wav waiting"]);
    reading.get("b.wav")!.finish();
    await settle();
    expect(names()).toEqual(["a.wav reading", "c.wav reading", "d.wav reading"]);
  });

  it("become sounds, or show their problem until they are dismissed", async () => {
    const { arrivals, reading, added, settle, names } = setUp();
    void arrivals.bring([named("bell.ogg"), named("horn.wav")]);
    reading.get("bell.ogg")!.finish();
    reading.get("horn.wav")!.fail("horn.wav: it is cut short");
    await settle();
    expect(added).toEqual(["bell file stored-bell"]);
    expect(names()).toEqual(["horn.wav failed"]);
    expect(arrivals.all()[0].message).toMatch(/cut short/);
    arrivals.dismiss(arrivals.all()[0]);
    expect(names()).toEqual([]);
  });

  it("take the place of a sound, and are refused in one row when they are no sounds", async () => {
    const { arrivals, reading, added, settle, names } = setUp();
    void arrivals.bring([named("bell.wav"), named("list.txt"), named("quay.png")], "old");
    reading.get("bell.wav")!.finish();
    await settle();
    expect(added).toEqual(["old = stored-bell"]);
    expect(names()).toEqual(["list.txt failed"]);
    expect(arrivals.all()[0].message).toMatch(/list.txt, quay.png: not a sound/);
  });

  it("bring images and models onto the stage, or say why not", async () => {
    const { arrivals, reading, settle, names } = setUp();
    const sail = arrivals.bringAsset(named("sail.png"), "picture");
    const boat = arrivals.bringAsset(named("boat.glb"), "model");
    await settle();
    expect(arrivals.isBusy).toBe(true);
    reading.get("sail.png")!.finish();
    reading.get("boat.glb")!.fail("boat.glb: it is cut short");
    expect(await sail).toBe("shown-sail.png");
    expect(await boat).toBeUndefined();
    expect(names()).toEqual(["boat.glb failed"]);
    expect(arrivals.isBusy).toBe(false);
  });

  it("are remembered until they are in, have failed or were stopped", async () => {
    const { arrivals, reading, settle, begunNames } = setUp();
    void arrivals.bring([named("a.wav"), named("b.wav"), named("c.wav")]);
    await settle();
    expect(begunNames()).toEqual(["a.wav", "b.wav", "c.wav"]);
    reading.get("a.wav")!.finish();
    reading.get("b.wav")!.fail("torn");
    await settle();
    expect(begunNames()).toEqual(["c.wav"]);
    arrivals.dispose();
    reading.get("c.wav")!.finish();
    await settle();
    expect(begunNames()).toEqual([]);
  });

  it("are taken up again after a reload, or said to be missing when they were too large to keep", async () => {
    const one = { projectId: "quay", becomes: "sound" } as const;
    const { arrivals, reading, added, settle, names } = setUp([
      { ...one, name: "bell.wav", file: named("bell.wav") },
      { ...one, name: "night.wav" },
    ]);
    await arrivals.takeUp();
    await settle();
    expect(names()).toEqual(["bell.wav reading", "night.wav failed"]);
    expect(arrivals.all()[1].message).toMatch(/night\.wav was on its way in .* Add it again/);
    reading.get("bell.wav")!.finish();
    await settle();
    expect(added).toEqual(["bell file stored-bell"]);
  });
});
