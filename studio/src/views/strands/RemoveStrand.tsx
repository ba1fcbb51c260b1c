import { propertiesOf } from "@bumbrel/core/kinds/table";
import { AlertDialog } from "radix-ui";
import { useEditing, useScene } from "../../session/context";
import { removeStrand } from "../../session/edits/strands";
import type { StrandFace } from "../../session/strandHooks";
import { Button } from "../../ui/Button";

/** Named one by one up to here. */
const NAMED = 6;

/** Targets of a strand in words: "Glow of Lantern 2". */
export function useDriven(strandId: string): string[] {
  return useScene(({ bindings, objects }) =>
    bindings.flatMap(({ strandId: its, objectId, property }) => {
      const object = its === strandId && objects.find(({ id }) => id === objectId);
      return object ? [`${propertiesOf(object)[property]?.label ?? property} of ${object.name}`] : [];
    }),
  );
}

/** Asks before a strand goes that drives something, and says what. */
export function RemoveStrand({ strand, onClose }: { strand: StrandFace; onClose(): void }) {
  const editing = useEditing();
  const driven = useDriven(strand.id);
  const more = driven.length - NAMED;
  return (
    <AlertDialog.Root open onOpenChange={(isOpen) => !isOpen && onClose()}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-sunk/80" />
        <AlertDialog.Content className="fixed top-1/2 left-1/2 z-50 grid w-[30rem] -translate-x-1/2 -translate-y-1/2 gap-3 rounded-lg border border-rule bg-ground p-6">
          <AlertDialog.Title className="text-xl font-semibold">Remove {strand.name}?</AlertDialog.Title>
          <AlertDialog.Description className="text-mist">
            It drives {driven.slice(0, NAMED).join(", ")}
            {more > 0 && ` and ${more} more`}. Without it {driven.length === 1 ? "that stays" : "these stay"}{" "}
            at rest. Undo brings all of it back.
          </AlertDialog.Description>
          <span className="flex justify-end gap-2">
            <AlertDialog.Cancel asChild>
              <Button>Keep it</Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button look="main" onClick={() => removeStrand(editing, strand)}>
                Remove
              </Button>
            </AlertDialog.Action>
          </span>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
