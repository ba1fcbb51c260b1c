import { rangeBetween } from "@bumbrel/core/dsp/spectrum/frequencyRange";
import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrum/spectrogram";
import type { RangedMeasure } from "@bumbrel/core/strand/measures/table";
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import { useEditing } from "../../../session/context";
import { editStrand } from "../../../session/edits/strands";
import { type StrandFace, useStrands } from "../../../session/strandHooks";
import { formatHz } from "../../../ui/format";
import { hzToTop, limitsOf, shiftRange, snapHz, topToHz } from "../../../ui/live/axis";
import { StrandMark } from "../../../ui/StrandMark";
import { strandColour } from "../../../ui/strandLook";

const LANE_PX = 24;
/** One press of an arrow key: a semitone. */
const KEY_RATIO = 2 ** (1 / 12);

type Part = "low" | "high" | "middle";
type RangedStrand = StrandFace & { measure: RangedMeasure };

/** Every strand's range as a bracket that can be taken by its ends or its middle. */
export function RangeColumn({
  axis,
  chosen,
  onChoose,
}: {
  axis: FrequencyAxis;
  chosen: StrandFace | undefined;
  onChoose(strand: StrandFace): void;
}) {
  const withRange = useStrands().filter((strand): strand is RangedStrand => "lowHz" in strand.measure);
  const column = useRef<HTMLDivElement>(null);
  return (
    <div
      ref={column}
      className="relative overflow-x-auto overflow-y-hidden border-l border-rule"
      style={{ minWidth: Math.max(90, withRange.length * LANE_PX + 12) }}
    >
      {withRange.map((strand, lane) => (
        <Bracket
          key={strand.id}
          {...{ axis, strand, lane }}
          isChosen={strand.id === chosen?.id}
          heightOf={() => column.current!.getBoundingClientRect()}
          onChoose={() => onChoose(strand)}
        />
      ))}
    </div>
  );
}

function Bracket({
  axis,
  strand,
  lane,
  isChosen,
  heightOf,
  onChoose,
}: {
  axis: FrequencyAxis;
  strand: RangedStrand;
  lane: number;
  isChosen: boolean;
  heightOf(): DOMRect;
  onChoose(): void;
}) {
  const editing = useEditing();
  const grabbed = useRef<{ y: number; lowHz: number; highHz: number }>(undefined);
  const { lowHz, highHz } = strand.measure;
  const colour = strandColour(strand.hue);
  const top = hzToTop(axis, highHz);
  const bottom = hzToTop(axis, lowHz);

  const setRange = (range: { lowHz: number; highHz: number }, gesture?: string) =>
    editStrand(
      editing,
      strand.id,
      `move the range of ${strand.name}`,
      ({ measure }) => Object.assign(measure, limitsOf(measure, range)),
      gesture,
    );
  const grab = (event: PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    grabbed.current = { y: event.clientY, lowHz, highHz };
    onChoose();
  };
  const drag = (part: Part) => (event: PointerEvent) => {
    const start = grabbed.current;
    if (!start || event.buttons === 0) return;
    const { top: columnTop, height } = heightOf();
    const snap = (hz: number) => (event.altKey ? hz : snapHz(axis, hz));
    const hz = snap(topToHz(axis, (event.clientY - columnTop) / height));
    const gesture = `range ${strand.id}`;
    if (part === "middle") {
      const moved = shiftRange(axis, start, (start.y - event.clientY) / height);
      setRange(rangeBetween(snap(moved.lowHz), snap(moved.highHz)), gesture);
    } else setRange(rangeBetween(hz, part === "low" ? start.highHz : start.lowHz), gesture);
  };
  const drop = () => {
    grabbed.current = undefined;
    editing.endGesture();
  };
  const onKey = (part: Part) => (event: KeyboardEvent) => {
    const direction = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (!direction) return;
    event.preventDefault();
    const ratio = KEY_RATIO ** (direction * (event.shiftKey ? 12 : 1));
    setRange(rangeBetween(part === "high" ? lowHz : lowHz * ratio, part === "low" ? highHz : highHz * ratio));
  };
  const handle = (part: Part) => ({
    role: "slider",
    tabIndex: 0,
    "aria-orientation": "vertical" as const,
    "aria-valuenow": part === "high" ? highHz : lowHz,
    "aria-valuetext":
      part === "middle"
        ? `${formatHz(lowHz)} to ${formatHz(highHz)}`
        : formatHz(part === "high" ? highHz : lowHz),
    "aria-label": {
      low: `Low end of ${strand.name}`,
      high: `High end of ${strand.name}`,
      middle: `Range of ${strand.name}`,
    }[part],
    onPointerDown: grab,
    onPointerMove: drag(part),
    onPointerUp: drop,
    onPointerCancel: drop,
    onKeyDown: onKey(part),
    onFocus: onChoose,
  });
  return (
    <div
      className="absolute"
      style={{
        top: `${top * 100}%`,
        height: `${(bottom - top) * 100}%`,
        left: 8 + lane * LANE_PX,
        width: LANE_PX - 8,
        color: colour,
      }}
    >
      <span
        {...handle("middle")}
        className="absolute inset-0 cursor-grab touch-none"
        style={{ background: `color-mix(in srgb, currentColor ${isChosen ? 45 : 16}%, transparent)` }}
      />
      <span
        {...handle("high")}
        className="absolute inset-x-0 -top-2 h-3.5 cursor-ns-resize touch-none border-b-[3px] border-current"
        style={{ height: 9.5 }}
      />
      <span
        {...handle("low")}
        className="absolute inset-x-0 -bottom-2 cursor-ns-resize touch-none border-t-[3px] border-current"
        style={{ height: 9.5 }}
      />
      <span className="pointer-events-none absolute -top-6 left-1/2 -translate-x-1/2">
        <StrandMark strand={strand} size={12} />
      </span>
    </div>
  );
}
