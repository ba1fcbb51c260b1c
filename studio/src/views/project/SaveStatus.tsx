import { Popover } from "radix-ui";
import { useState } from "react";
import { useBlocker, useNavigate } from "react-router";
import { api } from "../../api/client";
import type { SaveState } from "../../document/autosave";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { useDocument, useWorkbench } from "./context";

const WORDS: Record<SaveState["kind"], string> = {
  saved: "All saved",
  unsaved: "Saving …",
  saving: "Saving …",
  failed: "Not saved: trying again",
  refused: "Not saved: refused",
  conflict: "Not saved: changed elsewhere",
  gone: "Not saved: deleted elsewhere",
};

/** What is saved, in words; and what to do when it cannot be. */
export function SaveStatus() {
  const saved = useDocument((state) => state.saved);
  const isTrouble = "message" in saved;
  return (
    <>
      <span
        role="status"
        data-save={saved.kind}
        title={isTrouble ? saved.message : undefined}
        className={`mr-2 text-sm ${isTrouble ? "text-alarm" : "text-mist"}`}
      >
        {WORDS[saved.kind]}
      </span>
      <RefusedEdit />
      {saved.kind === "refused" && <Refused message={saved.message} />}
      <Conflict isOpen={saved.kind === "conflict"} />
      <Gone isOpen={saved.kind === "gone"} />
      <LeaveGuard />
    </>
  );
}

/** Why the last edit was not carried out. */
function RefusedEdit() {
  const { document } = useWorkbench();
  const refused = useDocument((state) => state.refused);
  if (refused === undefined) return null;
  return (
    <p
      role="alert"
      className="floating fixed top-14 right-4 z-40 max-w-[28rem] px-4 py-2 text-sm leading-snug text-paper"
    >
      {refused}{" "}
      <button type="button" className="underline" onClick={document.dismissRefusal}>
        Close
      </button>
    </p>
  );
}

/** Why the server will not take the document as it is, and the way back. */
function Refused({ message }: { message: string }) {
  const { document } = useWorkbench();
  const undoLabel = useDocument((state) => state.undoLabel);
  return (
    <Popover.Root defaultOpen>
      <Popover.Trigger className="mr-2 text-sm text-alarm underline">Why?</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" sideOffset={8} className="floating z-30 grid max-w-96 gap-2 p-3 text-sm">
          <p>{message}</p>
          <p className="text-mist">
            Until that is changed nothing more is saved; your edits are kept in this browser.
          </p>
          {undoLabel && (
            <Button className="justify-self-end" onClick={document.undo}>
              Undo: {undoLabel}
            </Button>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Carries something out that may fail, and says why when it does. */
function useAttempt(): [failure: string | undefined, attempt: (action: () => Promise<unknown>) => void] {
  const [failure, setFailure] = useState<string>();
  const attempt = (action: () => Promise<unknown>) => {
    setFailure(undefined);
    action().catch((error: Error) => setFailure(error.message));
  };
  return [failure, attempt];
}

/** Keeps the document as it is here as a project of its own, and opens that. */
function useKeepAsNew(): () => Promise<void> {
  const workbench = useWorkbench();
  const navigate = useNavigate();
  return async () => {
    const { scene } = workbench;
    const { id } = await api.createProject({ scene, name: `${scene.name} (mine)`.slice(0, 120) });
    await workbench.document.abandon();
    navigate(`/projects/${id}/strands`);
  };
}

function Conflict({ isOpen }: { isOpen: boolean }) {
  const { document } = useWorkbench();
  const keepAsNew = useKeepAsNew();
  const [failure, attempt] = useAttempt();
  const takeOther = async () => {
    await document.abandon();
    location.reload();
  };
  return (
    <Dialog
      isOpen={isOpen}
      title="This project was changed elsewhere"
      text="Another window saved it since this one opened. Nothing was overwritten: keep your version as a project of its own, or go on with the other one."
      failure={failure}
    >
      <Button onClick={() => attempt(takeOther)}>Go on with the other</Button>
      <Button look="main" onClick={() => attempt(keepAsNew)}>
        Keep both
      </Button>
    </Dialog>
  );
}

function Gone({ isOpen }: { isOpen: boolean }) {
  const { projectId, document } = useWorkbench();
  const keepAsNew = useKeepAsNew();
  const [failure, attempt] = useAttempt();
  const restore = async () => {
    await api.restoreProject(projectId);
    await document.resume();
  };
  return (
    <Dialog
      isOpen={isOpen}
      title="This project was deleted elsewhere"
      text="Another window deleted it since this one opened. Your edits are still here: bring the project back with them, or keep them as a new project."
      failure={failure}
    >
      <Button onClick={() => attempt(keepAsNew)}>Keep as a new project</Button>
      <Button look="main" onClick={() => attempt(restore)}>
        Bring it back
      </Button>
    </Dialog>
  );
}

/** Asks before the project is left while something of it cannot be saved. */
function LeaveGuard() {
  const { projectId, document } = useWorkbench();
  const blocker = useBlocker(
    ({ nextLocation }) =>
      "message" in document.store.getState().saved &&
      !nextLocation.pathname.startsWith(`/projects/${projectId}/`),
  );
  return (
    <Dialog
      isOpen={blocker.state === "blocked"}
      title="Not everything is saved"
      text="Your last edits have not reached the server. They stay in this browser, and are offered when the project is opened here again."
    >
      <Button onClick={() => blocker.proceed?.()}>Leave</Button>
      <Button look="main" onClick={() => blocker.reset?.()}>
        Stay
      </Button>
    </Dialog>
  );
}
