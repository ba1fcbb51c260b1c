import { FRAME_RATE_HZ } from "@bumbrel/core/constants";
import type { Cue } from "@bumbrel/core/sound/cue";
import type { Catch } from "@bumbrel/core/strand/hits/catch";
import { SHAPING_STEPS } from "@bumbrel/core/strand/shape/shaping";
import { trackTimeAt } from "@bumbrel/core/strand/track";
import { type PointerEvent, useRef } from "react";
import type { Traces } from "../../../analysis/analysisClient";
import { useAnalysis, useEditing, useNumbers, usePlayer, useResult } from "../../../session/context";
import { editStrand } from "../../../session/edits/strands";
import { LIVE_S } from "../../../session/numbersNow";
import { type StrandFace, useHappensLive, useStrand } from "../../../session/strandHooks";
import { useUi } from "../../../session/viewState";
import { useFrame } from "../../../ui/live/frames";
import { levelColours } from "../../../ui/live/levelColours";
import { useCanvas } from "../../../ui/live/useCanvas";
import { themeColour } from "../../../ui/strandLook";
import { toggleMark, useCatching } from "../hearing/catching";
import { type ScaledStrand, type TraceScale, traceScale } from "./traceScale";

const RAW_HEIGHT = 76;
const GAP = 6;
const SHAPED_HEIGHT = 50;
const HEIGHT = RAW_HEIGHT + GAP + SHAPED_HEIGHT;
/** Room for the scale at the left. */
const LEFT_PX = 58;
/** A mark of a catch is taken away by a press this near. */
const MARK_REACH_PX = 5;

const LIVE_WORDS = `Live: its last ${LIVE_S} seconds come here once its input is switched on.`;

/** Raw and shaped over the whole sound, or over the last seconds of a live one, with floor and ceiling to take hold of, and cues where they fall. */
export function TraceCanvas({ strand, isFan }: { strand: StrandFace; isFan: boolean }) {
  const editing = useEditing();
  const numbers = useNumbers();
  const player = usePlayer();
  const analysis = useAnalysis();
  const ownWindow = useStrand(strand.id, ({ shaping }) => ({ gain: shaping.gain, window: shaping.window }));
  const isLive = useHappensLive(strand.id);
  // Other tunings are drawn while they are compared, and earlier states while they are looked at.
  const otherWindow = useResult(({ audition }) => {
    const scene = audition.played(editing.scene);
    const other = scene !== editing.scene && scene.strands.find(({ id }) => id === strand.id);
    return other ? { gain: other.shaping.gain, window: other.shaping.window } : undefined;
  });
  const theme = useUi((state) => state.theme);
  const catching = useCatching();
  const isCatching = catching.strandId === strand.id;
  const drawn = useRef("");
  const drawnTraces = useRef<Traces>(undefined);
  const drawnCatch = useRef<Catch>(undefined);
  const recent = useRef<Traces>(undefined);
  const canvas = useCanvas(() => {
    drawn.current = "";
  });
  const playhead = useRef<HTMLSpanElement>(null);
  const { transport } = player;
  const { gain, window } = otherWindow ?? ownWindow;
  const played = { ...strand, shaping: { gain, window } };
  const scale = useRef<TraceScale>(traceScale(played, 0));
  // The scale of what was drawn last is known to the marks; it changes with the sound, not with each drag.
  const highestShown = () =>
    isLive ? highestNow(recent.current) : highestOf(analysis.traces.get(strand.id));
  useResult(({ analysis: { traces } }) => highestOf(traces.get(strand.id)));
  scale.current = traceScale(played, highestShown());

  useFrame((timeS) => {
    const heard = isLive ? (player.recordOf(strand.id)?.track.newest.count ?? 0) : 0;
    const traces = isLive ? recent.current : analysis.traces.get(strand.id);
    const { width } = canvas.size.current;
    const marks = isCatching ? catching.marksS : [];
    const caught = isCatching ? catching.result : undefined;
    const key = `${theme} ${strand.hue} ${gain.on ? gain.db : 0} ${window.scale} ${window.high} ${analysis.failures.get(strand.id)} ${transport.durationS} ${traces?.framesReady} ${traces?.cues.length} ${heard} ${marks}`;
    const context = canvas.context();
    if (
      context &&
      (drawnTraces.current !== traces || drawnCatch.current !== caught || drawn.current !== key)
    ) {
      drawnTraces.current = traces;
      drawnCatch.current = caught;
      drawn.current = key;
      if (isLive) {
        recent.current = numbers.recent(strand.id, LIVE_S, recent.current);
        const highest = highestShown();
        drawTraces(context, width, recent.current, played, highest, LIVE_S, theme, LIVE_WORDS, undefined);
        if (recent.current) drawAgo(context);
      } else {
        const words = analysis.failures.get(strand.id);
        const shown = isCatching ? catching : undefined;
        drawTraces(context, width, traces, played, highestShown(), shownS(traces), theme, words, shown);
      }
    }
    if (playhead.current && !isLive) {
      const track = player.trackOf(strand.id);
      const ownS = track ? trackTimeAt(track, timeS) : timeS;
      const lengthS = shownS(traces);
      const share = lengthS > 0 ? Math.min(1, ownS / lengthS) : 0;
      playhead.current.style.transform = `translateX(${LEFT_PX + share * (width - LEFT_PX)}px)`;
    }
  });

  /** All of the tape, or all of a sound that has a time of its own. */
  const shownS = (traces: Traces | undefined) => {
    const track = player.trackOf(strand.id);
    const own = track?.positionS || track?.loopS;
    return traces && own ? traces.raw.length / traces.shaped.width / FRAME_RATE_HZ : transport.durationS;
  };
  const timeAt = (event: PointerEvent<HTMLElement>) => {
    const { left, width } = event.currentTarget.getBoundingClientRect();
    return ((event.clientX - left - LEFT_PX) / (width - LEFT_PX)) * transport.durationS;
  };
  const press = (event: PointerEvent<HTMLElement>) => {
    if (isLive) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const { width } = event.currentTarget.getBoundingClientRect();
    const timeS = timeAt(event);
    if (!isCatching) transport.seek(timeS);
    else if (timeS >= 0) toggleMark(timeS, (MARK_REACH_PX / (width - LEFT_PX)) * transport.durationS);
  };
  const inDb = window.scale === "dB";
  const ceiling = inDb ? window.floorDb + window.rangeDb : window.high;
  const floor = inDb ? window.floorDb : window.low;
  const setFloor = (to: number) => {
    const { floorDb, rangeDb } = SHAPING_STEPS.window.settings;
    if (!inDb) return { low: Math.max(0, Math.min(to, window.high * 0.98)) };
    const db = Math.min(floorDb.max, ceiling - rangeDb.min, Math.max(floorDb.min, round(to)));
    return { floorDb: db, rangeDb: round(ceiling - db) };
  };
  const setCeiling = (to: number) => {
    const { rangeDb, high } = SHAPING_STEPS.window.settings;
    if (!inDb) return { high: Math.min(high.max, Math.max(to, window.low * 1.02 + 1e-4)) };
    return { rangeDb: Math.min(rangeDb.max, Math.max(rangeDb.min, round(to - window.floorDb))) };
  };
  const hasMarks = window.on && !isFan && !isCatching;
  return (
    <div className="relative" style={{ height: HEIGHT }}>
      <canvas
        ref={canvas.ref}
        className={`h-full w-full touch-none ${isCatching ? "cursor-copy" : "cursor-text"}`}
        role="img"
        aria-label={`${strand.name} over ${isLive ? `its last ${LIVE_S} seconds` : "the whole sound"}: ${isFan ? "its bands" : "level"} above, shaped number below`}
        onPointerDown={press}
        onPointerMove={(event) =>
          event.buttons > 0 && !isCatching && !isLive && transport.seek(timeAt(event))
        }
      />
      {!isLive && (
        <span ref={playhead} className="pointer-events-none absolute inset-y-0 left-0 w-px bg-brass" />
      )}
      {hasMarks && (
        <>
          <Mark label="ceiling" at={ceiling} scale={scale} strand={strand} apply={setCeiling} />
          <Mark label="floor" at={floor} scale={scale} strand={strand} apply={setFloor} />
        </>
      )}
    </div>
  );
}

const round = (db: number) => Math.round(db * 10) / 10;

/** A level drawn across the raw trace, to be dragged or moved with the arrow keys. */
function Mark({
  label,
  at,
  scale,
  strand,
  apply,
}: {
  label: string;
  at: number;
  scale: { current: TraceScale };
  strand: StrandFace;
  apply(to: number): object;
}) {
  const editing = useEditing();
  const line = useRef<HTMLDivElement>(null);
  const { unit, shareOfMark, markAt, format, step } = scale.current;
  const set = (next: number, gesture?: string) =>
    editStrand(
      editing,
      strand.id,
      `move the ${label} of ${strand.name}`,
      ({ shaping }) => Object.assign(shaping.window, apply(next)),
      gesture,
    );
  return (
    <div
      ref={line}
      role="slider"
      tabIndex={0}
      aria-label={`The ${label} of ${strand.name}${unit && ` in ${unit}`}`}
      aria-orientation="vertical"
      aria-valuenow={Number(at.toPrecision(4))}
      className="group absolute right-0 -mt-1.5 h-3 cursor-ns-resize touch-none"
      style={{ top: (1 - shareOfMark(at)) * RAW_HEIGHT, left: LEFT_PX }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (event.buttons === 0) return;
        const { top } = line.current!.parentElement!.getBoundingClientRect();
        set(markAt(1 - (event.clientY - top) / RAW_HEIGHT), `${strand.id} ${label}`);
      }}
      onPointerUp={() => editing.endGesture()}
      onKeyDown={(event) => {
        const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
        if (!by) return;
        event.preventDefault();
        set(at + by * step * (event.shiftKey ? 12 : 1));
      }}
    >
      <span className="absolute inset-x-0 top-1.5 border-t border-dashed border-brass group-hover:border-solid" />
      <span
        className={`figures absolute right-1 bg-ground/85 px-1 text-[11px] leading-tight text-brass ${label === "floor" ? "top-2" : "-top-2"}`}
      >
        {label} {format(at)}
      </span>
    </div>
  );
}

/** Largest raw numbers of strands that have been computed whole. */
const known = new WeakMap<Float32Array, number>();

/** The largest raw number of a strand; of a whole one it is looked for once. */
function highestOf(traces: Traces | undefined): number {
  if (!traces) return 0;
  const { raw, framesReady, shaped } = traces;
  const before = known.get(raw);
  if (before !== undefined) return before;
  let most = 0;
  for (const value of raw) if (value > most) most = value;
  if (framesReady * shaped.width >= raw.length) known.set(raw, most);
  return most;
}

/** Room for the largest raw number of the last seconds, in steps: a scale that moves all the time cannot be read. */
function highestNow(recent: Traces | undefined): number {
  let most = 0;
  for (const value of recent?.raw ?? []) if (value > most) most = value;
  return most > 0 ? 2 ** Math.ceil(Math.log2(most)) : 0;
}

/** How long ago the left edge is, for what is heard live. */
function drawAgo(context: CanvasRenderingContext2D): void {
  context.fillStyle = themeColour("mist");
  context.font = "11px 'Spline Sans Mono', monospace";
  context.fillText(`${LIVE_S} s ago`, LEFT_PX + 6, RAW_HEIGHT - 5);
}

type DrawnStrand = ScaledStrand & Pick<StrandFace, "hue">;
type CatchShown = ReturnType<typeof useCatching.getState>;

function drawTraces(
  context: CanvasRenderingContext2D,
  fullWidth: number,
  traces: Traces | undefined,
  strand: DrawnStrand,
  highest: number,
  durationS: number,
  theme: string,
  words: string | undefined,
  catching: CatchShown | undefined,
): void {
  const width = fullWidth - LEFT_PX;
  const scale = traceScale(strand, highest);
  const isFan = (traces?.shaped.width ?? 1) > 1;
  context.clearRect(0, 0, fullWidth, HEIGHT);
  context.fillStyle = themeColour("sunk");
  context.fillRect(LEFT_PX, 0, width, RAW_HEIGHT);
  context.fillRect(LEFT_PX, RAW_HEIGHT + GAP, width, SHAPED_HEIGHT);
  const mist = themeColour("mist");
  context.fillStyle = mist;
  context.textAlign = "right";
  context.font = "11px 'Spline Sans Mono', monospace";
  const yOf = (share: number) => (1 - share) * RAW_HEIGHT;
  const ticks: [number, string][] = isFan
    ? [
        [0, "1"],
        [1, String(traces!.shaped.width)],
      ]
    : scale.ticks.map(([value, text]) => [scale.shareOfMark(value), text]);
  for (const [share, text] of ticks) {
    context.fillText(text, LEFT_PX - 6, Math.min(RAW_HEIGHT, Math.max(9, yOf(share) + 4)));
  }
  const shapedTop = RAW_HEIGHT + GAP;
  context.fillText("1", LEFT_PX - 6, shapedTop + 9);
  context.fillText("0", LEFT_PX - 6, shapedTop + SHAPED_HEIGHT);
  context.textAlign = "left";
  context.font = "12px 'Atkinson Hyperlegible Next Variable', sans-serif";
  context.fillText(isFan ? "bands" : "raw", 0, 10);
  if (!isFan) context.fillText(scale.unit, 0, 24);
  context.fillText("shaped", 0, shapedTop + SHAPED_HEIGHT / 2 + 4);
  if (!traces || durationS === 0) {
    context.textAlign = "center";
    context.fillText(words ?? "Listening to the whole sound …", LEFT_PX + width / 2, RAW_HEIGHT / 2, width);
    return;
  }
  const pxPerS = width / durationS;
  if (isFan) drawStrip(context, width, traces, pxPerS, theme);
  drawNumbers(
    context,
    width,
    traces,
    scale,
    pxPerS,
    isFan ? undefined : mist,
    themeColour(`strand-${strand.hue}`),
    yOf,
  );
  drawCues(context, traces.cues, pxPerS, themeColour("paper"), 0.75);
  if (catching) drawCatch(context, catching, pxPerS);
}

/** Every pixel stands for some frames: the highest and lowest raw of them, and the highest shaped. */
function drawNumbers(
  context: CanvasRenderingContext2D,
  width: number,
  { raw, shaped, framesReady }: Traces,
  scale: TraceScale,
  pxPerS: number,
  rawColour: string | undefined,
  shapedColour: string,
  yOf: (share: number) => number,
): void {
  const framesPerPx = FRAME_RATE_HZ / pxPerS;
  const bands = shaped.width;
  for (let x = 0; x < width; x++) {
    const from = Math.floor(x * framesPerPx);
    const to = Math.min(framesReady, Math.max(from + 1, Math.floor((x + 1) * framesPerPx)));
    if (from >= framesReady) break;
    let low = Number.POSITIVE_INFINITY;
    let high = 0;
    let number = 0;
    for (let frame = from; frame < to; frame++) {
      let sum = 0;
      for (let band = 0; band < bands; band++) sum += shaped.values[frame * bands + band];
      number = Math.max(number, sum / bands);
      low = Math.min(low, raw[frame * bands]);
      high = Math.max(high, raw[frame * bands]);
    }
    if (rawColour) {
      const top = yOf(scale.shareOf(high));
      context.fillStyle = rawColour;
      if (top < RAW_HEIGHT) context.fillRect(LEFT_PX + x, top, 1, Math.max(1, yOf(scale.shareOf(low)) - top));
    }
    const tall = Math.min(1, Math.max(0, number)) * (SHAPED_HEIGHT - 2);
    context.fillStyle = shapedColour;
    context.fillRect(LEFT_PX + x, HEIGHT - tall, 1, tall);
  }
}

/** A fan's shaped numbers as a strip: time to the right, its lowest band at the foot. */
function drawStrip(
  context: CanvasRenderingContext2D,
  width: number,
  { shaped, framesReady }: Traces,
  pxPerS: number,
  theme: string,
): void {
  const colours = levelColours(theme);
  const columns = Math.max(1, Math.floor(width));
  const image = new ImageData(columns, RAW_HEIGHT);
  const pixels = new Uint32Array(image.data.buffer);
  const framesPerPx = FRAME_RATE_HZ / pxPerS;
  const bands = shaped.width;
  for (let x = 0; x < columns; x++) {
    const from = Math.floor(x * framesPerPx);
    if (from >= framesReady) break;
    const to = Math.min(framesReady, Math.max(from + 1, Math.floor((x + 1) * framesPerPx)));
    for (let y = 0; y < RAW_HEIGHT; y++) {
      const band = Math.floor(((RAW_HEIGHT - 1 - y) / RAW_HEIGHT) * bands);
      let most = 0;
      for (let frame = from; frame < to; frame++) most = Math.max(most, shaped.values[frame * bands + band]);
      pixels[y * columns + x] = colours[Math.min(255, Math.round(most * 255))];
    }
  }
  const strip = new OffscreenCanvas(columns, RAW_HEIGHT);
  strip.getContext("2d")!.putImageData(image, 0, 0);
  context.imageSmoothingEnabled = false;
  context.drawImage(strip, LEFT_PX, 0, width, RAW_HEIGHT);
}

/** Cues as ticks across the shaped numbers, taller the stronger. */
function drawCues(
  context: CanvasRenderingContext2D,
  cues: readonly Cue[],
  pxPerS: number,
  colour: string,
  alpha: number,
): void {
  context.fillStyle = colour;
  context.globalAlpha = alpha;
  for (const { timeS, strength } of cues) {
    const tall = 5 + 9 * strength;
    context.fillRect(LEFT_PX + timeS * pxPerS - 0.5, RAW_HEIGHT + GAP / 2 - tall / 2, 1.5, tall);
  }
  context.globalAlpha = 1;
}

/** Marks of a catch from above, what it would catch from below; what was missed and what is too much stand out. */
function drawCatch(context: CanvasRenderingContext2D, { marksS, result }: CatchShown, pxPerS: number): void {
  const x = (timeS: number) => LEFT_PX + timeS * pxPerS;
  if (result) {
    context.fillStyle = themeColour("brass");
    context.globalAlpha = 0.1;
    context.fillRect(x(result.stretch.fromS), 0, x(result.stretch.toS) - x(result.stretch.fromS), HEIGHT);
    context.globalAlpha = 1;
    const extra = new Set(result.extra.map(({ timeS }) => timeS));
    for (const { timeS, strength } of result.cues) {
      context.fillStyle = themeColour(extra.has(timeS) ? "alarm" : "brass");
      const tall = 12 + 26 * strength;
      context.fillRect(x(timeS) - 0.75, RAW_HEIGHT - tall, 1.5, tall);
    }
  }
  const missed = new Set(result?.missed ?? []);
  for (const timeS of marksS) {
    context.fillStyle = themeColour(missed.has(timeS) ? "alarm" : "paper");
    context.beginPath();
    context.moveTo(x(timeS) - 5, 0);
    context.lineTo(x(timeS) + 5, 0);
    context.lineTo(x(timeS), 10);
    context.fill();
    context.fillRect(x(timeS) - 0.5, 8, 1, 22);
  }
}
