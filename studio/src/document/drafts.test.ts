import { newScene } from "@bumbrel/core/kinds/create";
import { afterEach, beforeEach, describe, expect, it, jest } from "@jest/globals";
import { DocumentStore } from "./documentStore";
import { browserDrafts, type Draft, DraftKeeper } from "./drafts";

let kept: Map<string, Draft>;
const drafts = {
  get: async (id: string) => kept.get(id),
  put: async (id: string, draft: Draft) => void kept.set(id, draft),
  remove: async (id: string) => void kept.delete(id),
};
beforeEach(() => {
  kept = new Map();
  jest.useFakeTimers();
});
afterEach(() => {
  jest.useRealTimers();
});

function open(save: () => Promise<{ revision: number }>) {
  const scene = newScene("Quay");
  const parts = {
    scene,
    revision: 7,
    load: async () => ({ revision: 7, scene, saveId: null }),
    save,
    failureOf: () => "unavailable" as const,
    newId: () => "s",
    delayMs: 400,
  };
  const document = new DocumentStore(parts, new DraftKeeper("p", drafts));
  const rename = (name: string) =>
    document.edit("rename", (scene) => {
      scene.name = name;
    });
  return { document, rename };
}

describe("drafts of unsaved edits", () => {
  it("are written soon after an edit, on the revision it was made on, and go once it has been saved", async () => {
    const { rename } = open(async () => ({ revision: 8 }));
    rename("Pier");
    expect(kept.size).toBe(0);
    await jest.advanceTimersByTimeAsync(200);
    expect(kept.get("p")).toMatchObject({ revision: 7, scene: { name: "Pier" } });
    await jest.advanceTimersByTimeAsync(400);
    expect(kept.size).toBe(0);
    rename("Mole");
    await jest.advanceTimersByTimeAsync(200);
    expect(kept.get("p")).toMatchObject({ revision: 8, scene: { name: "Mole" } });
  });

  it("stay, with the newest edit, while the server does not answer", async () => {
    const { rename, document } = open(async () => {
      throw new Error("no answer");
    });
    rename("Pier");
    await jest.advanceTimersByTimeAsync(1000);
    rename("Mole");
    await jest.advanceTimersByTimeAsync(30_000);
    expect(kept.get("p")).toMatchObject({ revision: 7, scene: { name: "Mole" } });
    rename("Jetty");
    document.dispose();
    await jest.advanceTimersByTimeAsync(0);
    expect(kept.get("p")?.scene.name).toBe("Jetty");
  });

  it("are forgotten when they have been kept elsewhere", async () => {
    const { rename, document } = open(async () => {
      throw new Error("no answer");
    });
    rename("Pier");
    await jest.advanceTimersByTimeAsync(1000);
    expect(kept.size).toBe(1);
    await document.abandon();
    await jest.advanceTimersByTimeAsync(30_000);
    expect(kept.size).toBe(0);
  });

  it("cost nothing where the browser keeps nothing", async () => {
    // There is no IndexedDB here at all.
    await browserDrafts.put("p", {
      revision: 1,
      base: newScene("Quay"),
      scene: newScene("Quay"),
      editedMs: 0,
    });
    await expect(browserDrafts.get("p")).resolves.toBeUndefined();
    await browserDrafts.remove("p");
  });
});
