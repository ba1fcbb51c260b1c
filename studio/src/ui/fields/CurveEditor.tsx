import { type CurvePoint, drawnCurve } from "@bumbrel/core/dsp/maths/curve";
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import { useFrame } from "../live/frames";

const WIDTH = 360;
const HEIGHT = 84;
const STEPS = 120;
/** Points stay this far apart, as a share of the width. */
const CLOSEST = 0.01;
const MOST_POINTS = 64;

interface Props {
  label: string;
  points: readonly CurvePoint[];
  /** Current position, 0..1. */
  phase(): number;
  onChange(points: CurvePoint[], gesture: string): void;
  onDone(): void;
}

const x = (at: number) => at * WIDTH;
const y = (value: number) => (1 - value) * (HEIGHT - 8) + 4;
const within = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));

/**
 * A curve through points that can be dragged: press on the curve for a new point, Delete or a double click takes
 * one away, arrow keys move it.
 */
export function CurveEditor({ label, points, phase, onChange, onDone }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const now = useRef<SVGLineElement>(null);
  const dragged = useRef<number>(undefined);
  const curve = drawnCurve(points);
  const path = Array.from({ length: STEPS + 1 }, (_, i) => `${x(i / STEPS)},${y(curve(i / STEPS))}`).join(
    " ",
  );
  useFrame(() => {
    const at = String(x(phase()));
    now.current?.setAttribute("x1", at);
    now.current?.setAttribute("x2", at);
  });
  const pointAt = (event: PointerEvent): CurvePoint => {
    const { left, top, width, height } = svg.current!.getBoundingClientRect();
    return {
      at: within((event.clientX - left) / width, 0, 1),
      value: within(1 - (((event.clientY - top) / height) * HEIGHT - 4) / (HEIGHT - 8), 0, 1),
    };
  };
  const move = (index: number, to: CurvePoint, gesture: string) => {
    const low = index === 0 ? 0 : points[index - 1].at + CLOSEST;
    const high = index === points.length - 1 ? 1 : points[index + 1].at - CLOSEST;
    const placed = {
      at: Math.round(within(to.at, low, high) * 1000) / 1000,
      value: Math.round(to.value * 1000) / 1000,
    };
    onChange(
      points.map((point, i) => (i === index ? placed : point)),
      gesture,
    );
  };
  const remove = (index: number) => {
    if (points.length > 2)
      onChange(
        points.filter((_, i) => i !== index),
        "curve",
      );
    onDone();
  };
  const add = (event: PointerEvent<SVGSVGElement>) => {
    if (event.target !== svg.current || points.length >= MOST_POINTS) return;
    const point = pointAt(event);
    const index = points.findIndex(({ at }) => at > point.at);
    const place = index < 0 ? points.length : index;
    const [before, after] = [points[place - 1], points[place]];
    if ((before && point.at - before.at < CLOSEST) || (after && after.at - point.at < CLOSEST)) return;
    onChange([...points.slice(0, place), point, ...points.slice(place)], "curve");
    dragged.current = place;
    svg.current!.setPointerCapture(event.pointerId);
  };
  const onKey = (event: KeyboardEvent, index: number) => {
    const by = event.shiftKey ? 0.1 : 0.01;
    const { at, value } = points[index];
    const to = {
      ArrowLeft: { at: at - by, value },
      ArrowRight: { at: at + by, value },
      ArrowUp: { at, value: within(value + by, 0, 1) },
      ArrowDown: { at, value: within(value - by, 0, 1) },
    }[event.key];
    if (to) {
      event.preventDefault();
      move(index, to, "curve");
    } else if (event.key === "Delete" || event.key === "Backspace") {
      remove(index);
    }
  };
  return (
    <svg
      ref={svg}
      aria-label={label}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      preserveAspectRatio="none"
      className="h-21 w-full cursor-crosshair touch-none rounded bg-sunk"
      onPointerDown={add}
      onPointerMove={(event) => {
        if (dragged.current !== undefined && event.buttons > 0)
          move(dragged.current, pointAt(event), "curve");
      }}
      onPointerUp={() => {
        dragged.current = undefined;
        onDone();
      }}
    >
      <title>Press for a new point; double click or Delete takes one away</title>
      <polyline points={path} fill="none" stroke="var(--brass)" strokeWidth={1.5} pointerEvents="none" />
      <line ref={now} y1={0} y2={HEIGHT} stroke="var(--paper)" strokeWidth={1} pointerEvents="none" />
      {points.map(({ at, value }, index) => (
        <circle
          // biome-ignore lint/suspicious/noArrayIndexKey: a point is its place in the row
          key={index}
          role="slider"
          tabIndex={0}
          aria-label={`Point ${index + 1}`}
          aria-valuenow={value}
          aria-valuetext={`${value} at ${at}`}
          cx={x(at)}
          cy={y(value)}
          r={5}
          className="cursor-grab fill-paper stroke-ground"
          onPointerDown={(event) => {
            svg.current!.setPointerCapture(event.pointerId);
            dragged.current = index;
          }}
          onDoubleClick={() => remove(index)}
          onKeyDown={(event) => onKey(event, index)}
        />
      ))}
    </svg>
  );
}
