import { useEffect } from "react";
import { useWorkbench } from "./context";

/** Space plays and pauses; Ctrl or ⌘ with Z and Shift+Z undo and redo. Not while something is typed. */
export function useProjectKeys(): void {
  const workbench = useWorkbench();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      const types = target.matches(
        "input:not([type=range]):not([type=checkbox]), textarea, [contenteditable]",
      );
      if (types) return;
      if (
        event.key === " " &&
        !target.matches("button, a, select, [role=menuitem], [role=switch], [role=slider]")
      ) {
        event.preventDefault();
        workbench.player.transport.toggle();
      }
      if (event.key.toLowerCase() === "z" && (event.ctrlKey || event.metaKey)) {
        event.preventDefault();
        if (event.shiftKey) workbench.document.redo();
        else workbench.document.undo();
      }
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [workbench]);
}
