import type { Scene } from "@bumbrel/core/document/scene";
import { mergeScenes } from "@bumbrel/core/document/versions/merge";
import { type Draft, produce } from "immer";

/** One undoable step. Scenes share what is the same in them, so that many steps take little memory. */
export interface Edit {
  /** Label of the edit, shown beside undo. */
  label: string;
  before: Scene;
  after: Scene;
  /** Edits of one gesture share a key and become one step. */
  gesture: string | undefined;
}

export interface History {
  scene: Scene;
  past: readonly Edit[];
  future: readonly Edit[];
}

/** Steps that can be taken back; far more than anyone remembers. */
const MAX_STEPS = 500;

/** Changes a scene in place: it is given a draft, which may be changed. */
export type Recipe = (draft: Scene) => void;

/**
 * Applies an edit. A recipe that changes nothing leaves history as it is; one whose gesture is that of the
 * last edit joins it.
 */
export function applyEdit(history: History, label: string, recipe: Recipe, gesture?: string): History {
  const before = history.scene;
  const scene = produce(before, recipe as (draft: Draft<Scene>) => void);
  if (scene === before) return history;
  const last = history.past.at(-1);
  if (last && gesture !== undefined && last.gesture === gesture && history.future.length === 0) {
    return { scene, past: [...history.past.slice(0, -1), { ...last, after: scene }], future: [] };
  }
  const past = [...history.past, { label, before, after: scene, gesture }].slice(-MAX_STEPS);
  return { scene, past, future: [] };
}

/** Marks the last edit's gesture as over: what comes next is a step of its own. */
export function endGesture(history: History): History {
  const last = history.past.at(-1);
  if (last?.gesture === undefined) return history;
  return { ...history, past: [...history.past.slice(0, -1), { ...last, gesture: undefined }] };
}

/**
 * Goes from one state to another. Where the scene has become something else since, because somebody else's edits were
 * taken in, only what differs between the two states is changed.
 */
function step(scene: Scene, from: Scene, to: Scene): Scene {
  return scene === from ? to : mergeScenes(from, scene, to, () => "theirs").scene;
}

export function undo(history: History): History {
  const last = history.past.at(-1);
  if (!last) return history;
  return {
    scene: step(history.scene, last.after, last.before),
    past: history.past.slice(0, -1),
    future: [{ ...last, gesture: undefined }, ...history.future],
  };
}

export function redo(history: History): History {
  const [next, ...future] = history.future;
  if (!next) return history;
  return { scene: step(history.scene, next.before, next.after), past: [...history.past, next], future };
}
