import { FRAME_RATE_HZ, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrum/spectrogram";
import { samplesKey } from "@bumbrel/core/sound/key";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { useEffect, useRef, useState } from "react";
import { useAnalysis, useLibrary, useNumbers, usePlayer, useResult } from "../../../session/context";
import { useUi } from "../../../session/viewState";
import { useFrame } from "../../../ui/live/frames";
import { LiveSpectrogram } from "../../../ui/live/liveSpectrogram";
import { SpectrogramTiles } from "../../../ui/live/spectrogramTiles";
import { useCanvas } from "../../../ui/live/useCanvas";
import { themeColour } from "../../../ui/strandLook";

const WINDOW_S = 8;
/** Position of "now" once there is enough past to fill the width. */
const NOW_SHARE = 0.8;
const FFT_SIZE = 4096;
const VIEWER = "spine";
const LIVE_WORDS = "Live: switch it on in the Sounds view, and it moves along here.";

/** Time goes right, frequency up; what is still to come is dimmed. */
export function SpectrogramCanvas({ axis, sound }: { axis: FrequencyAxis; sound: Sound }) {
  const numbers = useNumbers();
  const player = usePlayer();
  const library = useLibrary();
  const analysis = useAnalysis();
  const theme = useUi((state) => state.theme);
  const canvas = useCanvas();
  const key = samplesKey(sound);
  const samples = useResult(({ library }) => key && library.sounds.get(key)?.mono.length);
  const [tiles] = useState(() => new SpectrogramTiles());
  const live = useRef<LiveSpectrogram>(undefined);
  const inputId = sound.kind === "input" ? sound.id : undefined;
  useEffect(() => {
    const { live: sounds } = player;
    live.current = undefined;
    if (!sounds || inputId === undefined) return;
    const moving = new LiveSpectrogram(WINDOW_S * FRAME_RATE_HZ, axis, FFT_SIZE);
    live.current = moving;
    // Draw the past from before it was shown.
    const known = sounds.inputs.get(inputId);
    if (known?.state.kind === "running") moving.take(known.history, WINDOW_S * SAMPLE_RATE_HZ);
    return sounds.tap(inputId, ([samples]) => {
      const input = sounds.inputs.get(inputId);
      if (input) moving.take(input.history, samples.length);
    });
  }, [player, inputId, axis]);

  useEffect(() => {
    if (key && samples) analysis.showSpectrogram(VIEWER, key, samples, axis, FFT_SIZE);
  }, [analysis, key, axis, samples]);
  useEffect(() => () => analysis.hideSpectrogram(VIEWER), [analysis]);

  useFrame((timeS) => {
    const context = canvas.context();
    const { width, height } = canvas.size.current;
    if (!context || width === 0) return;
    context.fillStyle = themeColour("sunk");
    context.fillRect(0, 0, width, height);
    if (live.current && live.current.count > 0) {
      live.current.draw(context, theme, width, height);
      return;
    }
    const spectrogram = analysis.spectrograms.get(VIEWER);
    if (key === undefined || !spectrogram || spectrogram.key !== key || spectrogram.framesReady === 0) {
      const failure = key === undefined ? LIVE_WORDS : library.failures.get(key);
      const share = key === undefined ? undefined : library.loading.get(key);
      context.fillStyle = themeColour("mist");
      context.font = "14px 'Atkinson Hyperlegible Next Variable', sans-serif";
      context.textAlign = "center";
      const words =
        failure ??
        (share === undefined
          ? "Drawing the spectrogram …"
          : `Fetching ${sound.name} … ${Math.round(share * 100)} %`);
      context.fillText(words, width / 2, height / 2, width - 20);
      return;
    }
    const ownS = numbers.positionOf(sound, timeS);
    const from = Math.max(0, ownS - WINDOW_S * NOW_SHARE);
    const pxPerFrame = width / (WINDOW_S * FRAME_RATE_HZ);
    tiles.draw(context, spectrogram, theme, from * FRAME_RATE_HZ, pxPerFrame, width, height);
    const now = (ownS - from) * FRAME_RATE_HZ * pxPerFrame;
    context.globalAlpha = 0.5;
    context.fillStyle = themeColour("sunk");
    context.fillRect(now, 0, width - now, height);
    context.globalAlpha = 1;
    context.fillStyle = themeColour("brass");
    context.fillRect(now - 0.75, 0, 1.5, height);
  });
  return (
    <canvas
      ref={canvas.ref}
      className="h-full w-full"
      role="img"
      aria-label={`Spectrogram of ${sound.name}`}
    />
  );
}
