import { FRAME_RATE_HZ, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { sampleOf } from "@bumbrel/core/dsp/maths/samples";
import {
  axisToHz,
  type FrequencyAxis,
  SPECTROGRAM_FLOOR_DB,
  SPECTROGRAM_ROWS,
} from "@bumbrel/core/dsp/spectrum/spectrogram";
import { samplesKey } from "@bumbrel/core/sound/key";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { type PointerEvent, type RefObject, useEffect, useRef, useState } from "react";
import {
  useAnalysis,
  useEditing,
  useLibrary,
  useNumbers,
  usePlayer,
  useSamples,
} from "../../../session/context";
import { useUi } from "../../../session/viewState";
import { formatDb, formatHz, formatTenths, noteName } from "../../../ui/format";
import { SPINE_AXES } from "../../../ui/live/axis";
import { drawSamples, drawWaveform } from "../../../ui/live/drawWaveform";
import { useFrame } from "../../../ui/live/frames";
import { SpectrogramTiles } from "../../../ui/live/spectrogramTiles";
import { useCanvas } from "../../../ui/live/useCanvas";
import { themeColour } from "../../../ui/strandLook";
import { hopsOf } from "../RowFace";
import { moved, type TimeView, zoomed } from "./timeView";

interface Props {
  sound: Sound;
  view: RefObject<TimeView>;
  /** Shows the number under the pointer. */
  read(text: string | undefined): void;
}

/** Narrower than this, samples are drawn one by one. */
const SAMPLES_BELOW_S = 0.4;
const FONT = "11px 'Spline Sans Mono', monospace";

const inSeconds = (timeS: number) => `${timeS.toFixed(4)} s`;
interface PanelProps extends Props {
  label: string;
  height: number;
  draw(context: CanvasRenderingContext2D, width: number, height: number): void;
  /** Changes whenever what is drawn does, the stretch and the theme aside. */
  drawnFrom(): unknown;
  /** The number at a time and a height, 0 at the top. */
  valueAt(timeS: number, top: number): string;
  onDrag?(fromS: number, toS: number): void;
  /** After a drag has ended. */
  onDragged?(): void;
  onClick(timeS: number): void;
}

/** Something drawn over time: the wheel zooms and moves, a press seeks, and the playhead goes over it. */
function TimePanel({
  sound,
  view,
  read,
  label,
  height,
  draw,
  valueAt,
  onDrag,
  onDragged,
  onClick,
  drawnFrom,
}: PanelProps) {
  const editing = useEditing();
  const numbers = useNumbers();
  const library = useLibrary();
  const theme = useUi((state) => state.theme);
  const drawn = useRef("");
  const canvas = useCanvas(() => {
    drawn.current = "";
  });
  const playhead = useRef<HTMLSpanElement>(null);
  const pressedS = useRef<number>(undefined);
  useFrame((timeS) => {
    const context = canvas.context();
    const { width } = canvas.size.current;
    const { fromS, toS } = view.current;
    if (!context || width === 0 || toS <= fromS) return;
    const share = (numbers.positionOf(sound, timeS) - fromS) / (toS - fromS);
    if (playhead.current) {
      playhead.current.style.opacity = share >= 0 && share <= 1 ? "1" : "0";
      playhead.current.style.transform = `translateX(${Math.min(1, Math.max(0, share)) * 100}%)`;
    }
    const key = `${fromS} ${toS} ${theme} ${drawnFrom()}`;
    if (key === drawn.current) return;
    drawn.current = key;
    context.fillStyle = themeColour("sunk");
    context.fillRect(0, 0, width, height);
    draw(context, width, height);
  }, canvas.ref);
  const timeAt = (event: PointerEvent<HTMLElement>) => {
    const { left, width } = event.currentTarget.getBoundingClientRect();
    const { fromS, toS } = view.current;
    return fromS + ((event.clientX - left) / width) * (toS - fromS);
  };
  // React listens to the wheel passively; zooming must keep the page from scrolling.
  useEffect(() => {
    const element = canvas.ref.current!;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const { left, width } = element.getBoundingClientRect();
      const lengthS = library.lengthOf(sound);
      const sideways = Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey;
      const travel = event.deltaX + event.deltaY;
      view.current = sideways
        ? moved(view.current, travel / width, lengthS)
        : zoomed(view.current, 1.0025 ** event.deltaY, (event.clientX - left) / width, lengthS);
    };
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => element.removeEventListener("wheel", onWheel);
  }, [canvas.ref, view, library, sound]);
  return (
    <div className="relative overflow-hidden rounded">
      <canvas
        ref={canvas.ref}
        role="img"
        aria-label={`${label} of ${sound.name}`}
        className="w-full cursor-text touch-none rounded"
        style={{ height }}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          pressedS.current = timeAt(event);
        }}
        onPointerMove={(event) => {
          const { top, height: tall } = event.currentTarget.getBoundingClientRect();
          const timeS = timeAt(event);
          read(`${inSeconds(timeS)} · ${valueAt(timeS, (event.clientY - top) / tall)}`);
          const from = pressedS.current;
          if (from === undefined || event.buttons === 0 || !onDrag) return;
          const { fromS, toS } = view.current;
          if (Math.abs(timeS - from) > (toS - fromS) * 0.01)
            onDrag(Math.min(from, timeS), Math.max(from, timeS));
        }}
        onPointerUp={(event) => {
          const { fromS, toS } = view.current;
          const timeS = timeAt(event);
          const from = pressedS.current;
          pressedS.current = undefined;
          editing.endGesture();
          if (from === undefined) return;
          if (!onDrag || Math.abs(timeS - from) <= (toS - fromS) * 0.01) onClick(timeS);
          else onDragged?.();
        }}
        onPointerLeave={() => read(undefined)}
      />
      <span ref={playhead} className="pointer-events-none absolute inset-0 border-l-2 border-brass" />
    </div>
  );
}

/** The waveform, down to single samples; a drag loops a stretch of the tape. */
export function WaveformLook({ canLoop, ...props }: Props & { canLoop: boolean }) {
  const { sound, view } = props;
  const editing = useEditing();
  const numbers = useNumbers();
  const player = usePlayer();
  const library = useLibrary();
  const key = samplesKey(sound)!;
  return (
    <TimePanel
      {...props}
      label={canLoop ? "Waveform, drag to loop a stretch," : "Waveform"}
      height={110}
      onClick={(timeS) => numbers.seekSound(sound, timeS)}
      onDrag={
        canLoop
          ? (fromS, toS) =>
              editing.edit(
                "loop a stretch",
                (scene) => {
                  scene.loop = true;
                  scene.stretch = { fromS: Math.max(0, fromS), toS };
                },
                "stretch",
              )
          : undefined
      }
      onDragged={() => {
        const { stretch } = editing.scene;
        const positionS = player.transport.positionS();
        if (stretch && (positionS < stretch.fromS || positionS > stretch.toS))
          numbers.seekSound(sound, stretch.fromS);
      }}
      drawnFrom={() =>
        `${library.waveforms.get(key)?.hopsReady} ${library.sounds.has(key)} ${JSON.stringify(editing.scene.stretch)}`
      }
      draw={(context, width, height) => {
        const { fromS, toS } = view.current;
        const { stretch } = editing.scene;
        if (canLoop && stretch) {
          context.fillStyle = themeColour("raised");
          const x = ((stretch.fromS - fromS) / (toS - fromS)) * width;
          context.fillRect(x, 0, ((stretch.toS - stretch.fromS) / (toS - fromS)) * width, height);
        }
        context.fillStyle = themeColour("rule");
        context.fillRect(0, height / 2, width, 1);
        context.fillStyle = context.strokeStyle = themeColour("mist");
        const loaded = library.sounds.get(key);
        const waveform = library.waveforms.get(key);
        if (loaded && toS - fromS < SAMPLES_BELOW_S) {
          drawSamples(context, loaded.mono, fromS * SAMPLE_RATE_HZ, toS * SAMPLE_RATE_HZ, width, height);
        } else if (waveform) {
          drawWaveform(context, waveform.pairs, hopsOf(fromS), hopsOf(toS), width, height);
        }
      }}
      valueAt={(timeS) => {
        const loaded = library.sounds.get(key);
        const sample = loaded ? sampleOf(loaded.mono, Math.round(timeS * SAMPLE_RATE_HZ)) : 0;
        return `sample ${sample.toFixed(4).replace("-", "−")} · ${formatDb(Math.abs(sample))}`;
      }}
    />
  );
}

/** Level over frequency and time. */
export function SpectrogramLook({ axis: kind, ...props }: Props & { axis: FrequencyAxis["kind"] }) {
  const { sound, view } = props;
  const numbers = useNumbers();
  const analysis = useAnalysis();
  const theme = useUi((state) => state.theme);
  const [tiles] = useState(() => new SpectrogramTiles());
  const key = samplesKey(sound)!;
  const viewer = `look ${sound.id}`;
  const axis = SPINE_AXES[kind];
  const samples = useSamples(key).loaded?.mono.length ?? 0;
  useEffect(
    () => analysis.showSpectrogram(viewer, key, samples, axis, 2048),
    [analysis, viewer, key, axis, samples],
  );
  useEffect(() => () => analysis.hideSpectrogram(viewer), [analysis, viewer]);
  return (
    <TimePanel
      {...props}
      label="Spectrogram"
      height={130}
      onClick={(timeS) => numbers.seekSound(sound, timeS)}
      drawnFrom={() => `${kind} ${analysis.spectrograms.get(viewer)?.framesReady}`}
      draw={(context, width, height) => {
        const spectrogram = analysis.spectrograms.get(viewer);
        if (!spectrogram) return;
        const { fromS, toS } = view.current;
        const pxPerFrame = width / ((toS - fromS) * FRAME_RATE_HZ);
        tiles.draw(context, spectrogram, theme, fromS * FRAME_RATE_HZ, pxPerFrame, width, height);
      }}
      valueAt={(timeS, top) => {
        const hz = axisToHz(axis, 1 - Math.min(1, Math.max(0, top)));
        const spectrogram = analysis.spectrograms.get(viewer);
        const row = Math.min(SPECTROGRAM_ROWS - 1, Math.floor((1 - top) * SPECTROGRAM_ROWS));
        const value = spectrogram?.levels[Math.round(timeS * FRAME_RATE_HZ) * SPECTROGRAM_ROWS + row] ?? 0;
        const db = SPECTROGRAM_FLOOR_DB * (1 - value / 255);
        const level = value === 0 ? `under ${SPECTROGRAM_FLOOR_DB} dB` : `${db.toFixed(1)} dB`;
        return `${formatHz(hz)} · ${noteName(Math.max(1, hz))} · ${level.replace("-", "−")}`;
      }}
    />
  );
}

const LOUDEST_LUFS = 0;
const QUIETEST_LUFS = -60;

/** Momentary and short-term loudness, and the integrated one as a line. */
export function LoudnessLook(props: Props) {
  const { sound, view } = props;
  const numbers = useNumbers();
  const library = useLibrary();
  const analysis = useAnalysis();
  const key = samplesKey(sound)!;
  const { loaded } = useSamples(key);
  useEffect(() => {
    if (loaded) analysis.request("loudness", key);
  }, [analysis, key, loaded]);
  const yOf = (lufs: number, height: number) =>
    ((LOUDEST_LUFS - Math.max(QUIETEST_LUFS, lufs)) / (LOUDEST_LUFS - QUIETEST_LUFS)) * height;
  return (
    <TimePanel
      {...props}
      label="Loudness"
      height={100}
      onClick={(timeS) => numbers.seekSound(sound, timeS)}
      drawnFrom={() => analysis.loudness.has(key)}
      draw={(context, width, height) => {
        context.font = FONT;
        for (const lufs of [-20, -40]) {
          context.fillStyle = themeColour("rule");
          context.fillRect(0, yOf(lufs, height), width, 1);
          context.fillStyle = themeColour("mist");
          context.fillText(`−${-lufs} LUFS`, 4, yOf(lufs, height) - 3);
        }
        const curves = analysis.loudness.get(key);
        if (!curves) {
          context.fillText("Measuring the loudness …", width / 2 - 70, height / 2);
          return;
        }
        const { fromS, toS } = view.current;
        for (const [curve, colour, thick] of [
          [curves.momentary, "mist", 1],
          [curves.shortTerm, "paper", 2],
        ] as const) {
          context.beginPath();
          for (let x = 0; x <= width; x++) {
            const frame = Math.round((fromS + (x / width) * (toS - fromS)) * FRAME_RATE_HZ);
            context.lineTo(x, yOf(curve[Math.min(curve.length - 1, frame)] ?? QUIETEST_LUFS, height));
          }
          context.strokeStyle = themeColour(colour);
          context.lineWidth = thick;
          context.stroke();
        }
        const integrated = library.facts.get(key)?.integratedLufs;
        if (typeof integrated !== "number") return;
        context.fillStyle = themeColour("brass");
        context.fillRect(0, yOf(integrated, height), width, 1);
        context.fillText(`integrated ${formatTenths(integrated)}`, width - 110, yOf(integrated, height) - 3);
      }}
      valueAt={(timeS) => {
        const curves = analysis.loudness.get(key);
        const frame = Math.round(timeS * FRAME_RATE_HZ);
        return `momentary ${formatTenths(curves?.momentary[frame])} · short-term ${formatTenths(curves?.shortTerm[frame])} LUFS`;
      }}
    />
  );
}
