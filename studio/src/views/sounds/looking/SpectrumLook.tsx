import { levelToDb } from "@bumbrel/core/dsp/level/decibel";
import { bandLevel } from "@bumbrel/core/dsp/spectrum/bands";
import { axisBands, axisToHz, type FrequencyAxis, hzToAxis } from "@bumbrel/core/dsp/spectrum/spectrogram";
import { PowerSpectrum } from "@bumbrel/core/dsp/spectrum/spectrum";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { useMemo, useRef, useState } from "react";
import { useNumbers } from "../../../session/context";
import { type LookTools, useUi } from "../../../session/viewState";
import { formatDb, formatHz, noteName } from "../../../ui/format";
import { AXIS_TICKS, SPINE_AXES } from "../../../ui/live/axis";
import { useFrame } from "../../../ui/live/frames";
import { Layer } from "../../../ui/live/layer";
import { useCanvas } from "../../../ui/live/useCanvas";
import { themeColour } from "../../../ui/strandLook";

const FFT_SIZE = 4096;
const COLUMNS = 220;
/** Bars are wider than columns, so that each can be told from its neighbours. */
const BAR_COLUMNS = 4;
const HEIGHT = 130;
const FLOOR_DB = -90;
const FOOT = 16;

interface Props {
  sound: Sound;
  other: Sound | undefined;
  axis: FrequencyAxis["kind"];
  tools: LookTools;
  read(text: string | undefined): void;
}

/** The spectrum at this instant, of one sound or of two over each other. */
export function SpectrumLook({ sound, other, axis: kind, tools, read }: Props) {
  const numbers = useNumbers();
  const canvas = useCanvas();
  const axis = SPINE_AXES[kind];
  const measuring = useMemo(() => {
    const spectrum = new PowerSpectrum(FFT_SIZE, "hann");
    return {
      spectrum,
      powers: new Float32Array(spectrum.binCount),
      bands: axisBands(COLUMNS, axis, FFT_SIZE),
      levels: new Float32Array(COLUMNS),
      otherLevels: new Float32Array(COLUMNS),
    };
  }, [axis]);
  const theme = useUi((state) => state.theme);
  const [grid] = useState(() => new Layer());
  const pointer = useRef<number>(undefined);
  const measure = (one: Sound, timeS: number, levels: Float32Array) => {
    const now = numbers.samplesAt(one, timeS, FFT_SIZE);
    if (!now) return levels.fill(0);
    const { spectrum, powers, bands } = measuring;
    spectrum.at(now.samples, now.centre, powers);
    for (let column = 0; column < COLUMNS; column++) levels[column] = bandLevel(powers, 0, bands[column]);
    return levels;
  };
  const shareOf = (level: number) =>
    tools.level === "linear" ? Math.min(1, level) : 1 - Math.max(FLOOR_DB, levelToDb(level)) / FLOOR_DB;
  useFrame((timeS) => {
    const context = canvas.context();
    const { width } = canvas.size.current;
    if (!context || width === 0) return;
    const tall = HEIGHT - FOOT;
    context.fillStyle = themeColour("sunk");
    context.fillRect(0, 0, width, HEIGHT);
    const { levels, otherLevels } = measuring;
    drawLevels(context, measure(sound, timeS, levels), shareOf, tools.style, "paper", width, tall);
    if (other) {
      drawLevels(context, measure(other, timeS, otherLevels), shareOf, "line", "brass", width, tall);
    }
    grid.lay(context, `${kind} ${tools.level} ${theme}`, width, HEIGHT, (layer) =>
      drawGrid(layer, axis, tools, width, tall),
    );
    const { current: at } = pointer;
    if (at === undefined) return;
    const hz = axisToHz(axis, at);
    const column = Math.min(COLUMNS - 1, Math.floor(at * COLUMNS));
    const beside = other ? ` · ${other.name} ${formatDb(otherLevels[column])}` : "";
    read(`${formatHz(hz)} · ${noteName(Math.max(1, hz))} · ${formatDb(levels[column])}${beside}`);
    context.fillStyle = themeColour("mist");
    context.fillRect(at * width, 0, 1, tall);
  }, canvas.ref);
  return (
    <canvas
      ref={canvas.ref}
      role="img"
      aria-label={other ? `Spectra of ${sound.name} and ${other.name} now` : `Spectrum of ${sound.name} now`}
      className="w-full rounded"
      style={{ height: HEIGHT }}
      onPointerMove={(event) => {
        const { left, width } = event.currentTarget.getBoundingClientRect();
        pointer.current = Math.min(1, Math.max(0, (event.clientX - left) / width));
      }}
      onPointerLeave={() => {
        pointer.current = undefined;
        read(undefined);
      }}
    />
  );
}

function drawGrid(
  context: OffscreenCanvasRenderingContext2D,
  axis: FrequencyAxis,
  { level }: LookTools,
  width: number,
  height: number,
): void {
  context.font = "11px 'Spline Sans Mono', monospace";
  for (const hz of AXIS_TICKS[axis.kind]) {
    const x = hzToAxis(axis, hz) * width;
    context.fillStyle = themeColour("rule");
    context.fillRect(x, 0, 1, height);
    context.fillStyle = themeColour("mist");
    const text = hz >= 1000 ? `${hz / 1000}k` : String(hz);
    context.fillText(text, Math.min(width - 24, x - 8), height + 12);
  }
  const lines = level === "dB" ? [-30, -60] : [0.25, 0.5, 0.75];
  for (const line of lines) {
    const y = height * (level === "dB" ? line / FLOOR_DB : 1 - line);
    context.fillStyle = themeColour("rule");
    context.fillRect(0, y, width, 1);
    context.fillStyle = themeColour("mist");
    context.fillText(level === "dB" ? `−${-line} dB` : String(line), 4, y - 3);
  }
}

function drawLevels(
  context: CanvasRenderingContext2D,
  levels: Float32Array,
  shareOf: (level: number) => number,
  style: LookTools["style"],
  colour: string,
  width: number,
  height: number,
): void {
  context.fillStyle = context.strokeStyle = themeColour(colour);
  if (style === "bars") {
    const bars = levels.length / BAR_COLUMNS;
    for (let bar = 0; bar < bars; bar++) {
      let level = 0;
      for (let k = 0; k < BAR_COLUMNS; k++) level = Math.max(level, levels[bar * BAR_COLUMNS + k]);
      const tall = shareOf(level) * height;
      context.fillRect((bar / bars) * width + 1, height - tall, width / bars - 2, tall);
    }
    return;
  }
  context.beginPath();
  levels.forEach((level, column) => {
    context.lineTo(((column + 0.5) / levels.length) * width, height * (1 - shareOf(level)));
  });
  context.lineWidth = 1.4;
  context.stroke();
  if (style !== "filled") return;
  context.lineTo(width, height);
  context.lineTo(0, height);
  context.globalAlpha = 0.18;
  context.fill();
  context.globalAlpha = 1;
}
