import type { StageObject } from "@bumbrel/core/document/scene";
import { withSingletons } from "@bumbrel/core/kinds/create";
import { hasCopies, OBJECT_KINDS, propertiesOf } from "@bumbrel/core/kinds/table";
import type { Stage } from "@bumbrel/player/stage/stage";
import { EyeOff, Lock } from "lucide-react";
import { memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { objectThumbnail } from "../../liveStage/thumbnails";
import { sameButRest, useEditing, usePlayer, useScene } from "../../session/context";
import { KIND_ICONS } from "./kindIcons";

/** Size of a small image, in pixels of the screen that has the finest. */
const THUMBNAIL = { width: 72, height: 48 };
/** How long after a change thumbnails are taken again. */
const AFTER_MS = 900;
/** Times as long as one took until the next, while all is quiet and while something plays: each costs a drawing. */
const REST = { paused: { times: 2, mostMs: 200 }, playing: { times: 20, mostMs: 5000 } };
const LEAST_REST_MS = 30;

/** Everything on the stage as small images, one of its copies each, in the order of the document, with what is in groups after its group. */
export function ObjectStrip({
  stage,
  chosenIds,
  onChoose,
}: {
  stage: Stage | undefined;
  chosenIds: readonly string[];
  onChoose(id: string, isMore: boolean): void;
}) {
  const stored = useScene((scene) => scene.objects, sameButRest);
  const objects = useMemo(() => inGroups(withSingletons(stored)), [stored]);
  const thumbnails = useThumbnails(stage);
  const latest = useRef(onChoose);
  latest.current = onChoose;
  const choose = useCallback((id: string, isMore: boolean) => latest.current(id, isMore), []);
  const list = useRef<HTMLUListElement>(null);
  const first = chosenIds[0];
  useEffect(() => {
    if (first === undefined) return;
    list.current
      ?.querySelector(`[data-object="${first}"]`)
      ?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [first]);
  return (
    <ul
      ref={list}
      className="flex min-w-0 grow gap-1 overflow-x-auto pr-8 [mask-image:linear-gradient(to_right,black_calc(100%-2rem),transparent)]"
      aria-label="On the stage"
    >
      {objects.map((object) => (
        <StripItem
          key={object.id}
          object={object}
          isChosen={chosenIds.includes(object.id)}
          thumbnail={thumbnails.get(object.id)}
          onChoose={choose}
        />
      ))}
    </ul>
  );
}

const StripItem = memo(function StripItem({
  object,
  isChosen,
  thumbnail,
  onChoose,
}: {
  object: StageObject;
  isChosen: boolean;
  thumbnail: string | undefined;
  onChoose(id: string, isMore: boolean): void;
}) {
  const Icon = KIND_ICONS[object.kind];
  const copies = copiesAtRest(object);
  return (
    <li className={object.parentId === null ? "" : "border-t-2 border-rule"}>
      <button
        type="button"
        data-object={object.id}
        aria-pressed={isChosen}
        title={`${object.name} (${OBJECT_KINDS[object.kind].label}${copies > 1 ? `, ${copies} copies` : ""})`}
        onClick={(event) => onChoose(object.id, event.shiftKey || event.ctrlKey || event.metaKey)}
        className={`relative grid w-20 justify-items-center gap-0.5 rounded px-1 py-1 ${isChosen ? "bg-raised text-brass" : "text-mist hover:text-paper"} ${object.hidden ? "opacity-50" : ""}`}
      >
        <span className="grid h-9 place-items-center">
          {thumbnail ? (
            <img src={thumbnail} alt="" className="h-9 object-contain" />
          ) : (
            <Icon size={18} aria-hidden />
          )}
        </span>
        {copies > 1 && (
          <span aria-hidden className="figures absolute right-1 bottom-5 rounded bg-ground/80 px-0.5 text-xs">
            ×{copies}
          </span>
        )}
        {(object.hidden || object.locked) && (
          <span className="absolute top-1 right-1 flex gap-0.5">
            {object.hidden && <EyeOff size={12} aria-label="hidden" />}
            {object.locked && <Lock size={12} aria-label="locked" />}
          </span>
        )}
        <span className="w-full truncate text-center text-xs">{object.name}</span>
      </button>
    </li>
  );
});

/** Copies an object stands in while no strand changes their number. */
function copiesAtRest(object: StageObject): number {
  if (!hasCopies(object)) return 1;
  return (object.rest.copies ?? propertiesOf(object).copies.default) as number;
}

/** Objects so that each follows the group it is in. */
function inGroups(objects: readonly StageObject[]): StageObject[] {
  const ids = new Set(objects.map(({ id }) => id));
  const inside = new Map<string | null, StageObject[]>();
  for (const object of objects) {
    const key = object.parentId !== null && ids.has(object.parentId) ? object.parentId : null;
    inside.set(key, [...(inside.get(key) ?? []), object]);
  }
  const seen = new Set<string>();
  const walk = (key: string | null): StageObject[] =>
    (inside.get(key) ?? []).flatMap((object) => {
      if (seen.has(object.id)) return [];
      seen.add(object.id);
      return [object, ...walk(object.id)];
    });
  const out = walk(null);
  // Groups that are in each other stand at the end rather than nowhere.
  return [...out, ...objects.filter(({ id }) => !seen.has(id))];
}

/** Small images of objects, taken when they have changed and the page has nothing better to do. */
function useThumbnails(stage: Stage | undefined): Map<string, string | undefined> {
  const editing = useEditing();
  const player = usePlayer();
  const { transport } = player;
  const [thumbnails, setThumbnails] = useState(new Map<string, string | undefined>());
  const taken = useRef(new Map<string, string>());
  const takenOn = useRef<Stage>(undefined);
  useEffect(() => {
    if (!stage) return;
    if (takenOn.current !== stage) taken.current.clear();
    takenOn.current = stage;
    let timer: ReturnType<typeof setTimeout>;
    let isOver = false;
    let isIdle = false;
    const takeOne = async () => {
      // Read resting values now: the list is rebuilt for other changes only.
      const due = withSingletons(editing.scene.objects).find(
        (object) => taken.current.get(object.id) !== keyOf(object),
      );
      isIdle = due === undefined;
      if (!due) return;
      taken.current.set(due.id, keyOf(due));
      const began = performance.now();
      const image = await objectThumbnail(stage, due.id, THUMBNAIL.width, THUMBNAIL.height);
      setThumbnails((old) => new Map(old).set(due.id, image));
      const { times, mostMs } = transport.state === "playing" ? REST.playing : REST.paused;
      const restMs = Math.min(mostMs, Math.max(LEAST_REST_MS, (performance.now() - began) * times));
      if (!isOver) timer = setTimeout(takeOne, restMs);
    };
    timer = setTimeout(takeOne, AFTER_MS);
    const stop = editing.store.subscribe(({ scene }, before) => {
      if (scene.objects === before.scene.objects || !isIdle) return;
      clearTimeout(timer);
      timer = setTimeout(takeOne, AFTER_MS);
    });
    return () => {
      isOver = true;
      clearTimeout(timer);
      stop();
    };
  }, [stage, transport, editing]);
  return thumbnails;
}

const keyOf = ({ kind, settings, rest }: StageObject) => JSON.stringify([kind, settings, rest]);
