import type { Scene } from "@bumbrel/core/scene/document";
import { createContext, useContext, useEffect, useRef, useSyncExternalStore } from "react";
import type { Workbench, WorkbenchSnapshot } from "./workbench";

export const WorkbenchContext = createContext<Workbench | undefined>(undefined);

export function useWorkbench(): Workbench {
  const workbench = useContext(WorkbenchContext);
  if (!workbench) throw new Error("this part of the studio needs an open project around it");
  return workbench;
}

/** The open project's document, save state and arrivals. */
export function useSnapshot(): WorkbenchSnapshot {
  const workbench = useWorkbench();
  return useSyncExternalStore(workbench.subscribe, workbench.getSnapshot);
}

export function useScene(): Scene {
  return useSnapshot().scene;
}

/** Calls `draw` once a display frame with the position in seconds, outside of React. */
export function useFrame(draw: (timeS: number) => void): void {
  const { player } = useWorkbench();
  const latest = useRef(draw);
  latest.current = draw;
  useEffect(() => player.onFrame((timeS) => latest.current(timeS)), [player]);
}
