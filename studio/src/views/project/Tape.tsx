import { FRAME_RATE_HZ } from "@bumbrel/core/constants";
import { levelToDb } from "@bumbrel/core/dsp/level/decibel";
import { TICK_STRENGTHS } from "@bumbrel/core/sound/beats";
import { samplesKey } from "@bumbrel/core/sound/key";
import { signalOf } from "@bumbrel/core/sound/soundSignal";
import { OUTPUT_ID } from "@bumbrel/player/audio/mixer";
import { Pause, Play, Repeat, Scaling, SkipBack } from "lucide-react";
import { type PointerEvent, useEffect, useRef } from "react";
import {
  useEditing,
  useLibrary,
  usePlayer,
  useProjectId,
  useResult,
  useScene,
  useSession,
  useTransport,
} from "../../session/context";
import { useUi } from "../../session/viewState";
import { IconButton } from "../../ui/Button";
import { formatDb, formatTime } from "../../ui/format";
import { drawWaveform } from "../../ui/live/drawWaveform";
import { useFrame } from "../../ui/live/frames";
import { LiveBar } from "../../ui/live/LiveBar";
import { LiveText } from "../../ui/live/LiveText";
import { useCanvas } from "../../ui/live/useCanvas";
import { themeColour } from "../../ui/strandLook";
import { FindSections } from "./FindSections";
import { AnswerTicks, MarkHere, TakeTicks, TapeMarks } from "./TapeMarks";

/** Quietest level the meter shows. */
const METER_FLOOR_DB = -60;

/** The strip at the bottom of every view: play, position, waveform, level. */
export function Tape() {
  const editing = useEditing();
  const player = usePlayer();
  const { meters } = useSession();
  const { loop, stretch } = useScene((scene) => ({ loop: scene.loop, stretch: scene.stretch }));
  const loadingCount = useResult(({ library }) => library.loading.size);
  const { transport } = player;
  const { state, durationS } = useTransport();
  const isEmpty = durationS === 0;
  // A tape without sounds would run on without an end.
  const isWaiting = isEmpty && loadingCount > 0;
  const level = () => meters.read(OUTPUT_ID).level;
  return (
    <footer className="grid grid-cols-[auto_auto_minmax(0,1fr)_170px] items-center gap-4 border-t border-rule bg-sunk px-4">
      <div className="flex items-center gap-1">
        <IconButton label="To the start" disabled={isWaiting} onClick={() => transport.seek(0)}>
          <SkipBack size={17} />
        </IconButton>
        <button
          type="button"
          aria-label={state === "playing" ? "Pause" : "Play"}
          title={`${state === "playing" ? "Pause" : "Play"} (Space)`}
          disabled={isWaiting}
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
          label={loop ? "Stop looping" : "Loop"}
          aria-pressed={loop}
          className={loop ? "text-brass" : "text-mist"}
          onClick={() =>
            editing.edit("switch looping", (draft) => {
              draft.loop = !draft.loop;
            })
          }
        >
          <Repeat size={17} />
        </IconButton>
        <MarkHere />
        <FindSections />
        {stretch && (
          <IconButton
            label="Loop the whole tape, not only the stretch"
            onClick={() =>
              editing.edit("loop the whole tape", (draft) => {
                draft.stretch = null;
              })
            }
          >
            <Scaling size={16} />
          </IconButton>
        )}
      </div>
      <div className="flex items-baseline gap-1.5 whitespace-nowrap">
        <LiveText text={() => formatTime(player.tapeS)} className="min-w-[4.2em] text-right text-xl" />
        {!isEmpty && <span className="figures text-sm text-mist">/ {formatTime(durationS)}</span>}
      </div>
      {isEmpty ? (
        <p className="text-mist">
          {loadingCount > 0
            ? `Fetching ${loadingCount === 1 ? "the sound" : `${loadingCount} sounds`} …`
            : "No sound on the tape: it runs on until it is paused."}
        </p>
      ) : (
        <TapeWaveform />
      )}
      <div className="grid gap-1">
        <div className="flex justify-between text-sm text-mist">
          <span>Level</span>
          <LiveText text={() => formatDb(level())} className="text-paper" />
        </div>
        <LiveBar
          colour="var(--brass)"
          className="h-1.5"
          value={() => 1 - Math.max(METER_FLOOR_DB, levelToDb(level())) / METER_FLOOR_DB}
        />
      </div>
    </footer>
  );
}

function TapeWaveform() {
  const player = usePlayer();
  const library = useLibrary();
  const projectId = useProjectId();
  const scene = useScene(({ sounds, groups, loop, stretch }) => ({ sounds, groups, loop, stretch }));
  const loaded = useResult(({ library }) => scene.sounds.map((sound) => library.soundOf(sound)));
  const theme = useUi((state) => state.theme);
  const { transport } = player;
  const { durationS } = useTransport();
  const canvas = useCanvas(() => drawWave());
  const playhead = useRef<HTMLSpanElement>(null);
  const track = useRef<HTMLDivElement>(null);

  const drawWave = () => {
    const context = canvas.context();
    if (!context) return;
    const { width, height } = canvas.size.current;
    context.clearRect(0, 0, width, height);
    const { stretch } = scene;
    const pxPerS = width / transport.durationS;
    if (scene.loop && stretch) {
      context.fillStyle = themeColour("raised");
      context.fillRect(stretch.fromS * pxPerS, 0, (stretch.toS - stretch.fromS) * pxPerS, height);
    }
    const shown =
      scene.sounds.find((sound) => sound.heard && library.soundOf(sound)) ??
      scene.sounds.find((sound) => library.soundOf(sound));
    const waveform = shown && library.waveforms.get(samplesKey(shown)!);
    if (!shown || !waveform) return;
    context.fillStyle = themeColour("mist");
    const hopsPerPx = FRAME_RATE_HZ / pxPerS;
    const own = Math.min(width, Math.ceil(library.lengthOf(shown) * pxPerS));
    drawWaveform(context, waveform.pairs, 0, own * hopsPerPx, own, height);
    drawTicks(context, pxPerS, height);
  };
  /** Cues of clocks and notes along the foot, where there is room to tell them apart. */
  const drawTicks = (context: CanvasRenderingContext2D, pxPerS: number, height: number) => {
    for (const sound of scene.sounds) {
      const loaded = library.soundOf(sound);
      const beats = loaded && signalOf(sound, loaded).beats;
      if (!beats || ("on" in sound && !sound.on)) continue;
      const cues = beats.ticks(0, library.lengthOf(sound));
      const room = (cues.length / Math.max(0.1, library.lengthOf(sound))) * 3 < pxPerS;
      context.fillStyle = themeColour("brass");
      for (const { timeS, strength } of cues) {
        if (!room && strength < TICK_STRENGTHS.bar) continue;
        const tall = 3 + 8 * strength;
        context.fillRect(timeS * pxPerS, height - tall, 1, tall);
      }
    }
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: these are what the drawing reads
  useEffect(drawWave, [loaded, theme, durationS, scene.sounds, scene.loop, scene.stretch]);
  useFrame(() => {
    const timeS = player.tapeS;
    if (playhead.current && track.current) {
      const share = transport.durationS > 0 ? timeS / transport.durationS : 0;
      playhead.current.style.transform = `translateX(${share * 100}%)`;
      const shown = timeS.toFixed(1);
      if (track.current.ariaValueNow !== shown) track.current.ariaValueNow = shown;
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
      <AnswerTicks />
      <TakeTicks />
      <TapeMarks />
      <span ref={playhead} className="pointer-events-none absolute inset-0 border-l-2 border-brass" />
    </div>
  );
}
