import { placeWords } from "@bumbrel/core/check/placeWords";
import type { Collision, Side } from "@bumbrel/core/document/versions/merge";
import { Popover, RadioGroup } from "radix-ui";
import { useEffect, useState } from "react";
import { useBlocker, useNavigate } from "react-router";
import { api } from "../../api/client";
import type { SaveState } from "../../document/autosave";
import { sideWords } from "../../document/collisionWords";
import { useArrivals, useDocument, useEditing, useProjectId } from "../../session/context";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";

/** How long a person is told that changes from elsewhere have been taken in, ms. */
const TAKEN_IN_MS = 6000;

const WORDS: Record<SaveState["kind"], string> = {
  saved: "All saved",
  unsaved: "Saving …",
  saving: "Saving …",
  failed: "Not saved: trying again",
  refused: "Not saved: refused",
  conflict: "Not saved: changed elsewhere",
  gone: "Not saved: deleted elsewhere",
};

/** State of saving, and what to do if it fails. */
export function SaveStatus() {
  const trouble = useDocument(({ saved }) => ("message" in saved ? saved : undefined));
  return (
    <>
      <TakenIn />
      <SaveWords />
      <RefusedEdit />
      {(trouble?.kind === "refused" || trouble?.kind === "failed") && (
        <Trouble key={trouble.kind} message={trouble.message} isFinal={trouble.kind === "refused"} />
      )}
      <Conflict isOpen={trouble?.kind === "conflict"} />
      <Gone isOpen={trouble?.kind === "gone"} />
      <LeaveGuard />
    </>
  );
}

/** State of saving in words; it changes with every edit. */
function SaveWords() {
  const saved = useDocument((state) => state.saved);
  const isTrouble = "message" in saved;
  return (
    <span
      role="status"
      data-save={saved.kind}
      title={isTrouble ? saved.message : undefined}
      className={`mr-2 text-sm ${isTrouble ? "text-alarm" : "text-mist"}`}
    >
      {WORDS[saved.kind]}
    </span>
  );
}

/** Why the last edit was not carried out. */
function RefusedEdit() {
  const document = useEditing();
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

/** Why nothing could be saved; and the way back, when the document as it is will never be taken. */
function Trouble({ message, isFinal }: { message: string; isFinal: boolean }) {
  const document = useEditing();
  const undoLabel = useDocument((state) => state.undoLabel);
  return (
    <Popover.Root defaultOpen={isFinal}>
      <Popover.Trigger className="mr-2 text-sm text-alarm underline">Why?</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" sideOffset={8} className="floating z-30 grid max-w-96 gap-2 p-3 text-sm">
          <p>{message}</p>
          <p className="text-mist">
            {isFinal
              ? "Until that is changed nothing more is saved; your edits are kept in this browser."
              : "It is tried again every few seconds; your edits are kept in this browser until then."}
          </p>
          {isFinal && undoLabel && (
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
  const editing = useEditing();
  const projectId = useProjectId();
  const navigate = useNavigate();
  return async () => {
    const id = await api.keepAsOwn(editing.scene, projectId);
    await editing.abandon();
    navigate(`/projects/${id}/strands`);
  };
}

/** Conflicting changes from here and elsewhere, side by side, to be chosen one by one. */
function Conflict({ isOpen }: { isOpen: boolean }) {
  const document = useEditing();
  const collisions = useDocument((state) => state.collisions);
  const [chosen, setChosen] = useState<Record<string, Side>>({});
  const keepAsNew = useKeepAsNew();
  const [failure, attempt] = useAttempt();
  const keyOf = ({ path }: Collision) => path.join("/");
  const sideOf = (collision: Collision) => chosen[keyOf(collision)] ?? "mine";
  const chooseAll = (side: Side) =>
    setChosen(Object.fromEntries(collisions.map((collision) => [keyOf(collision), side])));
  const goOn = () => {
    document.choose(collisions.map(sideOf));
    setChosen({});
  };
  return (
    <Dialog
      isOpen={isOpen}
      title="The same was changed elsewhere"
      text="Everything else that was changed in another window goes together with your edits. Choose for these:"
      failure={failure}
      body={
        <div className="grid max-h-[50vh] gap-3 overflow-auto">
          <p className="flex gap-4 text-sm">
            <button type="button" className="underline" onClick={() => chooseAll("mine")}>
              All from here
            </button>
            <button type="button" className="underline" onClick={() => chooseAll("theirs")}>
              All from elsewhere
            </button>
          </p>
          <ul className="grid gap-3">
            {collisions.map((collision) => (
              <li key={keyOf(collision)}>
                <CollisionChoice
                  collision={collision}
                  side={sideOf(collision)}
                  onChoose={(side) => setChosen((before) => ({ ...before, [keyOf(collision)]: side }))}
                />
              </li>
            ))}
          </ul>
        </div>
      }
    >
      <Button onClick={() => attempt(keepAsNew)}>Keep mine as a new project</Button>
      <Button look="main" onClick={goOn}>
        Go on with these
      </Button>
    </Dialog>
  );
}

function CollisionChoice({
  collision,
  side,
  onChoose,
}: {
  collision: Collision;
  side: Side;
  onChoose(side: Side): void;
}) {
  const document = useEditing();
  const place = placeWords(collision.path, document.versions);
  const words: Record<Side, string> = { mine: "Here", theirs: "Elsewhere" };
  return (
    <RadioGroup.Root
      aria-label={place}
      value={side}
      onValueChange={(value) => onChoose(value as Side)}
      className="grid grid-cols-2 gap-x-3 gap-y-1 border-t border-rule pt-2"
    >
      <p className="col-span-2">{place}</p>
      {(["mine", "theirs"] as const).map((one) => (
        <RadioGroup.Item
          key={one}
          value={one}
          className="rounded border border-rule px-2 py-1 text-left text-sm text-mist data-[state=checked]:border-brass data-[state=checked]:text-paper"
        >
          {words[one]}: <span className="font-mono">{sideWords(collision[one], collision.base)}</span>
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}

/** Says for a moment that changes from elsewhere have been taken in. */
function TakenIn() {
  const takenIn = useDocument((state) => state.takenIn);
  const [shown, setShown] = useState(0);
  useEffect(() => {
    if (takenIn === 0) return;
    setShown(takenIn);
    const timer = setTimeout(() => setShown(0), TAKEN_IN_MS);
    return () => clearTimeout(timer);
  }, [takenIn]);
  return (
    <p role="status" className={shown > 0 ? "mr-3 text-sm text-mist" : "sr-only"}>
      {shown > 0 && "Changes from another window taken in"}
    </p>
  );
}

function Gone({ isOpen }: { isOpen: boolean }) {
  const projectId = useProjectId();
  const document = useEditing();
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

/** Asks before the project is left while something of it cannot be saved, or is still on its way in. */
function LeaveGuard() {
  const projectId = useProjectId();
  const editing = useEditing();
  const { arrivals } = useArrivals();
  const isUnsaved = () => "message" in editing.store.getState().saved;
  const blocker = useBlocker(
    ({ nextLocation }) =>
      (isUnsaved() || arrivals.isBusy) && !nextLocation.pathname.startsWith(`/projects/${projectId}/`),
  );
  const isOpen = blocker.state === "blocked";
  const unsaved =
    "Your last edits have not reached the server. They stay in this browser, and are offered when the project is opened here again.";
  const coming = "Files are still on their way in. Leaving stops them.";
  return (
    <Dialog
      isOpen={isOpen}
      title={isOpen && isUnsaved() ? "Not everything is saved" : "Not everything is in yet"}
      text={[isOpen && isUnsaved() && unsaved, isOpen && arrivals.isBusy && coming].filter(Boolean).join(" ")}
    >
      <Button onClick={() => blocker.proceed?.()}>Leave</Button>
      <Button look="main" onClick={() => blocker.reset?.()}>
        Stay
      </Button>
    </Dialog>
  );
}
