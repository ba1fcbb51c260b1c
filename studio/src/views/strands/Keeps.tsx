import { Bookmark, Trash2 } from "lucide-react";
import { Popover } from "radix-ui";
import { useEffect, useState } from "react";
import { Button, IconButton } from "../../ui/Button";
import { NameField } from "../../ui/NameField";
import type { Tunings } from "../project/audition";
import { useResults, useScene, useWorkbench } from "../project/context";
import { useLooking, useUi } from "../project/uiState";
import type { Workbench } from "../project/workbench";
import { addKeep, goBackTo, removeKeep, renameKeep } from "./edits";

/** The key that shows the other tunings while it is held. */
const BEFORE_KEY = "b";

/** Tunings to compare with: the chosen snapshot, or those at the time the project was opened. */
function compared(workbench: Workbench, keepId: string | undefined): Tunings {
  return workbench.scene.keeps.find(({ id }) => id === keepId) ?? workbench.opened;
}

/** Named states of all tunings, to go back to; and a button to hold for seeing one of them. */
export function Keeps() {
  const workbench = useWorkbench();
  const keeps = useScene((scene) => scene.keeps);
  useResults();
  const { look } = useUi();
  const { compareKeepId } = useLooking(workbench.projectId);
  const [name, setName] = useState("");
  const other = keeps.find(({ id }) => id === compareKeepId);
  useEffect(() => {
    const hold = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.key.toLowerCase() !== BEFORE_KEY || event.ctrlKey || event.metaKey) return;
      if (target.matches("input, textarea, select")) return;
      workbench.audition.compare(event.type === "keydown" ? compared(workbench, compareKeepId) : undefined);
    };
    const letGo = () => workbench.audition.compare(undefined);
    addEventListener("keydown", hold);
    addEventListener("keyup", hold);
    addEventListener("blur", letGo);
    return () => {
      removeEventListener("keydown", hold);
      removeEventListener("keyup", hold);
      removeEventListener("blur", letGo);
      letGo();
    };
  }, [workbench, compareKeepId]);
  const keep = () => {
    addKeep(workbench, name.trim().slice(0, 120) || `Keep ${keeps.length + 1}`);
    setName("");
  };
  return (
    <>
      <Button
        className={`text-sm ${workbench.audition.isComparing ? "border-brass text-brass" : ""}`}
        title={`Hold this, or the B key, to see and hear ${other ? `“${other.name}”` : "the tunings as the project was opened"}`}
        aria-pressed={workbench.audition.isComparing}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          workbench.audition.compare(compared(workbench, compareKeepId));
        }}
        onPointerUp={() => workbench.audition.compare(undefined)}
        onPointerCancel={() => workbench.audition.compare(undefined)}
      >
        Hold for {other ? other.name : "before"}
      </Button>
      <Popover.Root>
        <Popover.Trigger asChild>
          <Button className="text-sm">
            <Bookmark size={14} aria-hidden /> Keeps{" "}
            {keeps.length > 0 && <span className="figures">{keeps.length}</span>}
          </Button>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            side="top"
            align="end"
            sideOffset={6}
            aria-label="Keeps"
            className="z-30 grid w-96 gap-2 floating p-3"
          >
            <p className="text-sm text-mist">
              A keep holds every strand’s measure, shaping and cues and every binding’s ranges under a name.
            </p>
            <form
              className="flex gap-2"
              onSubmit={(event) => {
                event.preventDefault();
                keep();
              }}
            >
              <input
                aria-label="Name of the keep"
                placeholder={`Keep ${keeps.length + 1}`}
                className="min-w-0 grow rounded border border-rule bg-sunk px-2 py-1"
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
              <Button look="main" onClick={keep}>
                Keep this state
              </Button>
            </form>
            {keeps.map(({ id, name: keepName }) => (
              <div key={id} className="flex items-center gap-1.5 border-t border-rule pt-1.5">
                <NameField
                  label="Keep"
                  className="min-w-0 grow"
                  value={keepName}
                  onRename={(next) => renameKeep(workbench, id, next)}
                />
                <label className="flex items-center gap-1 text-sm whitespace-nowrap text-mist">
                  <input
                    type="radio"
                    name="compare"
                    className="accent-(--brass)"
                    checked={compareKeepId === id}
                    onChange={() => look(workbench.projectId, { compareKeepId: id })}
                  />
                  compare
                </label>
                <Button className="text-sm" onClick={() => goBackTo(workbench, id)}>
                  Go back
                </Button>
                <IconButton label={`Remove ${keepName}`} small onClick={() => removeKeep(workbench, id)}>
                  <Trash2 size={14} />
                </IconButton>
              </div>
            ))}
            {keeps.length > 0 && (
              <label className="flex items-center gap-1 text-sm text-mist">
                <input
                  type="radio"
                  name="compare"
                  className="accent-(--brass)"
                  checked={!other}
                  onChange={() => look(workbench.projectId, { compareKeepId: undefined })}
                />
                compare with the tunings as the project was opened
              </label>
            )}
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </>
  );
}
