import { Bookmark, Trash2 } from "lucide-react";
import { Popover } from "radix-ui";
import { useEffect, useState } from "react";
import type { Tunings } from "../../session/audition";
import { useAudition, useProjectId, useResult, useScene, useSession } from "../../session/context";
import { addKeep, goBackTo, removeKeep, renameKeep } from "../../session/edits/strands";
import type { Session } from "../../session/session";
import { useLooking, useUi } from "../../session/viewState";
import { Button, IconButton } from "../../ui/Button";
import { NameField } from "../../ui/fields/NameField";

/** The key that shows the other tunings while it is held. */
const BEFORE_KEY = "b";

/** Tunings to compare with: the chosen snapshot, or those at the time the project was opened. */
function compared({ document, opened }: Session, keepId: string | undefined): Tunings {
  return document.scene.keeps.find(({ id }) => id === keepId) ?? opened;
}

/** Named states of all tunings, to go back to; and a button to hold for seeing one of them. */
export function Keeps() {
  const audition = useAudition();
  const projectId = useProjectId();
  const session = useSession();
  const editing = session.document;
  const keeps = useScene((scene) => scene.keeps);
  const isComparing = useResult(({ audition }) => audition.isComparing);
  const look = useUi((state) => state.look);
  const { compareKeepId } = useLooking(projectId);
  const [name, setName] = useState("");
  const other = keeps.find(({ id }) => id === compareKeepId);
  useEffect(() => {
    const hold = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.key.toLowerCase() !== BEFORE_KEY || event.ctrlKey || event.metaKey) return;
      if (target.matches("input, textarea, select")) return;
      audition.compare(event.type === "keydown" ? compared(session, compareKeepId) : undefined);
    };
    const letGo = () => audition.compare(undefined);
    addEventListener("keydown", hold);
    addEventListener("keyup", hold);
    addEventListener("blur", letGo);
    return () => {
      removeEventListener("keydown", hold);
      removeEventListener("keyup", hold);
      removeEventListener("blur", letGo);
      letGo();
    };
  }, [audition, session, compareKeepId]);
  const keep = () => {
    addKeep(editing, name.trim().slice(0, 120) || `Keep ${keeps.length + 1}`);
    setName("");
  };
  return (
    <>
      <Button
        className={`text-sm ${isComparing ? "border-brass text-brass" : ""}`}
        title={`Hold this, or the B key, to see and hear ${other ? `“${other.name}”` : "the tunings as the project was opened"}`}
        aria-pressed={isComparing}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          audition.compare(compared(session, compareKeepId));
        }}
        onPointerUp={() => audition.compare(undefined)}
        onPointerCancel={() => audition.compare(undefined)}
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
                  onRename={(next) => renameKeep(editing, id, next)}
                />
                <label className="flex items-center gap-1 text-sm whitespace-nowrap text-mist">
                  <input
                    type="radio"
                    name="compare"
                    className="accent-(--brass)"
                    checked={compareKeepId === id}
                    onChange={() => look(projectId, { compareKeepId: id })}
                  />
                  compare
                </label>
                <Button className="text-sm" onClick={() => goBackTo(editing, id)}>
                  Go back
                </Button>
                <IconButton label={`Remove ${keepName}`} small onClick={() => removeKeep(editing, id)}>
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
                  onChange={() => look(projectId, { compareKeepId: undefined })}
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
