import { withSingletons } from "@bumbrel/core/scene/evaluate";
import { OBJECT_KIND_NAMES, OBJECT_KINDS } from "@bumbrel/core/scene/objectKinds";
import { Plus } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useScene, useWorkbench } from "../project/context";
import { useLooking, useUi } from "../project/ui";
import { Button } from "../ui/Button";
import { addObject } from "./edits";
import { KIND_ICONS } from "./kindIcons";
import { Sheet } from "./Sheet";
import { StageCanvas } from "./StageCanvas";

/** The stage, what is on it, and the sheet of what is chosen. */
export function StageView() {
  const workbench = useWorkbench();
  const scene = useScene();
  const { look } = useUi();
  const { objectId } = useLooking(workbench.projectId);
  const objects = withSingletons(scene.objects);
  const chosen = objects.find(({ id }) => id === objectId);
  const choose = (id: string | undefined) => look(workbench.projectId, { objectId: id });
  return (
    <main className="grid min-h-0 grid-cols-[minmax(0,1fr)_420px]">
      <div className="grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)] grid-rows-[minmax(0,1fr)_auto]">
        <StageCanvas chosenId={chosen?.id} onChoose={choose} showPlaces />
        <div className="flex items-stretch gap-1 border-t border-rule p-2">
          <ul className="flex min-w-0 grow gap-1 overflow-x-auto" aria-label="On the stage">
            {objects.map((object) => {
              const Icon = KIND_ICONS[object.kind];
              const isChosen = object.id === chosen?.id;
              return (
                <li key={object.id}>
                  <button
                    type="button"
                    aria-pressed={isChosen}
                    title={`${object.name} (${OBJECT_KINDS[object.kind].label})`}
                    onClick={() => choose(object.id)}
                    className={`grid w-20 justify-items-center gap-1 rounded px-1 py-1.5 ${isChosen ? "bg-raised text-brass" : "text-mist hover:text-paper"}`}
                  >
                    <Icon size={18} aria-hidden />
                    <span className="w-full truncate text-center text-xs">{object.name}</span>
                  </button>
                </li>
              );
            })}
          </ul>
          <AddObject onAdd={choose} />
        </div>
      </div>
      <Sheet object={chosen} />
    </main>
  );
}

function AddObject({ onAdd }: { onAdd(id: string): void }) {
  const workbench = useWorkbench();
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button className="self-center whitespace-nowrap">
          <Plus size={15} aria-hidden /> Put on stage
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          side="top"
          align="end"
          sideOffset={6}
          className="z-30 w-80 rounded-lg border border-rule bg-ground p-1 shadow-2xl"
        >
          {OBJECT_KIND_NAMES.filter((kind) => !OBJECT_KINDS[kind].singleton).map((kind) => {
            const Icon = KIND_ICONS[kind];
            return (
              <DropdownMenu.Item
                key={kind}
                onSelect={() => onAdd(addObject(workbench, kind))}
                className="flex cursor-pointer items-center gap-3 rounded px-3 py-1.5 outline-none data-[highlighted]:bg-raised"
              >
                <Icon size={18} aria-hidden className="text-brass" />
                <span>
                  {OBJECT_KINDS[kind].label}
                  <span className="block text-xs text-mist">{OBJECT_KINDS[kind].help}</span>
                </span>
              </DropdownMenu.Item>
            );
          })}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
