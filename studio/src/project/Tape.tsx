import { HOP_SAMPLES, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { levelToDb } from "@bumbrel/core/dsp/decibel";
import { samplesKey } from "@bumbrel/core/scene/soundSource";
import { Pause, Play, Repeat, SkipBack } from "lucide-react";
import { type PointerEvent, useEffect, useRef } from "react";
import { IconButton } from "../ui/Button";
import { drawWaveform } from "../ui/drawWaveform";
import { formatDb, formatTime } from "../ui/format";
import { LiveBar } from "../ui/LiveBar";
import { LiveText } from "../ui/LiveText";
import { themeColour } from "../ui/strandLook";
import { useCanvas } from "../ui/useCanvas";
import { useFrame, useSnapshot, useWorkbench } from "./context";
import { useUi } from "./ui";
import { useTransport } from "./useTransport";

/** Quietest level the meter shows. */
const METER_FLOOR_DB = -60;

/** The strip at the bottom of every view: play, position, waveform, level. */
export function Tape() {
  const workbench = useWorkbench();
  const { scene } = useSnapshot();
  const { transport } = workbench.player;
  const { state, durationS } = useTransport();
  const isEmpty = durationS === 0;
  const loadingCount = workbench.loading.size;
  const level = (timeS: number) => heardLevel(workbench, timeS);
  return (
    <footer className="grid grid-cols-[auto_auto_minmax(0,1fr)_170px] items-center gap-4 border-t border-rule bg-sunk px-4">
      <div className="flex items-center gap-1">
        <IconButton label="To the start" disabled={isEmpty} onClick={() => transport.seek(0)}>
          <SkipBack size={17} />
        </IconButton>
        <button
          type="button"
          aria-label={state === "playing" ? "Pause" : "Play"}
          title={`${state === "playing" ? "Pause" : "Play"} (Space)`}
          disabled={isEmpty}
          onClick={() => transport.toggle()}
          className="grid size-11 place-content-center rounded-full bg-brass text-on-brass transition hover:brightness-110 disabled:opacity-35"
        >
          {state === "playing" ? (
            <Pause size={20} fill="currentColor" />
          ) : (
            <Play size={20} fill="currentColor" />
          )}
        </button>
        <IconButton
          label={scene.loop ? "Stop looping" : "Loop"}
          aria-pressed={scene.loop}
          className={scene.loop ? "text-brass" : "text-mist"}
          onClick={() =>
            workbench.edit("switch looping", (draft) => {
              draft.loop = !draft.loop;
            })
          }
        >
          <Repeat size={17} />
        </IconButton>
      </div>
      <div className="flex items-baseline gap-1.5 whitespace-nowrap">
        <LiveText text={formatTime} className="min-w-[4.2em] text-right text-xl" />
        <span className="figures text-sm text-mist">/ {formatTime(durationS)}</span>
      </div>
      {isEmpty ? (
        <p className="text-mist">
          {loadingCount > 0
            ? `Fetching ${loadingCount === 1 ? "the sound" : `${loadingCount} sounds`} …`
            : "No sound yet. Add one in the Sounds view."}
        </p>
      ) : (
        <TapeWaveform />
      )}
      <div className="grid gap-1">
        <div className="flex justify-between text-sm text-mist">
          <span>Level</span>
          <LiveText text={(timeS) => formatDb(level(timeS))} className="text-paper" />
        </div>
        <LiveBar
          colour="var(--brass)"
          className="h-1.5"
          value={(timeS) => 1 - Math.max(METER_FLOOR_DB, levelToDb(level(timeS))) / METER_FLOOR_DB}
        />
      </div>
    </footer>
  );
}

/** Peak of what is heard around a time while playing; 0 while paused. */
function heardLevel(workbench: ReturnType<typeof useWorkbench>, timeS: number): number {
  if (workbench.player.transport.state !== "playing") return 0;
  let peak = 0;
  for (const one of workbench.scene.sounds) {
    const sound = one.heard ? workbench.sounds.get(samplesKey(one)) : undefined;
    if (!sound) continue;
    const centre = Math.round(timeS * SAMPLE_RATE_HZ);
    const from = Math.max(0, centre - HOP_SAMPLES * 2);
    const to = Math.min(sound.mono.length, centre + HOP_SAMPLES * 2);
    for (let i = from; i < to; i++) peak = Math.max(peak, Math.abs(sound.mono[i]));
  }
  return peak;
}

function TapeWaveform() {
  const workbench = useWorkbench();
  const { projectId } = workbench;
  const { dataVersion, scene } = useSnapshot();
  const theme = useUi((state) => state.theme);
  const { transport } = workbench.player;
  const { durationS } = useTransport();
  const canvas = useCanvas(() => drawWave());
  const playhead = useRef<HTMLSpanElement>(null);
  const track = useRef<HTMLDivElement>(null);

  const drawWave = () => {
    const context = canvas.context();
    if (!context) return;
    const { width, height } = canvas.size.current;
    context.clearRect(0, 0, width, height);
    const heard =
      scene.sounds.find((sound) => sound.heard && workbench.sounds.has(samplesKey(sound))) ?? scene.sounds[0];
    const wave = heard && workbench.waveform(samplesKey(heard));
    const sound = heard && workbench.sounds.get(samplesKey(heard));
    if (!wave || !sound) return;
    context.fillStyle = themeColour("mist");
    const share = sound.mono.length / SAMPLE_RATE_HZ / transport.durationS;
    drawWaveform(context, wave, width * share, height);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: these are what the drawing reads
  useEffect(drawWave, [dataVersion, theme, durationS, scene.sounds]);
  useFrame((timeS) => {
    if (playhead.current && track.current) {
      const share = transport.durationS > 0 ? timeS / transport.durationS : 0;
      playhead.current.style.transform = `translateX(${share * track.current.clientWidth}px)`;
      track.current.setAttribute("aria-valuenow", timeS.toFixed(1));
    }
  });
  const seek = (event: PointerEvent<HTMLDivElement>) => {
    const { left, width } = event.currentTarget.getBoundingClientRect();
    transport.seek(((event.clientX - left) / width) * transport.durationS);
    useUi.getState().look(projectId, { positionS: transport.positionS() });
  };
  return (
    <div
      ref={track}
      role="slider"
      tabIndex={0}
      aria-label="Position in seconds"
      aria-valuemin={0}
      aria-valuemax={durationS}
      aria-valuenow={0}
      className="relative h-14 cursor-text touch-none"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        seek(event);
      }}
      onPointerMove={(event) => event.buttons > 0 && seek(event)}
      onKeyDown={(event) => {
        const by = { ArrowRight: 1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[event.key];
        if (by) transport.seek(transport.positionS() + by);
        if (event.key === "Home") transport.seek(0);
        if (event.key === "End") transport.seek(transport.durationS);
      }}
    >
      <canvas ref={canvas.ref} className="h-full w-full" />
      <span ref={playhead} className="absolute inset-y-0 left-0 w-0.5 bg-brass" />
    </div>
  );
}
