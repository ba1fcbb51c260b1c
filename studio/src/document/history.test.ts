import { newScene } from "@bumbrel/core/kinds/create";
import { afterEach, beforeEach, describe, expect, it, jest } from "@jest/globals";
import fc from "fast-check";
import { Autosave, type AutosaveParts, type SaveFailure, type SaveState } from "./autosave";
import { applyEdit, endGesture, type History, redo, undo } from "./history";

const fresh = (): History => ({ scene: newScene("Quay"), past: [], future: [] });
const rename = (history: History, name: string, gesture?: string) =>
  applyEdit(
    history,
    `call it ${name}`,
    (scene) => {
      scene.name = name;
    },
    gesture,
  );

describe("history", () => {
  it("goes back and forth through any edits and ends where it began", () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({ name: fc.string(), gesture: fc.option(fc.constantFrom("a", "b"), { nil: undefined }) }),
        ),
        (edits) => {
          const start = fresh();
          let history = start;
          for (const { name, gesture } of edits) history = rename(history, name, gesture);
          const end = history.scene;
          while (history.past.length > 0) history = undo(history);
          expect(history.scene).toEqual(start.scene);
          while (history.future.length > 0) history = redo(history);
          expect(history.scene).toEqual(end);
        },
      ),
    );
  });

  it("makes one step of a gesture, and a new one after it ends", () => {
    let history = rename(rename(rename(fresh(), "a", "drag"), "b", "drag"), "c", "drag");
    expect(history.past).toHaveLength(1);
    history = rename(endGesture(history), "d", "drag");
    expect(history.past.map(({ label }) => label)).toEqual(["call it a", "call it d"]);
    expect(undo(history).scene.name).toBe("c");
    expect(undo(undo(history)).scene.name).toBe("Quay");
  });

  it("ignores edits that change nothing, and forgets the future after a new one", () => {
    const history = rename(fresh(), "a");
    expect(rename(history, "a")).toBe(history);
    expect(rename(undo(history), "b").future).toEqual([]);
    expect(undo(fresh())).toEqual(fresh());
    expect(redo(history)).toBe(history);
  });

  it("keeps a limited number of steps", () => {
    let history = fresh();
    for (let i = 0; i < 520; i++) history = rename(history, `n${i}`);
    expect(history.past).toHaveLength(500);
  });
});

describe("Autosave", () => {
  beforeEach(() => {
    jest.useFakeTimers();
  });
  afterEach(() => {
    jest.useRealTimers();
  });

  class Failed extends Error {
    readonly failure: SaveFailure;
    constructor(failure: SaveFailure) {
      super(`it is ${failure}`);
      this.failure = failure;
    }
  }
  function setUp(save: AutosaveParts["save"]) {
    let ids = 0;
    const states: SaveState["kind"][] = [];
    const autosave = new Autosave({
      scene: newScene("Quay"),
      revision: 4,
      save,
      failureOf: (error) => (error as { failure?: SaveFailure }).failure ?? "unavailable",
      newId: () => `save${++ids}`,
      onState: ({ kind }) => states.push(kind),
      delayMs: 100,
      retryMs: 1000,
    });
    return { autosave, states };
  }

  it("saves the newest state once things are quiet, building on the revision it got", async () => {
    const saved: [number, string][] = [];
    const { autosave, states } = setUp(async (revision, { name }) => {
      saved.push([revision, name]);
      return { revision: revision + 1 };
    });
    for (const name of ["a", "b", "c"]) autosave.changed(newScene(name));
    expect(autosave.isBehind).toBe(true);
    await jest.advanceTimersByTimeAsync(150);
    autosave.changed(newScene("d"));
    await jest.advanceTimersByTimeAsync(150);
    expect(saved).toEqual([
      [4, "c"],
      [5, "d"],
    ]);
    expect(states.at(-1)).toBe("saved");
    expect(autosave.isBehind).toBe(false);
  });

  it("never has two saves on their way", async () => {
    let running = 0;
    const names: string[] = [];
    const { autosave } = setUp(async (revision, { name }) => {
      expect(++running).toBe(1);
      await new Promise((resolve) => setTimeout(resolve, 500));
      running--;
      names.push(name);
      return { revision: revision + 1 };
    });
    autosave.changed(newScene("a"));
    await jest.advanceTimersByTimeAsync(120);
    autosave.changed(newScene("b"));
    await jest.advanceTimersByTimeAsync(2000);
    expect(names).toEqual(["a", "b"]);
  });

  it("tries again after a failure and loses nothing", async () => {
    let attempts = 0;
    const names: string[] = [];
    const { autosave, states } = setUp(async (revision, { name }) => {
      if (++attempts < 3) throw new Error("the server does not answer");
      names.push(name);
      return { revision: revision + 1 };
    });
    autosave.changed(newScene("a"));
    await jest.advanceTimersByTimeAsync(150);
    expect(states.at(-1)).toBe("failed");
    expect(autosave.isBehind).toBe(true);
    await jest.advanceTimersByTimeAsync(2500);
    expect(names).toEqual(["a"]);
    expect(states.at(-1)).toBe("saved");
  });

  it("stops at a conflict so that neither side is overwritten", async () => {
    let attempts = 0;
    const { autosave, states } = setUp(async () => {
      attempts++;
      throw new Failed("conflict");
    });
    autosave.changed(newScene("a"));
    await jest.advanceTimersByTimeAsync(150);
    autosave.changed(newScene("b"));
    await jest.advanceTimersByTimeAsync(10_000);
    expect(attempts).toBe(1);
    expect(states.at(-1)).toBe("conflict");
    expect(autosave.isBehind).toBe(true);
  });

  it("does not repeat a save that was refused, and tries the next change", async () => {
    const tried: string[] = [];
    const { autosave, states } = setUp(async (revision, { name }) => {
      tried.push(name);
      if (name === "too much") throw new Failed("refused");
      return { revision: revision + 1 };
    });
    autosave.changed(newScene("too much"));
    await jest.advanceTimersByTimeAsync(60_000);
    expect(tried).toEqual(["too much"]);
    expect(states.at(-1)).toBe("refused");
    expect(autosave.isBehind).toBe(true);
    autosave.changed(newScene("less"));
    await jest.advanceTimersByTimeAsync(150);
    expect(states.at(-1)).toBe("saved");
    expect(autosave.isBehind).toBe(false);
  });

  it("names the saves whose answers never came, until one is answered", async () => {
    const sent: string[] = [];
    let answers = false;
    const { autosave } = setUp(async (revision, _scene, { saveId, unanswered }) => {
      sent.push(`${saveId} after ${unanswered.join(" ")}`);
      if (!answers) throw new Failed("unanswered");
      return { revision: revision + 1 };
    });
    autosave.changed(newScene("a"));
    await jest.advanceTimersByTimeAsync(150);
    await jest.advanceTimersByTimeAsync(1000);
    answers = true;
    await jest.advanceTimersByTimeAsync(1000);
    autosave.changed(newScene("b"));
    await jest.advanceTimersByTimeAsync(150);
    expect(sent).toEqual(["save1 after ", "save2 after save1", "save3 after save1 save2", "save4 after "]);
  });

  it("stops when the project is gone, and saves once it is back", async () => {
    let isThere = false;
    const { autosave, states } = setUp(async (revision) => {
      if (!isThere) throw new Failed("gone");
      return { revision: revision + 1 };
    });
    autosave.changed(newScene("a"));
    await jest.advanceTimersByTimeAsync(10_000);
    expect(states.at(-1)).toBe("gone");
    isThere = true;
    await autosave.resume();
    expect(states.at(-1)).toBe("saved");
  });

  it("saves at once when asked", async () => {
    const names: string[] = [];
    const { autosave } = setUp(async (revision, { name }) => {
      names.push(name);
      return { revision: revision + 1 };
    });
    autosave.changed(newScene("a"));
    await autosave.flush();
    expect(names).toEqual(["a"]);
  });
});
