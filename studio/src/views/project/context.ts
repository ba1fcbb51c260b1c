import type { Scene } from "@bumbrel/core/document/scene";
import { createContext, useContext, useSyncExternalStore } from "react";
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
/** A part of the scene: renders again only when that part is another one. */
export function useScene<T>(select: (scene: Scene) => T): T;
export function useScene<T>(select?: (scene: Scene) => T): T | Scene {
  return useDocument(({ scene }) => (select ? select(scene) : scene));
}

/** Increases when a sound, a strand's first numbers or another result has arrived. */
export function useResults(): number {
  const workbench = useWorkbench();
  return useSyncExternalStore(workbench.onResult, () => workbench.results);
}
