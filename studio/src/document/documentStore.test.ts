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

function open() {
  const saved: Scene[] = [];
  const document = new DocumentStore(newScene("Quay"), {
    revision: 1,
    save: async (revision, scene) => {
      saved.push(scene);
      return { revision: revision + 1 };
    },
    failureOf: () => "unavailable",
    newId: () => "save",
    delayMs: 100,
  });
  return { document, saved };
}

describe("the document store", () => {
  it("says what can be undone and redone, and saves by itself", async () => {
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
});
