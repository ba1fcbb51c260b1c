import { rangeBetween } from "@bumbrel/core/dsp/spectrum/frequencyRange";
import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrum/spectrogram";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { type PointerEvent, useRef, useState } from "react";
import { StageCanvas } from "../../../liveStage/StageCanvas";
import { useAnalysis, useEditing, useProjectId, useScene } from "../../../session/context";
import { addStrand, editStrand, fitStrand, soundBeforeFader } from "../../../session/edits/strands";
import type { StrandFace } from "../../../session/strandHooks";
import { useStrands } from "../../../session/strandHooks";
import { useUi } from "../../../session/viewState";
import { formatHz, noteName } from "../../../ui/format";
import { AXIS_TICKS, hzToTop, SPINE_AXES, snapHz, topToHz } from "../../../ui/live/axis";
import { strandColour } from "../../../ui/strandLook";
import { FanLines } from "./FanLines";
import { RangeColumn } from "./RangeColumn";
import { ShapedColumn } from "./ShapedColumn";
import { SpectrogramCanvas } from "./SpectrogramCanvas";
import { SpectrumCanvas } from "./SpectrumCanvas";
import { hasSpectrum } from "./shownSound";

/** Pointer travel in pixels before a press becomes a drag. */
const DRAG_PX = 3;

interface Props {
  sound: Sound;
  chosen: StrandFace | undefined;
}

/** Everything that shares the frequency axis, and the porthole beside it. */
export function Spine({ sound, chosen }: Props) {
  const projectId = useProjectId();
  const sounds = useScene((scene) => scene.sounds.filter(hasSpectrum));
  const look = useUi((state) => state.look);
  const kind = useUi((state) => state.looking[projectId]?.axis ?? "log");
  const axis = SPINE_AXES[kind];
  const choose = (strand: StrandFace) => look(projectId, { strandId: strand.id });
  const heading = "flex h-8 items-center gap-2 overflow-hidden px-2 text-sm whitespace-nowrap text-mist";
  return (
    <section
      aria-label="The spine"
      className="grid min-h-0 grid-cols-[58px_minmax(0,1fr)_130px_minmax(90px,auto)_minmax(90px,auto)_300px] grid-rows-[32px_minmax(0,1fr)] border-b border-rule"
    >
      <button
        type="button"
        className="text-xs text-mist hover:text-brass"
        title={
          kind === "log" ? "Change to a linear frequency axis" : "Change to a logarithmic frequency axis"
        }
        onClick={() => look(projectId, { axis: kind === "log" ? "linear" : "log" })}
      >
        Hz · {kind === "log" ? "log" : "lin"}
      </button>
      <div className={heading}>
        <label className="flex items-center gap-2">
          Showing
          <select
            className="rounded border border-rule bg-sunk px-1.5 py-0.5 text-paper"
            value={sound.id}
            onChange={(event) => look(projectId, { soundId: event.target.value })}
          >
            {sounds.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <span className="truncate" title="Ranges keep to notes; hold Alt to drag freely">
          Drag out a range; Alt drags off the notes.
        </span>
      </div>
      <div className={heading}>Spectrum, dBFS</div>
      <div className={heading}>Ranges</div>
      <div className={heading}>Shaped</div>
      <div className={heading}>Porthole</div>
      <AxisTicks axis={axis} />
      <DragArea axis={axis} sound={sound} chosen={chosen} />
      <RangeColumn axis={axis} chosen={chosen} onChoose={choose} />
      <ShapedColumn axis={axis} chosen={chosen} onChoose={choose} />
      <div className="m-2 mt-0 overflow-hidden rounded">
        <StageCanvas />
      </div>
    </section>
  );
}

function AxisTicks({ axis }: { axis: FrequencyAxis }) {
  return (
    <div className="relative overflow-hidden border-r border-rule" aria-hidden="true">
      {AXIS_TICKS[axis.kind].map((hz) => (
        <span
          key={hz}
          className="figures absolute right-1.5 -translate-y-1/2 text-xs text-mist"
          style={{ top: `${hzToTop(axis, hz) * 100}%` }}
        >
          {hz >= 1000 ? `${hz / 1000} k` : hz}
        </span>
      ))}
    </div>
  );
}

/** Spectrogram and spectrum, on which a range can be dragged out. */
function DragArea({ axis, sound, chosen }: { axis: FrequencyAxis } & Props) {
  const editing = useEditing();
  const analysis = useAnalysis();
  const projectId = useProjectId();
  const strands = useStrands();
  const area = useRef<HTMLDivElement>(null);
  const readout = useRef<HTMLSpanElement>(null);
  const press = useRef<{ y: number; strandId: string | undefined } | undefined>(undefined);
  const [dragging, setDragging] = useState(false);

  const topOf = (event: PointerEvent) => {
    const { top, height } = area.current!.getBoundingClientRect();
    return (event.clientY - top) / height;
  };
  const moveReadout = (event: PointerEvent) => {
    const span = readout.current!;
    const { left, top } = area.current!.getBoundingClientRect();
    const hz = topToHz(axis, topOf(event));
    span.textContent = `${formatHz(hz)} · ${noteName(Math.max(hz, 1))}`;
    span.style.transform = `translate(${event.clientX - left + 14}px, ${event.clientY - top - 24}px)`;
    span.hidden = false;
  };
  const drag = (event: PointerEvent) => {
    const { height } = area.current!.getBoundingClientRect();
    const { current } = press;
    if (!current || event.buttons === 0) return;
    const from = current.y;
    const to = topOf(event);
    const hzAt = (top: number) => (event.altKey ? topToHz(axis, top) : snapHz(axis, topToHz(axis, top)));
    if (current.strandId === undefined) {
      if (Math.abs(to - from) * height < DRAG_PX) return;
      setDragging(true);
      const gesture = `drag-out ${performance.now()}`;
      dragGesture.current = gesture;
      const strandId = addStrand(
        editing,
        soundBeforeFader(sound.id),
        rangeBetween(hzAt(from), hzAt(to)),
        gesture,
      );
      current.strandId = strandId;
      useUi.getState().look(projectId, { strandId });
      // Floor and range follow the sound until the pointer is let go, so that the shaped trace always says something.
      analysis.followTraces(gesture, (id, traces) => {
        const strand = editing.scene.strands.find((one) => one.id === strandId);
        if (id === strandId && strand) fitStrand(editing, strand, traces, gesture);
      });
      return;
    }
    const range = rangeBetween(hzAt(from), hzAt(to));
    editStrand(
      editing,
      current.strandId,
      "drag out a range",
      ({ measure }) => Object.assign(measure, range),
      dragGesture.current,
    );
  };
  const dragGesture = useRef<string>(undefined);
  const release = () => {
    const strandId = press.current?.strandId;
    press.current = undefined;
    setDragging(false);
    if (strandId === undefined) return;
    // The last trace of the drag may still be on its way; its fit belongs to the same step.
    const gesture = dragGesture.current;
    analysis.afterTraces(() => {
      if (dragGesture.current === gesture && !press.current) editing.endGesture();
    });
  };
  return (
    <div
      ref={area}
      className="relative col-span-2 grid min-h-0 cursor-crosshair touch-none grid-cols-[minmax(0,1fr)_130px] overflow-hidden"
      data-testid="spine-drag"
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        press.current = { y: topOf(event), strandId: undefined };
      }}
      onPointerMove={(event) => {
        moveReadout(event);
        drag(event);
      }}
      onPointerUp={release}
      onPointerCancel={release}
      onPointerLeave={() => {
        if (readout.current && !press.current) readout.current.hidden = true;
      }}
    >
      <SpectrogramCanvas axis={axis} sound={sound} />
      <SpectrumCanvas axis={axis} sound={sound} />
      {strands.map((strand) => {
        if (
          !("lowHz" in strand.measure) ||
          !(strand.listensTo.kind === "sound" && strand.listensTo.id === sound.id)
        )
          return null;
        const isChosen = strand.id === chosen?.id;
        const top = hzToTop(axis, strand.measure.highHz);
        const bottom = hzToTop(axis, strand.measure.lowHz);
        return (
          <span
            key={strand.id}
            className="pointer-events-none absolute inset-x-0 border-y"
            style={{
              top: `${top * 100}%`,
              height: `${(bottom - top) * 100}%`,
              borderColor: strandColour(strand.hue),
              opacity: isChosen ? 1 : 0.35,
              background: isChosen
                ? `color-mix(in srgb, ${strandColour(strand.hue)} ${dragging ? 26 : 14}%, transparent)`
                : undefined,
            }}
          />
        );
      })}
      {chosen?.measure.kind === "fan" && <FanLines axis={axis} measure={chosen.measure} hue={chosen.hue} />}
      <span
        ref={readout}
        hidden
        className="figures pointer-events-none absolute top-0 left-0 rounded bg-ground/90 px-1.5 py-0.5 text-xs whitespace-nowrap"
      />
    </div>
  );
}
