import type { Scene, StageObject } from "@bumbrel/core/document/scene";
import { objectNames } from "@bumbrel/core/edit/objectEdits";
import { propertiesOf } from "@bumbrel/core/kinds/table";
import { playerHandle } from "@bumbrel/player/playerHandle";
import { objectAt } from "@bumbrel/player/stage/picking";
import { Stage } from "@bumbrel/player/stage/stage";
import { type PointerEvent, useEffect, useRef, useState } from "react";
import { GridHelper, type LineBasicMaterial } from "three";
import { fetchAsset, fetchFont } from "../library/stageFiles";
import { useEditing, usePlayer, useProjectId, useScene } from "../session/context";
import { editObjects } from "../session/edits/stage";
import { keepThumbnail } from "../session/thumbnail";
import { type HandleMode, Handles } from "./handles";
import { Looking } from "./looking";
import { PlaceRings } from "./placeRings";
import { SelectionFrames } from "./selectionFrames";
import { stageThumbnail } from "./thumbnails";

/** The page must have been quiet for so long before it is taken. */
const THUMBNAIL_AFTER_MS = 4000;

interface Props {
  /** Draws the positions of sounds. */
  showPlaces?: boolean;
  chosenIds?: readonly string[];
  /** @param isMore  whether what was chosen before stays so */
  onChoose?(objectId: string | undefined, isMore: boolean): void;
  /** Handles on what is chosen. */
  handles?: { mode: HandleMode; snaps: boolean };
  /** Lets the stage be looked round; told when somebody begins and ends. */
  onLooking?(looking: Looking | undefined, isLooking: boolean): void;
  hasGrid?: boolean;
  /** Width over height of the image; all of the room there is without one. */
  aspect?: number;
  onStage?(stage: Stage | undefined): void;
}

const NONE: readonly string[] = [];

/** The stage, live, as large as its place. */
export function StageCanvas({
  chosenIds = NONE,
  onChoose,
  showPlaces = false,
  handles,
  onLooking,
  hasGrid = false,
  aspect = 0,
  onStage,
}: Props) {
  const editing = useEditing();
  const player = usePlayer();
  const projectId = useProjectId();
  const sounds = useScene((scene) => scene.sounds);
  const canvas = useRef<HTMLCanvasElement>(null);
  const held = useRef<Handles>(undefined);
  const [stage, setStage] = useState<Stage>();
  const [failure, setFailure] = useState<string>();
  const [isLost, setLost] = useState(false);
  const hasHandles = handles !== undefined;

  useEffect(() => {
    const element = canvas.current!;
    let made: Stage;
    try {
      made = new Stage(element, fetchAsset, fetchFont);
    } catch {
      setFailure(
        "This browser offers no WebGL, which the stage needs. Turn on hardware acceleration or use another browser.",
      );
      return;
    }
    const detach = player.attach(made);
    const fit = () => {
      const { clientWidth, clientHeight } = element;
      if (clientWidth > 0 && clientHeight > 0)
        made.resize(clientWidth, clientHeight, Math.min(2, devicePixelRatio));
    };
    const observer = new ResizeObserver(fit);
    observer.observe(element);
    fit();
    const onLost = () => setLost(true);
    const onRestored = () => setLost(false);
    element.addEventListener("webglcontextlost", onLost);
    element.addEventListener("webglcontextrestored", onRestored);
    window.bumbrel = playerHandle(player, made);
    let timer: ReturnType<typeof setTimeout>;
    const takeLater = () => {
      timer = setTimeout(async () => {
        // A chosen take gives the picture when it is replayed.
        if (editing.scene.takeId !== null) return;
        if (player.transport.state === "playing" || player.run || !player.isLoaded) {
          takeLater();
          return;
        }
        // As it is at its most; the image on the screen is back before anybody sees it.
        const image = await player.alone(async (show) => {
          await show(player.loudestS);
          const taking = stageThumbnail(made);
          await show(player.transport.positionS());
          return taking;
        });
        if (image) void keepThumbnail(projectId, image);
      }, THUMBNAIL_AFTER_MS);
    };
    takeLater();
    setStage(made);
    onStage?.(made);
    return () => {
      clearTimeout(timer);
      observer.disconnect();
      element.removeEventListener("webglcontextlost", onLost);
      element.removeEventListener("webglcontextrestored", onRestored);
      detach();
      made.dispose();
      window.bumbrel = playerHandle(player);
      setStage(undefined);
      onStage?.(undefined);
    };
  }, [editing, player, projectId, onStage]);

  const frames = useRef<SelectionFrames>(undefined);
  const rings = useRef<PlaceRings>(undefined);
  useEffect(() => {
    if (!stage) return;
    const made = { frames: new SelectionFrames(stage), rings: new PlaceRings() };
    stage.overlay.add(made.rings.root);
    frames.current = made.frames;
    rings.current = made.rings;
    return () => {
      made.frames.dispose();
      made.rings.dispose();
      stage.overlay.remove(made.rings.root);
    };
  }, [stage]);
  useEffect(() => {
    if (stage) frames.current?.show(chosenIds);
  }, [stage, chosenIds]);
  const places = showPlaces ? sounds.flatMap(({ place }) => place ?? []) : [];
  useEffect(() => {
    if (rings.current?.show(places)) stage?.redraw();
  });

  const looking = useRef<Looking>(undefined);
  useEffect(() => {
    if (!stage || !onLooking) return;
    const made = new Looking(stage, (isLooking) => onLooking(made, isLooking));
    looking.current = made;
    onLooking(made, false);
    return () => {
      looking.current = undefined;
      made.dispose();
      onLooking(undefined, false);
    };
  }, [stage, onLooking]);
  useEffect(() => {
    if (!stage || !hasGrid) return;
    const grid = makeGrid();
    stage.overlay.add(grid);
    stage.redraw();
    return () => {
      stage.overlay.remove(grid);
      grid.dispose();
      stage.redraw();
    };
  }, [stage, hasGrid]);

  const chosen = useRef(chosenIds);
  chosen.current = chosenIds;
  useEffect(() => {
    if (!stage || !hasHandles) return;
    const made = new Handles(
      stage,
      (moved) =>
        editObjects(
          editing,
          `move ${objectNames(editing.scene, chosen.current)}`,
          Object.keys(moved),
          (object) => Object.assign(object.rest, moved[object.id]),
          `handles ${Object.keys(moved)}`,
        ),
      () => editing.endGesture(),
      (isHeld) => looking.current?.setEnabled(!isHeld),
    );
    held.current = made;
    return () => {
      held.current = undefined;
      made.dispose();
    };
  }, [stage, hasHandles, editing]);
  const { mode = "move", snaps = false } = handles ?? {};
  useEffect(() => {
    if (!stage) return;
    held.current?.setMode(mode);
    held.current?.setSnapping(snaps);
  }, [mode, snaps, stage]);
  useEffect(() => {
    if (!stage || !hasHandles) return;
    const hold = ({ objects }: Scene) => {
      const chosenObjects = objects.filter(({ id }) => chosenIds.includes(id));
      const parentId = chosenObjects.find(({ id }) => id === chosenIds[0])?.parentId ?? null;
      held.current?.hold(
        handledOf(chosenObjects, chosenIds),
        parentId === null ? undefined : stage.rootOf(parentId),
      );
    };
    hold(editing.scene);
    return editing.store.subscribe(({ scene }, before) => {
      if (scene.objects !== before.scene.objects) hold(scene);
    });
  }, [stage, hasHandles, chosenIds, editing]);

  const pressedAt = useRef<[x: number, y: number]>([0, 0]);
  const pick = (event: PointerEvent<HTMLCanvasElement>) => {
    if (!stage || !onChoose || event.button !== 0) return;
    const [x, y] = pressedAt.current;
    // A press that moved looked round.
    if (Math.hypot(event.clientX - x, event.clientY - y) > CLICK_PX) return;
    if (held.current?.justDragged) {
      held.current.justDragged = false;
      return;
    }
    const { left, top, width, height } = event.currentTarget.getBoundingClientRect();
    onChoose(
      objectAt(stage, (event.clientX - left) / width, (event.clientY - top) / height),
      event.shiftKey || event.ctrlKey || event.metaKey,
    );
  };
  return (
    <div className="relative h-full w-full overflow-hidden bg-sunk">
      {places.length > 0 && (
        <p className="absolute bottom-2 left-3 z-10 text-xs text-mist">
          Rings: a sound is at full level inside the brass one, and falls no further outside the grey one.
        </p>
      )}
      {isLost && (
        <p role="status" className="absolute inset-x-0 top-3 z-10 text-center text-sm text-alarm">
          The graphics card took its memory back. The stage returns as soon as it can; nothing is lost.
        </p>
      )}
      {failure ? (
        <p className="p-6 text-mist" role="alert">
          {failure}
        </p>
      ) : (
        <canvas
          ref={canvas}
          className={`absolute inset-0 m-auto block outline-none focus-visible:outline-2 ${aspect > 0 ? "max-h-full max-w-full" : "h-full w-full"} ${onChoose ? "cursor-pointer" : ""}`}
          style={aspect > 0 ? { aspectRatio: aspect, [aspect >= 1 ? "width" : "height"]: "100%" } : undefined}
          aria-label="The stage"
          title={onLooking && "Drag to look round, turn the wheel to come nearer; arrow keys move."}
          role="img"
          tabIndex={onLooking ? 0 : undefined}
          onPointerDown={(event) => {
            pressedAt.current = [event.clientX, event.clientY];
            if (held.current && !held.current.isDragging) held.current.justDragged = false;
          }}
          onPointerUp={pick}
        />
      )}
    </div>
  );
}

/** A press that moves by more is no click. */
const CLICK_PX = 5;
/** Lines a metre apart, quiet enough to look through. */
function makeGrid(): GridHelper {
  const grid = new GridHelper(40, 40, 0xe3b563, 0x9fb8b4);
  const material = grid.material as LineBasicMaterial;
  Object.assign(material, { transparent: true, opacity: 0.16, toneMapped: false, depthWrite: false });
  return grid;
}

/** Chosen objects that handles can move; locked ones stay where they are. */
function handledOf(objects: readonly StageObject[], ids: readonly string[]) {
  return ids.flatMap((id) => {
    const object = objects.find((one) => one.id === id);
    if (!object || object.locked) return [];
    const declared = propertiesOf(object);
    const rest = (key: string) => {
      const property = declared[key];
      return property?.type === "vector"
        ? ((object.rest[key] as number[] | undefined) ?? property.default)
        : undefined;
    };
    return [{ id, position: rest("position"), rotation: rest("rotation"), scale: rest("scale") }];
  });
}
