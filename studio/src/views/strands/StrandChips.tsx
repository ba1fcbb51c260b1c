import { HUE_COUNT, STRAND_SHAPES, type Strand } from "@bumbrel/core/document/scene";
import { setMeasure } from "@bumbrel/core/edit/strandEdits";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import {
  horizontalListSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
} from "@dnd-kit/sortable";
import { Combine, Ellipsis, Rows3, SquarePen, VolumeX, Waves } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { useAudition, useEditing, useNumbers, useProjectId, useResult } from "../../session/context";
import {
  addStrand,
  addStrandOf,
  duplicateStrand,
  editStrand,
  moveStrand,
  removeStrand,
  soundBeforeFader,
} from "../../session/edits/strands";
import { type StrandFace, useStrands } from "../../session/strandHooks";
import { useUi } from "../../session/viewState";
import { KindMenu } from "../../ui/KindMenu";
import { LiveBar } from "../../ui/live/LiveBar";
import { StrandMark } from "../../ui/StrandMark";
import { strandColour } from "../../ui/strandLook";
import { Keeps } from "./Keeps";
import { RemoveStrand, useDriven } from "./RemoveStrand";
import { shownSound } from "./spine/shownSound";
import { TablesOut } from "./TablesOut";

const FIRST_RANGE = { lowHz: 80, highHz: 160 };
/** Pointer travel before a press on a chip moves it. */
const DRAG_PX = 6;

/** Every strand as a chip to choose, in an order of one's own; and what concerns all of them. */
export function StrandChips({ chosen }: { chosen: StrandFace | undefined }) {
  const editing = useEditing();
  const strands = useStrands();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: DRAG_PX } }),
    useSensor(KeyboardSensor, {
      coordinateGetter: sortableKeyboardCoordinates,
      // Enter and Space choose a chip; carrying one begins with its own key.
      keyboardCodes: { start: ["KeyM"], cancel: ["Escape"], end: ["KeyM", "Enter", "Space"] },
    }),
  );
  const drop = ({ active, over }: DragEndEvent) => {
    if (over)
      moveStrand(
        editing,
        String(active.id),
        strands.findIndex(({ id }) => id === over.id),
      );
  };
  return (
    <div className="flex items-center gap-2">
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
        <SortableContext items={strands.map(({ id }) => id)} strategy={horizontalListSortingStrategy}>
          <div className="flex min-w-0 items-center gap-1.5 overflow-x-auto p-0.5">
            {strands.map((strand) => (
              <Chip key={strand.id} strand={strand} isChosen={strand.id === chosen?.id} />
            ))}
          </div>
        </SortableContext>
      </DndContext>
      {chosen && <StrandMenu strand={chosen} />}
      <NewStrand chosen={chosen} />
      <span className="ml-auto flex shrink-0 items-center gap-1.5">
        <Keeps />
        <TablesOut chosen={chosen} />
      </span>
    </div>
  );
}

function Chip({ strand, isChosen }: { strand: StrandFace; isChosen: boolean }) {
  const numbers = useNumbers();
  const projectId = useProjectId();
  const [isSolo, isAnySolo] = useResult(({ audition: { soloStrands } }) => [
    soloStrands.has(strand.id),
    soloStrands.size > 0,
  ]);
  const look = useUi((state) => state.look);
  const { setNodeRef, listeners, attributes, transform, isDragging } = useSortable({ id: strand.id });
  const chip = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (isChosen) chip.current?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [isChosen]);
  const isAside = strand.muted || (isAnySolo && !isSolo);
  return (
    <button
      ref={(node) => {
        setNodeRef(node);
        chip.current = node;
      }}
      {...attributes}
      {...listeners}
      type="button"
      aria-pressed={isChosen}
      aria-roledescription="strand"
      title={strand.name}
      style={{
        transform: transform ? `translateX(${transform.x}px)` : undefined,
        zIndex: isDragging ? 5 : undefined,
      }}
      onClick={() =>
        look(projectId, {
          strandId: strand.id,
          soundId: strand.listensTo.kind === "sound" ? strand.listensTo.id : undefined,
        })
      }
      className={`relative grid w-32 min-w-22 grid-cols-[minmax(0,1fr)] gap-1 rounded border px-2 py-1 text-left ${
        isChosen ? "border-brass bg-raised" : "border-rule bg-ground hover:border-mist"
      } ${isAside ? "text-mist" : ""}`}
    >
      <span className="flex items-center gap-1.5">
        <StrandMark strand={strand} />
        <span className="truncate text-sm">{strand.name}</span>
        {strand.muted && <VolumeX size={13} aria-label="muted" className="ml-auto shrink-0" />}
        {isSolo && <span className="ml-auto text-xs text-brass">alone</span>}
      </span>
      <LiveBar
        colour={isAside ? "var(--mist)" : strandColour(strand.hue)}
        value={(timeS) => numbers.shapedNow(strand.id, timeS)}
      />
    </button>
  );
}

function NewStrand({ chosen }: { chosen: StrandFace | undefined }) {
  const projectId = useProjectId();
  const editing = useEditing();
  const { look } = useUi.getState();
  const choose = (strandId: string) => look(projectId, { strandId });
  const sound = () => shownSound(editing.scene, useUi.getState().looking[projectId] ?? {});
  return (
    <KindMenu
      words="New strand"
      side="top"
      items={[
        {
          label: "A range",
          help: "One number from a range of frequencies",
          icon: Waves,
          onSelect: () => {
            const shown = sound();
            if (!shown) return;
            const strandId = addStrand(editing, soundBeforeFader(shown.id), FIRST_RANGE);
            // A clock has beats rather than frequencies.
            if (shown.kind === "clock") {
              editStrand(editing, strandId, "measure beat phase", (draft) => setMeasure(draft, "beatPhase"));
            }
            choose(strandId);
          },
        },
        {
          label: "A fan",
          help: "A row of numbers, one a band",
          icon: Rows3,
          onSelect: () => {
            const shown = sound();
            if (shown) choose(addStrandOf(editing, soundBeforeFader(shown.id), MEASURES.fan.defaults));
          },
        },
        {
          label: "Made of others",
          help: "Strands multiplied, added up, or some bands of a fan",
          icon: Combine,
          onSelect: () => {
            const ids = chosen ? [chosen.id] : [];
            const isFan = chosen?.measure.kind === "fan";
            const measure = isFan ? MEASURES.bands.defaults : MEASURES.product.defaults;
            choose(addStrandOf(editing, { kind: "strands", ids }, measure));
          },
        },
        {
          label: "Program",
          help: "Numbers by code of your own, from a sound or from other strands",
          icon: SquarePen,
          onSelect: () => {
            const listensTo = chosen?.listensTo ?? { kind: "nothing" as const };
            choose(addStrandOf(editing, listensTo, structuredClone(MEASURES.program.defaults)));
          },
        },
      ]}
    />
  );
}

const ITEM =
  "flex cursor-pointer items-center rounded px-3 py-1 text-sm outline-none data-[highlighted]:bg-raised";

/** Actions on a strand as a whole. */
function StrandMenu({ strand }: { strand: StrandFace }) {
  const audition = useAudition();
  const projectId = useProjectId();
  const editing = useEditing();
  const strands = useStrands();
  const isSolo = useResult(({ audition: { soloStrands } }) => soloStrands.has(strand.id));
  const look = useUi((state) => state.look);
  const at = strands.findIndex(({ id }) => id === strand.id);
  const driven = useDriven(strand.id);
  const [isAsking, setAsking] = useState(false);
  const set = (label: string, change: (draft: Strand) => void) =>
    editStrand(editing, strand.id, `${label} ${strand.name}`, change);
  return (
    <>
      {isAsking && <RemoveStrand strand={strand} onClose={() => setAsking(false)} />}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={`More about ${strand.name}`}
          title="Duplicate, move, colour, mute …"
          className="grid size-8 shrink-0 place-content-center rounded-full hover:bg-raised"
        >
          <Ellipsis size={17} />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content side="top" sideOffset={6} className="z-30 w-64 floating p-1">
            <DropdownMenu.Item
              className={ITEM}
              onSelect={() => look(projectId, { strandId: duplicateStrand(editing, strand) })}
            >
              Duplicate
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} onSelect={() => audition.setSoloStrand(strand.id, !isSolo)}>
              {isSolo ? "Let all drive the stage again" : "Let it alone drive the stage"}
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={ITEM}
              onSelect={() =>
                set(strand.muted ? "unmute" : "mute", (draft) => {
                  draft.muted = !draft.muted;
                })
              }
            >
              {strand.muted ? "Unmute" : "Mute: what it drives rests"}
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={ITEM}
              disabled={at === 0}
              onSelect={() => moveStrand(editing, strand.id, at - 1)}
            >
              Move left
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={ITEM}
              disabled={at === strands.length - 1}
              onSelect={() => moveStrand(editing, strand.id, at + 1)}
            >
              Move right
            </DropdownMenu.Item>
            <DropdownMenu.Label className="px-3 pt-1 text-xs text-mist">Hue</DropdownMenu.Label>
            <div className="flex flex-wrap px-2">
              {Array.from({ length: HUE_COUNT }, (_, hue) => (
                <DropdownMenu.Item
                  // biome-ignore lint/suspicious/noArrayIndexKey: a hue is its number
                  key={hue}
                  aria-label={`Hue ${hue + 1}`}
                  className="grid size-7 cursor-pointer place-content-center rounded outline-none data-[highlighted]:bg-raised"
                  onSelect={() =>
                    set("colour", (draft) => {
                      draft.hue = hue;
                    })
                  }
                >
                  <StrandMark strand={{ hue, shape: strand.shape }} size={hue === strand.hue ? 18 : 14} />
                </DropdownMenu.Item>
              ))}
            </div>
            <DropdownMenu.Label className="px-3 pt-1 text-xs text-mist">Shape</DropdownMenu.Label>
            <div className="flex flex-wrap px-2">
              {STRAND_SHAPES.map((shape) => (
                <DropdownMenu.Item
                  key={shape}
                  aria-label={`Shape ${shape}`}
                  className="grid size-7 cursor-pointer place-content-center rounded outline-none data-[highlighted]:bg-raised"
                  onSelect={() =>
                    set("reshape", (draft) => {
                      draft.shape = shape;
                    })
                  }
                >
                  <StrandMark strand={{ hue: strand.hue, shape }} size={shape === strand.shape ? 18 : 14} />
                </DropdownMenu.Item>
              ))}
            </div>
            <DropdownMenu.Separator className="my-1 h-px bg-rule" />
            <DropdownMenu.Item
              className={`${ITEM} text-alarm`}
              onSelect={() => {
                if (driven.length > 0) setAsking(true);
                else removeStrand(editing, strand);
              }}
            >
              Remove
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </>
  );
}
