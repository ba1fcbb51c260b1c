import { fanWidth } from "@bumbrel/core/document/strands/listening";
import { fanBands, PITCH_CLASSES } from "@bumbrel/core/dsp/spectrum/fanBands";
import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrum/spectrogram";
import type { MeasureOf } from "@bumbrel/core/strand/measures/table";
import { trackValueAt } from "@bumbrel/core/strand/track";
import { useMemo, useRef } from "react";
import { useNumbers, usePlayer } from "../../../session/context";
import { type StrandFace, useStrands } from "../../../session/strandHooks";
import { hzToTop } from "../../../ui/live/axis";
import { useFrame } from "../../../ui/live/frames";
import { useCanvas } from "../../../ui/live/useCanvas";
import { StrandMark } from "../../../ui/StrandMark";
import { strandColour, themeColour } from "../../../ui/strandLook";

const LANE_PX = 24;

/** Every strand's number now, as a rising bar. */
export function ShapedColumn({
  axis,
  chosen,
  onChoose,
}: {
  axis: FrequencyAxis;
  chosen: StrandFace | undefined;
  onChoose(strand: StrandFace): void;
}) {
  const strands = useStrands();
  if (chosen?.measure.kind === "fan" && fanWidth(chosen.measure) > 1) {
    return <FanBars key={chosen.id} axis={axis} strand={chosen} measure={chosen.measure} />;
  }
  return (
    <div
      className="grid auto-cols-[24px] grid-flow-col overflow-x-auto overflow-y-hidden border-l border-rule px-2 pb-1"
      style={{ minWidth: Math.max(90, strands.length * LANE_PX + 16) }}
    >
      {strands.map((strand) => (
        <button
          key={strand.id}
          type="button"
          title={strand.name}
          aria-label={`Choose ${strand.name}`}
          className={`grid grid-rows-[minmax(0,1fr)_18px] justify-items-center gap-1 rounded px-1 ${strand.id === chosen?.id ? "bg-raised" : ""}`}
          onClick={() => onChoose(strand)}
        >
          <ShapedBar strand={strand} />
          <StrandMark strand={strand} />
        </button>
      ))}
    </div>
  );
}

function ShapedBar({ strand }: { strand: StrandFace }) {
  const numbers = useNumbers();
  const bar = useRef<HTMLSpanElement>(null);
  useFrame((timeS) => {
    const value = numbers.shapedNow(strand.id, timeS);
    if (bar.current) bar.current.style.transform = `scaleY(${Math.min(1, Math.max(0, value))})`;
  });
  return (
    <span className="relative block h-full w-2.5 overflow-hidden rounded-sm bg-rule/50">
      <span
        ref={bar}
        className="absolute inset-0 origin-bottom"
        style={{ background: strandColour(strand.hue), transform: "scaleY(0)" }}
      />
    </span>
  );
}

/** Positions of a fan's bands, from 0 at the top to 1: on the frequency axis, or pitch classes one over the other. */
function bandPlaces(measure: MeasureOf<"fan">, axis: FrequencyAxis) {
  const bands = fanBands(measure);
  return bands.map(({ lowHz, highHz }, i) =>
    measure.layout === "pitchClasses"
      ? { top: 1 - (i + 1) / bands.length, bottom: 1 - i / bands.length, name: PITCH_CLASSES[i] }
      : { top: hzToTop(axis, highHz), bottom: hzToTop(axis, lowHz) },
  );
}

/** A fan's numbers now, each where its band lies on the axis. */
function FanBars({
  axis,
  strand,
  measure,
}: {
  axis: FrequencyAxis;
  strand: StrandFace;
  measure: MeasureOf<"fan">;
}) {
  const player = usePlayer();
  const canvas = useCanvas();
  const bands = useMemo(() => bandPlaces(measure, axis), [axis, measure]);
  useFrame((timeS) => {
    const context = canvas.context();
    const { width, height } = canvas.size.current;
    const track = player.trackOf(strand.id);
    if (!context) return;
    context.clearRect(0, 0, width, height);
    if (!track) return;
    context.fillStyle = themeColour(`strand-${strand.hue}`);
    for (let band = 0; band < Math.min(bands.length, track.width); band++) {
      const { top, bottom } = bands[band];
      const value = Math.min(1, Math.max(0, trackValueAt(track, timeS, band)));
      const y = top * height;
      context.fillRect(
        4,
        y + 0.5,
        Math.max(1, value * (width - 8)),
        Math.max(1, (bottom - top) * height - 1),
      );
    }
  });
  return (
    <div className="relative w-40 border-l border-rule">
      <canvas
        ref={canvas.ref}
        role="img"
        aria-label={`Bands of ${strand.name} now`}
        className="absolute inset-0 h-full w-full"
      />
      {bands.map(
        ({ top, bottom, name }) =>
          name !== undefined && (
            <span
              key={name}
              className="pointer-events-none absolute right-1 -translate-y-1/2 font-mono text-xs text-mist"
              style={{ top: `${50 * (top + bottom)}%` }}
            >
              {name}
            </span>
          ),
      )}
    </div>
  );
}
