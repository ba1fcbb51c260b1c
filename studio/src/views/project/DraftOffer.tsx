import type { LoadedProject } from "@bumbrel/api/contracts";
import isEqual from "fast-deep-equal";
import { useCallback, useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api } from "../../api/client";
import { browserDrafts, type Draft } from "../../document/drafts";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";

type Found = Draft & { state: "offered" | "taken" };

/**
 * Edits of a project that an earlier visit could not save.
 *
 * @returns what was found, `undefined` when there is nothing (any more)
 */
export function useDraft(project: LoadedProject | undefined) {
  const [draft, setDraft] = useState<Found | "looking" | undefined>("looking");
  const id = project?.id;
  const scene = project?.scene;
  useEffect(() => {
    if (!id) return;
    let isGone = false;
    setDraft("looking");
    void browserDrafts.get(id).then((found) => {
      if (isGone) return;
      const isNew = found && !isEqual(found.scene, scene);
      if (found && !isNew) void browserDrafts.remove(id);
      setDraft(isNew ? { ...found, state: "offered" } : undefined);
    });
    return () => {
      isGone = true;
    };
  }, [id, scene]);
  const settle = useCallback(
    (isTaken: boolean) => {
      if (!isTaken && id) void browserDrafts.remove(id);
      setDraft((found) =>
        isTaken && found && found !== "looking" ? { ...found, state: "taken" } : undefined,
      );
    },
    [id],
  );
  return { draft, settle };
}

/** Offers edits that an earlier visit could not save, before anything else can be edited. */
export function DraftOffer({
  project,
  draft,
  settle,
}: {
  project: LoadedProject;
  draft: Draft;
  settle(isTaken: boolean): void;
}) {
  const navigate = useNavigate();
  const [failure, setFailure] = useState<string>();
  const when = new Date(draft.editedMs).toLocaleString(undefined, {
    dateStyle: "medium",
    timeStyle: "short",
  });
  const since =
    draft.revision === project.revision
      ? "Bring them back, or open the project as it was saved."
      : "The project has been saved elsewhere since: bring them back into it, keep them as a project of their own, or open it as it was saved.";
  const keepAsNew = async () => {
    try {
      const id = await api.keepAsOwn(draft.scene, project.id);
      settle(false);
      navigate(`/projects/${id}/strands`);
    } catch (error) {
      setFailure((error as Error).message);
    }
  };
  return (
    <Dialog
      isOpen
      title="Edits from your last visit were not saved"
      text={`They were made in this browser, the last on ${when}. ${since}`}
      failure={failure}
    >
      <Button onClick={() => settle(false)}>Open as it was saved</Button>
      {draft.revision !== project.revision && (
        <Button onClick={() => void keepAsNew()}>Keep as a new project</Button>
      )}
      <Button look="main" onClick={() => settle(true)}>
        Bring them back
      </Button>
    </Dialog>
  );
}
