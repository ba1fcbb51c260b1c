import { useEffect } from "react";
import { useWorkbench } from "./context";

const TYPED = "input:not([type=range]):not([type=checkbox]):not([type=color]), textarea, [contenteditable]";

/** True if a key press goes into text. */
export const isTyping = (target: EventTarget | null): boolean =>
  target instanceof Element && target.matches(TYPED);

/**
 * Space plays and pauses, whatever was touched last; Ctrl or ⌘ with Z and Shift+Z undo and redo. Not while something is
 * typed.
 */
export function useProjectKeys(): void {
  const workbench = useWorkbench();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      // A scene that is tried takes the keys itself.
      const isVisited = event.target instanceof Element && event.target.closest("[data-visit=true]");
      if (isTyping(event.target) || isVisited) return;
      if (event.key === " ") {
        // Before the control that has the focus takes it for a press.
        event.preventDefault();
        event.stopPropagation();
        if (event.type === "keydown" && !event.repeat) workbench.player.transport.toggle();
      } else if (
        event.type === "keydown" &&
        event.key.toLowerCase() === "z" &&
        (event.ctrlKey || event.metaKey)
      ) {
        event.preventDefault();
        if (event.shiftKey) workbench.document.redo();
        else workbench.document.undo();
      }
    };
    addEventListener("keydown", onKey, true);
    addEventListener("keyup", onKey, true);
    return () => {
      removeEventListener("keydown", onKey, true);
      removeEventListener("keyup", onKey, true);
    };
  }, [workbench]);
}
