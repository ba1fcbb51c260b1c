import type { Scene } from "@bumbrel/core/scene/document";
import { createContext, type RefObject, useContext, useEffect, useRef, useSyncExternalStore } from "react";
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

/**
 * Calls `draw` once a display frame with the position in seconds, outside of React.
 *
 * @param seen  what is drawn on; while it is scrolled out of sight nothing is drawn
 */
export function useFrame(draw: (timeS: number) => void, seen?: RefObject<Element | null>): void {
  const { player } = useWorkbench();
  const latest = useRef(draw);
  latest.current = draw;
  useEffect(() => {
    const begin = () => player.onFrame((timeS) => latest.current(timeS));
    if (!seen?.current) return begin();
    let stop: (() => void) | undefined;
    const observer = new IntersectionObserver(([{ isIntersecting }]) => {
      if (isIntersecting) stop ??= begin();
      else {
        stop?.();
        stop = undefined;
      }
    });
    observer.observe(seen.current);
    return () => {
      observer.disconnect();
      stop?.();
    };
  }, [player, seen]);
}
