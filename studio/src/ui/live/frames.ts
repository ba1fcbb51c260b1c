import { createContext, type RefObject, useContext, useEffect, useRef } from "react";

/** Calls a watcher once a display frame with the position in seconds; returns a function that stops that. */
export interface FrameSource {
  onFrame(watcher: (timeS: number) => void): () => void;
}

export const FramesContext = createContext<FrameSource | undefined>(undefined);

/**
 * Calls `draw` once a display frame with the position in seconds, outside of React.
 *
 * @param seen  what is drawn on; while it is scrolled out of sight nothing is drawn
 */
export function useFrame(draw: (timeS: number) => void, seen?: RefObject<Element | null>): void {
  const frames = useContext(FramesContext);
  const latest = useRef(draw);
  latest.current = draw;
  useEffect(() => {
    if (!frames) return;
    const begin = () => frames.onFrame((timeS) => latest.current(timeS));
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
  }, [frames, seen]);
}
