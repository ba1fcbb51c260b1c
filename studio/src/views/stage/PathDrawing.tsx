import type { PathPoint } from "@bumbrel/core/setting/descriptor";
import { groundAt } from "@bumbrel/player/stage/picking";
import type { Stage } from "@bumbrel/player/stage/stage";
import { type PointerEvent, useEffect, useRef, useState } from "react";
import { useEditing, useScene } from "../../session/context";
import { setSetting } from "../../session/edits/stage";
import { fewPoints, usePathDrawing } from "./pathDrawing";

const dismiss = () => usePathDrawing.setState({ objectId: undefined });

/** A sheet over the stage on which a formation's path is drawn: one stroke, level with where the object stands. */
export function PathDrawing({ stage }: { stage: Stage | undefined }) {
  const editing = useEditing();
  const { objectId } = usePathDrawing();
  const object = useScene(({ objects }) => objects.find(({ id }) => id === objectId));
  const [line, setLine] = useState<string>("");
  const points = useRef<PathPoint[]>([]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => event.key === "Escape" && dismiss();
    addEventListener("keydown", onKey);
    return () => {
      removeEventListener("keydown", onKey);
      dismiss();
    };
  }, []);
  if (!object || !stage) return null;
  const [x0, y0, z0] = (object.rest.position as PathPoint | undefined) ?? [0, 0, 0];
  const take = (event: PointerEvent<HTMLDivElement>) => {
    const { left, top, width, height } = event.currentTarget.getBoundingClientRect();
    const [x, y] = [event.clientX - left, event.clientY - top];
    const at = groundAt(stage, x / width, y / height, y0);
    if (!at) return;
    points.current.push([at[0] - x0, 0, at[2] - z0]);
    setLine((old) => `${old}${old === "" ? "M" : "L"}${x.toFixed(1)},${y.toFixed(1)}`);
  };
  return (
    <div
      className="absolute inset-0 z-10 cursor-crosshair touch-none"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        points.current = [];
        setLine("");
        take(event);
      }}
      onPointerMove={(event) => event.buttons === 1 && take(event)}
      onPointerUp={() => {
        const path = fewPoints(points.current);
        setLine("");
        if (!path) return;
        setSetting(editing, [object], "path", path);
        dismiss();
      }}
    >
      <svg className="pointer-events-none h-full w-full" aria-hidden="true">
        <path d={line} fill="none" stroke="var(--brass)" strokeWidth={3} strokeLinecap="round" />
      </svg>
      <p role="status" className="absolute inset-x-0 top-12 text-center text-sm">
        <span className="rounded bg-ground/85 px-3 py-1">
          Draw the path of {object.name} on the stage with one stroke; Escape leaves it as it was.
        </span>
      </p>
    </div>
  );
}
