import type { Scene } from "@bumbrel/core/document/scene";
import { applyPatches, type Draft, enablePatches, type Patch, produceWithPatches } from "immer";

enablePatches();

/** One undoable step. */
export interface Edit {
  /** What was done, as said beside undo. */
  label: string;
  forward: Patch[];
  backward: Patch[];
  /** Edits of one gesture share a key and become one step. */
  gesture: string | undefined;
}

export interface History {
  scene: Scene;
  past: readonly Edit[];
  future: readonly Edit[];
}

/** Steps that can be taken back; far more than anyone remembers, and small as patches. */
const MAX_STEPS = 500;

export type Recipe = (draft: Draft<Scene>) => void;

/**
 * Applies an edit. A recipe that changes nothing leaves history as it is; one whose gesture is that of the
 * last edit joins it.
 */
export function applyEdit(history: History, label: string, recipe: Recipe, gesture?: string): History {
  const [scene, forward, backward] = produceWithPatches(history.scene, recipe);
  if (forward.length === 0) return history;
  const last = history.past.at(-1);
  if (last && gesture !== undefined && last.gesture === gesture && history.future.length === 0) {
    const joined: Edit = {
      ...last,
      forward: [...last.forward, ...forward],
      backward: [...backward, ...last.backward],
    };
    return { scene, past: [...history.past.slice(0, -1), joined], future: [] };
  }
  const past = [...history.past, { label, forward, backward, gesture }].slice(-MAX_STEPS);
  return { scene, past, future: [] };
}

/** Marks the last edit's gesture as over: what comes next is a step of its own. */
export function endGesture(history: History): History {
  const last = history.past.at(-1);
  if (last?.gesture === undefined) return history;
  return { ...history, past: [...history.past.slice(0, -1), { ...last, gesture: undefined }] };
}

export function undo(history: History): History {
  const last = history.past.at(-1);
  if (!last) return history;
  return {
    scene: applyPatches(history.scene, last.backward),
    past: history.past.slice(0, -1),
    future: [{ ...last, gesture: undefined }, ...history.future],
  };
}

export function redo(history: History): History {
  const [next, ...future] = history.future;
  if (!next) return history;
  return { scene: applyPatches(history.scene, next.forward), past: [...history.past, next], future };
}
