import type { Scene, StageObject } from "@bumbrel/core/document/scene";
import { createContext, useContext, useRef, useSyncExternalStore } from "react";
import { useStore } from "zustand";
import { useShallow } from "zustand/react/shallow";
import type { DocumentState } from "../../document/documentStore";
import type { Workbench } from "./workbench";

export const WorkbenchContext = createContext<Workbench | undefined>(undefined);

export function useWorkbench(): Workbench {
  const workbench = useContext(WorkbenchContext);
  if (!workbench) throw new Error("this part of the studio needs an open project around it");
  return workbench;
}

/** Reads a part of the open document; an edit renders only what reads a part that it changed. */
export function useDocument<T>(select: (state: DocumentState) => T): T {
  return useStore(useWorkbench().document.store, useShallow(select));
}

/** The whole scene: renders again at every edit. */
export function useScene(): Scene;
/**
 * A part of the scene: renders again only when that part is another one.
 *
 * @param isSame  whether a part counts as unchanged; without it, when its own parts are the same objects
 */
export function useScene<T>(select: (scene: Scene) => T, isSame?: (before: T, now: T) => boolean): T;
export function useScene<T>(
  select?: (scene: Scene) => T,
  isSame?: (before: T, now: T) => boolean,
): T | Scene {
  const last = useRef<{ value: T | Scene }>(undefined);
  return useDocument(({ scene }) => {
    const value = select ? select(scene) : scene;
    const before = last.current;
    if (before && isSame?.(before.value as T, value as T)) return before.value;
    last.current = { value };
    return value;
  });
}

/** True if objects are the same in all but what they rest at. */
export function sameButRest(before: readonly StageObject[], now: readonly StageObject[]): boolean {
  return (
    before.length === now.length &&
    before.every((one, i) => {
      const { id, kind, name, parentId, hidden, locked, settings, own } = now[i];
      return (
        one.id === id &&
        one.kind === kind &&
        one.name === name &&
        one.parentId === parentId &&
        one.hidden === hidden &&
        one.locked === locked &&
        one.settings === settings &&
        one.own === own
      );
    })
  );
}

/** Increases when a sound, a strand's first numbers or another result has arrived. */
export function useResults(): number {
  const workbench = useWorkbench();
  return useSyncExternalStore(workbench.onResult, () => workbench.results);
}
