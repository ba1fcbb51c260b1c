import type { Scene } from "@bumbrel/core/document/scene";
import { newObject, newScene } from "@bumbrel/core/kinds/create";
import { afterEach, beforeEach, describe, expect, it, jest } from "@jest/globals";
import { DocumentStore } from "./documentStore";

beforeEach(() => {
  jest.useFakeTimers();
});
afterEach(() => {
  jest.useRealTimers();
});

class Conflict extends Error {}

/** A document, and a server that counts its revisions. */
function open() {
  const saved: Scene[] = [];
  const server = { revision: 1, scene: newScene("Quay"), saveId: null as string | null, losesAnswers: false };
  let names = 0;
  const document = new DocumentStore({
    scene: server.scene,
    revision: 1,
    load: async () => structuredClone(server),
    save: async (revision, scene, { saveId, unanswered }) => {
      const isOwn = server.saveId !== null && unanswered.includes(server.saveId);
      if (revision !== server.revision && !isOwn) throw new Conflict("stale");
      Object.assign(server, { revision: server.revision + 1, scene: structuredClone(scene), saveId });
      saved.push(scene);
      if (server.losesAnswers) throw new Error("no answer");
      return { revision: server.revision };
    },
    failureOf: (error) => (error instanceof Conflict ? "conflict" : "unanswered"),
    newId: () => `save ${names++}`,
    delayMs: 100,
  });
  /** A save by somebody else. */
  const elsewhere = (change: (scene: Scene) => void) => {
    const scene = structuredClone(server.scene);
    change(scene);
    Object.assign(server, { revision: server.revision + 1, scene, saveId: "theirs" });
  };
  const state = () => document.store.getState();
  return { document, saved, server, elsewhere, state };
}

const add = (name: string) => (scene: Scene) => {
  scene.objects.push(newObject(name, "box", name));
};
const namesOf = (scene: Scene) => scene.objects.map(({ name }) => name);

describe("the document store", () => {
  it("names the next undo and redo, and saves by itself", async () => {
    const { document, saved } = open();
    document.edit("call it Pier", (scene) => {
      scene.name = "Pier";
    });
    expect(document.store.getState()).toMatchObject({ undoLabel: "call it Pier", redoLabel: undefined });
    expect(document.isBehind).toBe(true);
    await jest.advanceTimersByTimeAsync(150);
    expect(saved.map(({ name }) => name)).toEqual(["Pier"]);
    expect(document.store.getState().saved).toEqual({ kind: "saved" });
    document.undo();
    expect(document.scene.name).toBe("Quay");
    expect(document.store.getState()).toMatchObject({ undoLabel: undefined, redoLabel: "call it Pier" });
    document.redo();
    await document.flush();
    expect(saved.at(-1)!.name).toBe("Pier");
  });

  it("carries out no edit by which the document would hold more than can be saved, and says why", () => {
    const { document } = open();
    const add = (count: number) =>
      document.edit(`add ${count} buses`, ({ buses }) => {
        for (let i = 0; i < count; i++) buses.push({ id: `b${buses.length}` } as Scene["buses"][number]);
      });
    add(64);
    expect(document.store.getState().refused).toBeUndefined();
    add(1);
    expect(document.scene.buses).toHaveLength(64);
    expect(document.store.getState()).toMatchObject({
      undoLabel: "add 64 buses",
      refused: expect.stringMatching(/add 1 buses.*65 buses, more than the 64/),
    });
    document.edit("call it Pier", (scene) => {
      scene.name = "Pier";
    });
    expect(document.store.getState().refused).toBeUndefined();
  });

  it("keeps every part of the scene that an edit does not touch, for those who read parts", () => {
    const { document } = open();
    document.edit("add a lantern", (scene) => {
      (scene as Scene).objects.push(newObject("lantern", "sphere", "Lantern"));
    });
    const before = document.scene;
    const heard: string[] = [];
    document.store.subscribe((now, was) => {
      for (const key of ["strands", "sounds", "bindings", "objects"] as const) {
        if (now.scene[key] !== was.scene[key]) heard.push(key);
      }
    });
    document.edit(
      "move it",
      (scene) => {
        scene.objects.at(-1)!.rest.position = [1, 0, 0];
      },
      "drag",
    );
    expect(heard).toEqual(["objects"]);
    expect(document.scene.objects[0]).toBe(before.objects[0]);
    expect(document.scene.objects.at(-1)!.settings).toBe(before.objects.at(-1)!.settings);
    // An edit that changes nothing is none.
    document.edit("move it", () => {}, "drag");
    expect(heard).toEqual(["objects"]);
  });

  it("makes one step of a gesture until it ends", () => {
    const { document } = open();
    for (const name of ["a", "b"]) {
      document.edit(
        "rename",
        (scene) => {
          scene.name = name;
        },
        "typing",
      );
    }
    document.endGesture();
    document.edit(
      "rename",
      (scene) => {
        scene.name = "c";
      },
      "typing",
    );
    document.undo();
    expect(document.scene.name).toBe("b");
    document.undo();
    expect(document.scene.name).toBe("Quay");
    document.dispose();
  });

  it("merges saves from elsewhere at once, and its own undo still works", async () => {
    const { document, server, elsewhere, state } = open();
    const before = namesOf(document.scene);
    document.edit("add a boat", add("Boat"));
    await document.flush();
    elsewhere((scene) => {
      scene.objects.unshift(newObject("gull", "box", "Gull"));
      scene.name = "Pier";
    });
    await document.changedElsewhere(server.revision);
    expect(namesOf(document.scene)).toEqual(["Gull", ...before, "Boat"]);
    expect(state()).toMatchObject({ takenIn: 1, saved: { kind: "saved" }, undoLabel: "add a boat" });
    document.undo();
    expect(namesOf(document.scene)).toEqual(["Gull", ...before]);
    expect(document.scene.name).toBe("Pier");
    document.redo();
    expect(namesOf(document.scene)).toEqual(["Gull", ...before, "Boat"]);
    await document.flush();
    expect(server.scene).toEqual(document.scene);
  });

  it("saves edits together with those that somebody else saved first", async () => {
    const { document, server, elsewhere, state } = open();
    elsewhere(add("Gull"));
    document.edit("call it Pier", (scene) => {
      scene.name = "Pier";
    });
    await jest.advanceTimersByTimeAsync(500);
    expect(server.scene.name).toBe("Pier");
    expect(namesOf(server.scene)).toContain("Gull");
    expect(state()).toMatchObject({ saved: { kind: "saved" }, collisions: [] });
  });

  it("saves nothing during a conflict, and then the chosen sides", async () => {
    const { document, server, elsewhere, state } = open();
    document.edit("call it Pier", (scene) => {
      scene.name = "Pier";
      scene.loop = !scene.loop;
    });
    elsewhere((scene) => {
      scene.name = "Mole";
    });
    elsewhere(add("Gull"));
    await document.changedElsewhere(server.revision);
    expect(state()).toMatchObject({
      saved: { kind: "conflict" },
      collisions: [{ path: ["name"], mine: "Pier", theirs: "Mole" }],
    });
    await jest.advanceTimersByTimeAsync(1000);
    expect(server.scene.name).toBe("Mole");
    document.choose(["theirs"]);
    await document.flush();
    expect(state()).toMatchObject({ saved: { kind: "saved" }, collisions: [] });
    expect(server.scene).toMatchObject({ name: "Mole", loop: document.scene.loop });
    expect(server.scene).toEqual(document.scene);
  });

  it("knows its own save when the answer was lost and it hears of the revision first", async () => {
    const { document, server, state } = open();
    const rename = (name: string) =>
      document.edit(`call it ${name}`, (scene) => {
        scene.name = name;
      });
    server.losesAnswers = true;
    rename("First");
    await document.flush();
    server.losesAnswers = false;
    rename("Second");
    await document.changedElsewhere(server.revision);
    expect(state()).toMatchObject({ collisions: [], takenIn: 0 });
    await document.flush();
    expect(server.scene.name).toBe("Second");
  });

  it("is told of its own saves and takes nothing in", async () => {
    const { document, server, state } = open();
    document.edit("add a boat", add("Boat"));
    const saving = document.flush();
    await document.changedElsewhere(2);
    await saving;
    expect(state()).toMatchObject({ takenIn: 0, saved: { kind: "saved" } });
    await document.changedElsewhere("gone");
    expect(state().saved.kind).toBe("gone");
    document.edit("add a gull", add("Gull"));
    await jest.advanceTimersByTimeAsync(1000);
    expect(server.revision).toBe(2);
    await document.changedElsewhere(2);
    expect(namesOf(server.scene)).toContain("Gull");
  });
});
