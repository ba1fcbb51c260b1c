import type { ObjectKind } from "@bumbrel/core/document/scene";
import { objectNames } from "@bumbrel/core/edit/objectEdits";
import { clip, readClipping } from "@bumbrel/core/edit/paste";
import { withSingletons } from "@bumbrel/core/kinds/create";
import { can } from "@bumbrel/core/kinds/table";
import type { Stage } from "@bumbrel/player/stage/stage";
import {
  DndContext,
  type DragEndEvent,
  DragOverlay,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import {
  ClipboardPaste,
  Copy,
  CopyPlus,
  Eye,
  EyeOff,
  Group,
  Lock,
  LockOpen,
  Magnet,
  Move,
  RotateCw,
  Scaling,
  Trash2,
} from "lucide-react";
import { type DragEvent, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { ArrivalRow } from "../../library/ArrivalRow";
import { ASSET_TYPES } from "../../library/importAsset";
import type { HandleMode } from "../../liveStage/handles";
import type { Looking } from "../../liveStage/looking";
import { StageCanvas } from "../../liveStage/StageCanvas";
import { ProgramPanel } from "../../program/ProgramPanel";
import { useRunningPrograms } from "../../program/running";
import { sameButRest, useArrivals, useEditing, useProjectId, useScene } from "../../session/context";
import { useOpenProgram } from "../../session/edits/programs";
import { addObject, bind, editObjects, group, paste, removeObjects } from "../../session/edits/stage";
import { useStrands } from "../../session/strandHooks";
import { useLooking, useUi } from "../../session/viewState";
import { IconButton } from "../../ui/Button";
import { isTyping } from "../../ui/isTyping";
import { StrandMark } from "../../ui/StrandMark";
import { AddMenu } from "./AddMenu";
import { IMAGE_SHAPES, type ImageShape, LookingBar } from "./LookingBar";
import { ObjectStrip } from "./ObjectStrip";
import { PalettePicker } from "./PalettePicker";
import { PathDrawing } from "./PathDrawing";
import { Sheet } from "./Sheet";
import { WeightLine } from "./WeightLine";

/** Pointer travel before a press on a strand drags it. */
const DRAG_PX = 5;
const HANDLES: { mode: HandleMode; words: string; icon: typeof Move }[] = [
  { mode: "move", words: "Move the selection", icon: Move },
  { mode: "turn", words: "Rotate the selection", icon: RotateCw },
  { mode: "size", words: "Scale the selection", icon: Scaling },
];

/** The stage, what is on it, and the sheet of what is chosen. */
export function StageView() {
  const editing = useEditing();
  const projectId = useProjectId();
  const objects = useScene((scene) => withSingletons(scene.objects), sameButRest);
  const strands = useStrands();
  const look = useUi((state) => state.look);
  const { objectIds } = useLooking(projectId);
  const chosenIds = useMemo(
    () => objectIds.filter((id) => objects.some((one) => one.id === id)),
    [objectIds, objects],
  );
  const chosen = useMemo(
    () => chosenIds.flatMap((id) => objects.find((one) => one.id === id) ?? []),
    [chosenIds, objects],
  );
  const { programId } = useOpenProgram();
  const isWriting = useScene((scene) => scene.programs.some(({ id }) => id === programId));
  const [stage, setStage] = useState<Stage>();
  const [mode, setMode] = useState<HandleMode>("move");
  const [snaps, setSnaps] = useState(false);
  const [{ looking, isLooking }, setLooking] = useState<{
    looking?: Looking | undefined;
    isLooking: boolean;
  }>({
    isLooking: false,
  });
  const onLooking = useCallback(
    (made: Looking | undefined, isNow: boolean) => setLooking({ looking: made, isLooking: isNow }),
    [],
  );
  const [hasGrid, setHasGrid] = useState(false);
  const [shape, setShape] = useState<ImageShape>("fill");
  const { arrivals, list } = useArrivals();
  const arriving = list.filter(({ becomes }) => becomes !== "sound");
  const [note, setNote] = useState<string>();
  const [draggedId, setDraggedId] = useState<string>();
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: DRAG_PX } }));
  const files = useRef<HTMLInputElement>(null);
  const kindOfFile = useRef<"picture" | "model">("picture");

  const choose = (ids: readonly string[]) => look(projectId, { objectIds: [...ids] });
  const chooseOne = (id: string | undefined, isMore: boolean) => {
    if (id === undefined) {
      if (!isMore) choose([]);
    } else if (!isMore) choose([id]);
    else choose(chosenIds.includes(id) ? chosenIds.filter((one) => one !== id) : [...chosenIds, id]);
  };

  const bring = async (file: File, kind: "picture" | "model") => {
    const id = await arrivals.bringAsset(file, kind);
    if (id !== undefined) choose([id]);
  };
  useEffect(() => stage?.onAssetFailure(setNote), [stage]);
  useRunningPrograms(stage);
  const add = (kind: ObjectKind) => {
    if (kind !== "picture" && kind !== "model") {
      choose([addObject(editing, kind)]);
      return;
    }
    kindOfFile.current = kind;
    if (!files.current) return;
    files.current.accept = ASSET_TYPES[kind];
    files.current.click();
  };
  const drop = (event: DragEvent) => {
    event.preventDefault();
    for (const file of event.dataTransfer.files) {
      void bring(file, /\.(glb|gltf)$/i.test(file.name) ? "model" : "picture");
    }
  };

  const copy = async () => {
    const text = JSON.stringify(clip(editing.scene, chosenIds));
    // Between projects of this browser it also works where the clipboard is not to be had.
    localStorage.setItem(CLIPBOARD_KEY, text);
    await navigator.clipboard?.writeText(text).catch(() => undefined);
    setNote(`Copied ${objectNames(editing.scene, chosenIds)}.`);
  };
  const pasteHere = async () => {
    const fromClipboard = await navigator.clipboard?.readText().catch(() => "");
    const clipping =
      readClipping(fromClipboard ?? "") ?? readClipping(localStorage.getItem(CLIPBOARD_KEY) ?? "");
    if (!clipping) {
      setNote("There is nothing to paste: copy objects first, here or in another project.");
      return;
    }
    choose(paste(editing, clipping));
    setNote(undefined);
  };
  const removable = chosen.filter(({ kind }) => can(kind).grouped || kind === "material");
  const ids = removable.map(({ id }) => id);
  const remove = () => {
    if (removable.length > 0) {
      removeObjects(
        editing,
        removable.map(({ id }) => id),
      );
      const stay = chosen.length - removable.length;
      setNote(
        stay > 0
          ? `${objectNames(
              editing.scene,
              chosenIds.filter((id) => !ids.includes(id)),
            )} cannot be removed.`
          : undefined,
      );
      return;
    }
    setNote(
      chosen.length > 0
        ? `${objectNames(editing.scene, chosenIds)} cannot be removed: every scene has one.`
        : "Nothing is selected: click something on the stage, or press Ctrl+A for everything.",
    );
  };
  const selectAll = () =>
    choose(objects.filter(({ kind }) => can(kind).grouped || kind === "material").map(({ id }) => id));
  const doable = useRef({ copy, pasteHere, remove, selectAll });
  doable.current = { copy, pasteHere, remove, selectAll };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (isTyping(target)) return;
      const isCommand = event.ctrlKey || event.metaKey;
      // Text that a person has marked is copied as text.
      if (isCommand && event.key.toLowerCase() === "c" && String(getSelection() ?? "") !== "") return;
      if (isCommand && event.key.toLowerCase() === "c") void doable.current.copy();
      else if (isCommand && event.key.toLowerCase() === "v") void doable.current.pasteHere();
      else if (isCommand && event.key.toLowerCase() === "a") doable.current.selectAll();
      else if (event.key === "Delete") doable.current.remove();
      else return;
      event.preventDefault();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);

  const dropStrand = ({ active, over }: DragEndEvent) => {
    setDraggedId(undefined);
    if (over && chosen.length > 0) bind(editing, chosen, String(over.id), String(active.id));
  };
  const dragged = strands.find(({ id }) => id === draggedId);
  const isHidden = chosen.length > 0 && chosen.every(({ hidden }) => hidden);
  const isLocked = chosen.length > 0 && chosen.every(({ locked }) => locked);
  const none = removable.length === 0;
  const names = objectNames(editing.scene, ids);
  return (
    <DndContext
      sensors={sensors}
      onDragStart={({ active }) => setDraggedId(String(active.id))}
      onDragCancel={() => setDraggedId(undefined)}
      onDragEnd={dropStrand}
    >
      <main className="grid min-h-0 grid-cols-[minmax(0,1fr)_440px]">
        <div
          className={`grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)] ${isWriting ? "grid-rows-[minmax(0,1fr)_minmax(0,1.15fr)_auto_auto]" : "grid-rows-[minmax(0,1fr)_auto_auto]"}`}
        >
          {/* biome-ignore lint/a11y/noStaticElementInteractions: files can be chosen by the menu as well */}
          <div className="relative min-h-0" onDragOver={(event) => event.preventDefault()} onDrop={drop}>
            <StageCanvas
              chosenIds={chosenIds}
              onChoose={chooseOne}
              showPlaces
              handles={{ mode, snaps }}
              onLooking={onLooking}
              hasGrid={hasGrid}
              aspect={IMAGE_SHAPES[shape]}
              onStage={setStage}
            />
            <LookingBar
              {...{ stage, looking, isLooking, chosenIds, hasGrid, shape }}
              onGrid={setHasGrid}
              onShape={setShape}
            />
            <div
              role="toolbar"
              aria-label="Selection"
              className="absolute top-2 left-2 flex gap-0.5 rounded-full border border-rule bg-ground/85 px-1"
            >
              {HANDLES.map(({ mode: one, words, icon: Icon }) => (
                <IconButton
                  key={one}
                  label={words}
                  aria-pressed={mode === one}
                  className={mode === one ? "text-brass" : "text-mist"}
                  onClick={() => setMode(one)}
                >
                  <Icon size={16} />
                </IconButton>
              ))}
              <IconButton
                label="Snap to steps"
                aria-pressed={snaps}
                className={snaps ? "text-brass" : "text-mist"}
                onClick={() => setSnaps(!snaps)}
              >
                <Magnet size={16} />
              </IconButton>
              <span className="mx-1 my-1.5 w-px bg-rule" />
              <IconButton
                label="Duplicate"
                disabled={none}
                onClick={() => choose(paste(editing, clip(editing.scene, ids)))}
              >
                <CopyPlus size={16} />
              </IconButton>
              <IconButton label="Copy" disabled={none} onClick={() => void copy()}>
                <Copy size={16} />
              </IconButton>
              <IconButton label="Paste" onClick={() => void pasteHere()}>
                <ClipboardPaste size={16} />
              </IconButton>
              <IconButton
                label="Put into a group"
                disabled={none}
                onClick={() => {
                  const made = group(editing, removable);
                  if (made) choose([made]);
                }}
              >
                <Group size={16} />
              </IconButton>
              <IconButton
                label={isHidden ? "Show" : "Hide"}
                aria-pressed={isHidden}
                disabled={none}
                onClick={() =>
                  editObjects(editing, `${isHidden ? "show" : "hide"} ${names}`, ids, (object) => {
                    object.hidden = !isHidden;
                  })
                }
              >
                {isHidden ? <EyeOff size={16} /> : <Eye size={16} />}
              </IconButton>
              <IconButton
                label={isLocked ? "Unlock" : "Lock"}
                aria-pressed={isLocked}
                disabled={none}
                onClick={() =>
                  editObjects(editing, `${isLocked ? "unlock" : "lock"} ${names}`, ids, (object) => {
                    object.locked = !isLocked;
                  })
                }
              >
                {isLocked ? <Lock size={16} /> : <LockOpen size={16} />}
              </IconButton>
              <IconButton label="Delete" disabled={none} onClick={() => doable.current.remove()}>
                <Trash2 size={16} />
              </IconButton>
            </div>
            <PathDrawing stage={stage} />
            <div className="pointer-events-none absolute right-2 bottom-2 left-2 grid gap-1 *:pointer-events-auto">
              {note && (
                <p role="status" className="rounded border border-rule bg-ground/90 px-3 py-1.5 text-sm">
                  {note}{" "}
                  <button type="button" className="underline" onClick={() => setNote(undefined)}>
                    Close
                  </button>
                </p>
              )}
              {arriving.map((arrival) => (
                <ArrivalRow key={arrival.id} arrival={arrival} onDismiss={() => arrivals.dismiss(arrival)} />
              ))}
            </div>
          </div>
          {isWriting && <ProgramPanel />}
          <div className={`items-stretch gap-1 border-t border-rule p-1.5 ${isWriting ? "hidden" : "flex"}`}>
            <ObjectStrip stage={stage} chosenIds={chosenIds} onChoose={chooseOne} />
            <PalettePicker />
            <AddMenu onAdd={add} />
            <input
              ref={files}
              type="file"
              className="hidden"
              aria-label="Image or model to add"
              onChange={(event) => {
                const [file] = event.target.files ?? [];
                event.target.value = "";
                if (file) void bring(file, kindOfFile.current);
              }}
            />
          </div>
          <div className="border-t border-rule">
            <WeightLine stage={stage} />
          </div>
        </div>
        <Sheet objects={chosen} onChoose={choose} />
      </main>
      <DragOverlay dropAnimation={null}>
        {dragged && (
          <span className="floating inline-flex items-center gap-1.5 px-2 py-1 text-sm">
            <StrandMark strand={dragged} size={12} />
            {dragged.name}
          </span>
        )}
      </DragOverlay>
    </DndContext>
  );
}

const CLIPBOARD_KEY = "bumbrel-clipboard";
