import { FRAME_RATE_HZ } from "@bumbrel/core/constants";
import { levelToDb } from "@bumbrel/core/dsp/decibel";
import type { Strand } from "@bumbrel/core/scene/document";
import { SHAPING_STEPS } from "@bumbrel/core/strand/shaping";
import { trackTimeAt } from "@bumbrel/core/strand/track";
import { type PointerEvent, useRef } from "react";
import { useFrame, useSnapshot, useWorkbench } from "../project/context";
import { useUi } from "../project/ui";
import type { Traces } from "../project/workbench";
import { formatTenths } from "../ui/format";
import { themeColour } from "../ui/strandLook";
import { useCanvas } from "../ui/useCanvas";
import { editStrand } from "./edits";

const TOP_DB = 0;
const BOTTOM_DB = -90;
const RAW_HEIGHT = 92;
const GAP = 6;
const SHAPED_HEIGHT = 62;
/** Room for the scale at the left. */
const LEFT_PX = 58;

const LIVE_WORDS = "Live: there is no whole sound to see. Its numbers are read as it happens.";

/** Raw and shaped over the whole sound, with floor and ceiling to take hold of. */
export function TraceCanvas({ strand }: { strand: Strand }) {
  const workbench = useWorkbench();
  useSnapshot();
  const theme = useUi((state) => state.theme);
  const drawn = useRef<{ traces: Traces | undefined; key: string }>(undefined);
  const canvas = useCanvas(() => {
    drawn.current = undefined;
  });
  const playhead = useRef<HTMLSpanElement>(null);
  const { transport } = workbench.player;
  const { gain, window } = strand.shaping;
  const ceilingDb = window.floorDb + window.rangeDb;

  useFrame((timeS) => {
    const traces = workbench.traces.get(strand.id);
    const { width } = canvas.size.current;
    const key = `${theme} ${strand.hue} ${gain.on ? gain.db : 0} ${workbench.strandFailures.get(strand.id)} ${transport.durationS}`;
    const context = canvas.context();
    if (context && (drawn.current?.traces !== traces || drawn.current?.key !== key)) {
      drawn.current = { traces, key };
      const failure = workbench.strandFailures.get(strand.id);
      drawTraces(context, width, traces, strand, shownS(traces), live ? LIVE_WORDS : failure);
    }
    if (playhead.current) {
      const track = workbench.player.trackOf(strand.id);
      const ownS = track ? trackTimeAt(track, timeS) : timeS;
      const lengthS = shownS(traces);
      const share = lengthS > 0 ? Math.min(1, ownS / lengthS) : 0;
      playhead.current.style.transform = `translateX(${LEFT_PX + share * (width - LEFT_PX)}px)`;
    }
  });

  /** All of the tape, or all of a sound that has a time of its own. */
  const shownS = (traces: Traces | undefined) => {
    const track = workbench.player.trackOf(strand.id);
    const own = track?.positionS || track?.loopS;
    return traces && own ? traces.raw.length / FRAME_RATE_HZ : transport.durationS;
  };
  const live = workbench.player.live?.rawOf(strand.id) !== undefined;
  const seek = (event: PointerEvent<HTMLElement>) => {
    const { left, width } = event.currentTarget.getBoundingClientRect();
    transport.seek(((event.clientX - left - LEFT_PX) / (width - LEFT_PX)) * transport.durationS);
  };
  const setFloor = (db: number) => {
    const { floorDb, rangeDb } = SHAPING_STEPS.window.settings;
    const floor = Math.min(floorDb.max, ceilingDb - rangeDb.min, Math.max(floorDb.min, round(db)));
    return { floorDb: floor, rangeDb: round(ceilingDb - floor) };
  };
  const setCeiling = (db: number) => {
    const { rangeDb } = SHAPING_STEPS.window.settings;
    return { rangeDb: Math.min(rangeDb.max, Math.max(rangeDb.min, round(db - window.floorDb))) };
  };
  return (
    <div className="relative" style={{ height: RAW_HEIGHT + GAP + SHAPED_HEIGHT }}>
      <canvas
        ref={canvas.ref}
        className="h-full w-full cursor-text touch-none"
        role="img"
        aria-label={`${strand.name} over the whole sound: level above, shaped number below`}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          seek(event);
        }}
        onPointerMove={(event) => event.buttons > 0 && seek(event)}
      />
      <span ref={playhead} className="pointer-events-none absolute inset-y-0 left-0 w-px bg-brass" />
      {window.on && (
        <>
          <Mark label="ceiling" db={ceilingDb} strand={strand} apply={setCeiling} />
          <Mark label="floor" db={window.floorDb} strand={strand} apply={setFloor} />
        </>
      )}
    </div>
  );
}

const round = (db: number) => Math.round(db * 10) / 10;

/** A level drawn across the raw trace, to be dragged or moved with the arrow keys. */
function Mark({
  label,
  db,
  strand,
  apply,
}: {
  label: string;
  db: number;
  strand: Strand;
  apply(db: number): object;
}) {
  const workbench = useWorkbench();
  const line = useRef<HTMLDivElement>(null);
  const set = (next: number, gesture?: string) =>
    editStrand(
      workbench,
      strand.id,
      `move the ${label} of ${strand.name}`,
      ({ shaping }) => Object.assign(shaping.window, apply(next)),
      gesture,
    );
  const share = Math.min(1, Math.max(0, (TOP_DB - db) / (TOP_DB - BOTTOM_DB)));
  return (
    <div
      ref={line}
      role="slider"
      tabIndex={0}
      aria-label={`The ${label} of ${strand.name} in dBFS`}
      aria-orientation="vertical"
      aria-valuenow={round(db)}
      className="group absolute right-0 -mt-1.5 h-3 cursor-ns-resize touch-none"
      style={{ top: share * RAW_HEIGHT, left: LEFT_PX }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (event.buttons === 0) return;
        const { top } = line.current!.parentElement!.getBoundingClientRect();
        set(TOP_DB - ((event.clientY - top) / RAW_HEIGHT) * (TOP_DB - BOTTOM_DB), `${strand.id} ${label}`);
      }}
      onPointerUp={() => workbench.endGesture()}
      onKeyDown={(event) => {
        const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
        if (!by) return;
        event.preventDefault();
        set(db + by * (event.shiftKey ? 6 : 0.5));
      }}
    >
      <span className="absolute inset-x-0 top-1.5 border-t border-dashed border-brass group-hover:border-solid" />
      <span
        className={`figures absolute right-1 bg-ground/85 px-1 text-[11px] leading-tight text-brass ${label === "floor" ? "top-2" : "-top-2"}`}
      >
        {label} {formatTenths(db)}
      </span>
    </div>
  );
}

function drawTraces(
  context: CanvasRenderingContext2D,
  fullWidth: number,
  traces: Traces | undefined,
  strand: Strand,
  durationS: number,
  failure: string | undefined,
): void {
  const height = RAW_HEIGHT + GAP + SHAPED_HEIGHT;
  const width = fullWidth - LEFT_PX;
  context.clearRect(0, 0, fullWidth, height);
  context.fillStyle = themeColour("sunk");
  context.fillRect(LEFT_PX, 0, width, RAW_HEIGHT);
  context.fillRect(LEFT_PX, RAW_HEIGHT + GAP, width, SHAPED_HEIGHT);
  const mist = themeColour("mist");
  context.fillStyle = mist;
  context.textAlign = "right";
  context.font = "11px 'Spline Sans Mono', monospace";
  const yOf = (db: number) => ((TOP_DB - db) / (TOP_DB - BOTTOM_DB)) * RAW_HEIGHT;
  for (const db of [0, -30, -60])
    context.fillText(String(db).replace("-", "−"), LEFT_PX - 6, Math.max(9, yOf(db) + 4));
  const shapedTop = RAW_HEIGHT + GAP;
  context.fillText("1", LEFT_PX - 6, shapedTop + 9);
  context.fillText("0", LEFT_PX - 6, shapedTop + SHAPED_HEIGHT);
  context.textAlign = "left";
  context.font = "12px 'Atkinson Hyperlegible Next Variable', sans-serif";
  context.fillText("raw", 0, 10);
  context.fillText("dBFS", 0, 24);
  context.fillText("shaped", 0, shapedTop + SHAPED_HEIGHT / 2 + 4);
  if (!traces || durationS === 0) {
    context.textAlign = "center";
    context.fillText(failure ?? "Listening to the whole sound …", LEFT_PX + width / 2, RAW_HEIGHT / 2, width);
    return;
  }
  const { raw, shaped } = traces;
  const gainDb = strand.shaping.gain.on ? strand.shaping.gain.db : 0;
  const framesPerPx = (durationS * FRAME_RATE_HZ) / width;
  const colour = themeColour(`strand-${strand.hue}`);
  for (let x = 0; x < width; x++) {
    const from = Math.floor(x * framesPerPx);
    const to = Math.min(raw.length, Math.max(from + 1, Math.floor((x + 1) * framesPerPx)));
    if (from >= raw.length) break;
    let rawLow = Number.POSITIVE_INFINITY;
    let rawHigh = 0;
    let shapedHigh = 0;
    for (let i = from; i < to; i++) {
      rawLow = Math.min(rawLow, raw[i]);
      rawHigh = Math.max(rawHigh, raw[i]);
      shapedHigh = Math.max(shapedHigh, shaped.values[i]);
    }
    const top = yOf(Math.min(TOP_DB, Math.max(BOTTOM_DB, levelToDb(rawHigh) + gainDb)));
    const bottom = yOf(Math.min(TOP_DB, Math.max(BOTTOM_DB, levelToDb(rawLow) + gainDb)));
    context.fillStyle = mist;
    if (top < RAW_HEIGHT) context.fillRect(LEFT_PX + x, top, 1, Math.max(1, bottom - top));
    const tall = Math.min(1, Math.max(0, shapedHigh)) * (SHAPED_HEIGHT - 2);
    context.fillStyle = colour;
    context.fillRect(LEFT_PX + x, height - tall, 1, tall);
  }
}
