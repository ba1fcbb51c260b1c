import { useEffect } from "react";
import { useEditing, usePlayer } from "../../session/context";
import { isTyping } from "../../ui/isTyping";

/**
 * Space plays and pauses, whatever was touched last; Ctrl or ⌘ with Z and Shift+Z undo and redo. Not while something is
 * typed.
 */
export function useProjectKeys(): void {
  const editing = useEditing();
  const player = usePlayer();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      // A scene that is tried takes the keys itself.
      const isVisited = event.target instanceof Element && event.target.closest("[data-visit=true]");
      if (isTyping(event.target) || isVisited) return;
      if (event.key === " ") {
        // Before the control that has the focus takes it for a press.
        event.preventDefault();
        event.stopPropagation();
        if (event.type === "keydown" && !event.repeat) player.transport.toggle();
      } else if (
        event.type === "keydown" &&
        event.key.toLowerCase() === "z" &&
        (event.ctrlKey || event.metaKey)
      ) {
        event.preventDefault();
        if (event.shiftKey) editing.redo();
        else editing.undo();
      }
    };
    addEventListener("keydown", onKey, true);
    addEventListener("keyup", onKey, true);
    return () => {
      removeEventListener("keydown", onKey, true);
      removeEventListener("keyup", onKey, true);
    };
  }, [editing, player]);
}
