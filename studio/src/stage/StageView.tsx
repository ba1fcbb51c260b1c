import { withSingletons } from "@bumbrel/core/scene/evaluate";
import { OBJECT_KIND_NAMES, OBJECT_KINDS } from "@bumbrel/core/scene/objectKinds";
import { useScene, useWorkbench } from "../project/context";
import { useLooking, useUi } from "../project/ui";
import { KindMenu } from "../ui/KindMenu";
import { addObject } from "./edits";
import { KIND_ICONS } from "./kindIcons";
import { Sheet } from "./Sheet";
import { StageCanvas } from "./StageCanvas";

const ADDABLE = OBJECT_KIND_NAMES.filter((kind) => !OBJECT_KINDS[kind].singleton);

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
          <KindMenu
            words="Put on stage"
            side="top"
            items={ADDABLE.map((kind) => ({
              ...OBJECT_KINDS[kind],
              icon: KIND_ICONS[kind],
              onSelect: () => choose(addObject(workbench, kind)),
            }))}
          />
        </div>
      </div>
      <Sheet object={chosen} />
    </main>
  );
}
