import { levelToDb } from "@bumbrel/core/dsp/level/decibel";
import { bandLevel } from "@bumbrel/core/dsp/spectrum/bands";
import { axisBands, type FrequencyAxis } from "@bumbrel/core/dsp/spectrum/spectrogram";
import { PowerSpectrum } from "@bumbrel/core/dsp/spectrum/spectrum";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { useMemo, useState } from "react";
import { useNumbers } from "../../../session/context";
import { useUi } from "../../../session/viewState";
import { useFrame } from "../../../ui/live/frames";
import { Layer } from "../../../ui/live/layer";
import { useCanvas } from "../../../ui/live/useCanvas";
import { themeColour } from "../../../ui/strandLook";

const FFT_SIZE = 4096;
const ROWS = 160;
const FLOOR_DB = -90;
const GRID_DB = [-60, -30];

/** The spectrum at this instant, lying along the spine: level goes right, frequency up. */
export function SpectrumCanvas({ axis, sound }: { axis: FrequencyAxis; sound: Sound }) {
  const numbers = useNumbers();
  const canvas = useCanvas();
  const theme = useUi((state) => state.theme);
  const [grid] = useState(() => new Layer());
  const measuring = useMemo(() => {
    const spectrum = new PowerSpectrum(FFT_SIZE, "hann");
    return { spectrum, powers: new Float32Array(spectrum.binCount), bands: axisBands(ROWS, axis, FFT_SIZE) };
  }, [axis]);

  useFrame((timeS) => {
    const context = canvas.context();
    const { width, height } = canvas.size.current;
    if (!context || width === 0) return;
    context.fillStyle = themeColour("sunk");
    context.fillRect(0, 0, width, height);
    const now = numbers.samplesAt(sound, timeS, FFT_SIZE);
    if (!now) return;
    const { spectrum, powers, bands } = measuring;
    spectrum.at(now.samples, now.centre, powers);
    context.beginPath();
    context.moveTo(0, height);
    for (let row = 0; row < ROWS; row++) {
      const db = Math.max(FLOOR_DB, levelToDb(bandLevel(powers, 0, bands[row])));
      context.lineTo(width * (1 - db / FLOOR_DB), height * (1 - (row + 0.5) / ROWS));
    }
    context.lineTo(0, 0);
    context.fillStyle = themeColour("paper");
    context.globalAlpha = 0.16;
    context.fill();
    context.globalAlpha = 1;
    context.strokeStyle = themeColour("paper");
    context.lineWidth = 1.25;
    context.stroke();
    grid.lay(context, theme, width, height, (layer) => {
      layer.font = "11px 'Spline Sans Mono', monospace";
      for (const db of GRID_DB) {
        const x = width * (1 - db / FLOOR_DB);
        layer.fillStyle = themeColour("rule");
        layer.fillRect(x, 0, 1, height);
        layer.fillStyle = themeColour("mist");
        layer.fillText(String(db).replace("-", "−"), x + 4, 12);
      }
    });
  });
  return (
    <canvas
      ref={canvas.ref}
      className="h-full w-full border-l border-rule"
      role="img"
      aria-label={`Spectrum of ${sound.name} now`}
    />
  );
}
