import { AlertDialog } from "radix-ui";
import { useNavigate } from "react-router";
import { api } from "../../api/client";
import { Button } from "../../ui/Button";
import { useDocument, useWorkbench } from "./context";

/** What is saved, in words; and what to do when another window saved first. */
export function SaveStatus() {
  const saved = useDocument((state) => state.saved);
  const workbench = useWorkbench();
  const navigate = useNavigate();
  const words = {
    saved: "All saved",
    unsaved: "Saving …",
    saving: "Saving …",
    failed: "Not saved: trying again",
    conflict: "Not saved: changed elsewhere",
  }[saved.kind];
  const isTrouble = saved.kind === "failed" || saved.kind === "conflict";

  const keepBoth = async () => {
    const { id } = await api.createProject({
      scene: workbench.scene,
      name: `${workbench.scene.name} (mine)`.slice(0, 120),
    });
    navigate(`/projects/${id}/strands`);
  };
  return (
    <>
      <span
        role="status"
        data-save={saved.kind}
        title={"message" in saved ? saved.message : undefined}
        className={`mr-2 text-sm ${isTrouble ? "text-alarm" : "text-mist"}`}
      >
        {words}
      </span>
      <AlertDialog.Root open={saved.kind === "conflict"}>
        <AlertDialog.Portal>
          <AlertDialog.Overlay className="fixed inset-0 z-40 bg-sunk/80" />
          <AlertDialog.Content className="fixed top-1/2 left-1/2 z-50 grid w-[30rem] -translate-x-1/2 -translate-y-1/2 gap-3 rounded-lg border border-rule bg-ground p-6">
            <AlertDialog.Title className="text-xl font-semibold">
              This project was changed elsewhere
            </AlertDialog.Title>
            <AlertDialog.Description className="text-mist">
              Another window saved it since this one opened. Nothing was overwritten: keep your version as a
              project of its own, or go on with the other one.
            </AlertDialog.Description>
            <div className="mt-2 flex justify-end gap-2">
              <AlertDialog.Cancel asChild>
                <Button onClick={() => location.reload()}>Go on with the other</Button>
              </AlertDialog.Cancel>
              <AlertDialog.Action asChild>
                <Button look="main" onClick={() => void keepBoth()}>
                  Keep both
                </Button>
              </AlertDialog.Action>
            </div>
          </AlertDialog.Content>
        </AlertDialog.Portal>
      </AlertDialog.Root>
    </>
  );
}
