import { FRAME_RATE_HZ } from "@bumbrel/core/constants";
import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrogram";
import type { Sound } from "@bumbrel/core/scene/document";
import { samplesKey } from "@bumbrel/core/scene/soundSource";
import { useEffect, useRef } from "react";
import { SPECTROGRAM_ROWS } from "../analysis/messages";
import { useFrame, useSnapshot, useWorkbench } from "../project/context";
import { useUi } from "../project/ui";
import type { SpectrogramPicture } from "../project/workbench";
import { themeColour } from "../ui/strandLook";
import { useCanvas } from "../ui/useCanvas";
import { levelColours } from "./levelColours";

const WINDOW_S = 8;
/** Where "now" stands once there is enough past to fill the picture. */
const NOW_SHARE = 0.8;
const TILE_FRAMES = 512;
const FFT_SIZE = 4096;

/** Time goes right, frequency up; what is still to come is dimmed. */
export function SpectrogramCanvas({ axis, sound }: { axis: FrequencyAxis; sound: Sound }) {
  const workbench = useWorkbench();
  const { dataVersion } = useSnapshot();
  const theme = useUi((state) => state.theme);
  const canvas = useCanvas();
  const key = samplesKey(sound);
  const tiles = useRef<{
    picture: SpectrogramPicture;
    theme: string;
    drawn: number;
    images: OffscreenCanvas[];
  }>(undefined);

  // biome-ignore lint/correctness/useExhaustiveDependencies: a sound that arrives is asked for again
  useEffect(() => {
    workbench.showSpectrogram(key, axis, FFT_SIZE);
  }, [workbench, key, axis, dataVersion]);

  useFrame((timeS) => {
    const context = canvas.context();
    const { width, height } = canvas.size.current;
    if (!context || width === 0) return;
    context.fillStyle = themeColour("sunk");
    context.fillRect(0, 0, width, height);
    const { spectrogram: picture } = workbench;
    if (!picture || picture.key !== key || picture.framesReady === 0) {
      const failure = workbench.soundFailures.get(key);
      const share = workbench.loading.get(key);
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
    const current = followTiles(tiles.current, picture, theme);
    tiles.current = current;
    const from = Math.max(0, timeS - WINDOW_S * NOW_SHARE);
    const pxPerFrame = width / (WINDOW_S * FRAME_RATE_HZ);
    const firstFrame = from * FRAME_RATE_HZ;
    context.imageSmoothingEnabled = true;
    current.images.forEach((image, i) => {
      const x = (i * TILE_FRAMES - firstFrame) * pxPerFrame;
      const w = TILE_FRAMES * pxPerFrame;
      if (x + w >= 0 && x <= width) context.drawImage(image, x, 0, w, height);
    });
    const now = (timeS - from) * FRAME_RATE_HZ * pxPerFrame;
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

type Tiles = { picture: SpectrogramPicture; theme: string; drawn: number; images: OffscreenCanvas[] };

/** Paints the frames that have arrived since the last look. */
function followTiles(old: Tiles | undefined, picture: SpectrogramPicture, theme: string): Tiles {
  const tiles =
    old && old.picture === picture && old.theme === theme ? old : { picture, theme, drawn: 0, images: [] };
  const colours = levelColours(theme);
  while (tiles.drawn < picture.framesReady) {
    const index = Math.floor(tiles.drawn / TILE_FRAMES);
    tiles.images[index] ??= new OffscreenCanvas(TILE_FRAMES, SPECTROGRAM_ROWS);
    const end = Math.min(picture.framesReady, (index + 1) * TILE_FRAMES);
    const frames = end - tiles.drawn;
    const image = new ImageData(frames, SPECTROGRAM_ROWS);
    const pixels = new Uint32Array(image.data.buffer);
    for (let frame = 0; frame < frames; frame++) {
      const levels = (tiles.drawn + frame) * SPECTROGRAM_ROWS;
      for (let row = 0; row < SPECTROGRAM_ROWS; row++) {
        pixels[(SPECTROGRAM_ROWS - 1 - row) * frames + frame] = colours[picture.levels[levels + row]];
      }
    }
    tiles.images[index].getContext("2d")!.putImageData(image, tiles.drawn - index * TILE_FRAMES, 0);
    tiles.drawn = end;
  }
  return tiles;
}
