import { type FrequencyAxis, SPECTROGRAM_ROWS } from "@bumbrel/core/dsp/spectrum/spectrogram";
import { levelColours } from "./levelColours";

const TILE_FRAMES = 512;
/** Painted tiles that are kept: a few screens of them, however long the sound is. */
const MAX_TILES = 48;

/** Levels of a sound on an axis, filling up as they are computed. */
export interface SpectrogramImage {
  key: string;
  axis: FrequencyAxis;
  fftSize: number;
  /** `SPECTROGRAM_ROWS` bytes a frame. */
  levels: Uint8Array;
  framesReady: number;
}

interface Tile {
  image: OffscreenCanvas;
  painted: number;
}

/** Paints the part of a spectrogram that is looked at, from tiles that are painted once. */
export class SpectrogramTiles {
  private spectrogram: SpectrogramImage | undefined;
  private theme = "";
  private readonly tiles = new Map<number, Tile>();

  /**
   * @param firstFrame  the frame at the left edge; may lie between frames and before the sound
   * @param pxPerFrame  CSS pixels
   */
  draw(
    context: CanvasRenderingContext2D,
    spectrogram: SpectrogramImage,
    theme: string,
    firstFrame: number,
    pxPerFrame: number,
    width: number,
    height: number,
  ): void {
    if (spectrogram !== this.spectrogram || theme !== this.theme) {
      this.tiles.clear();
      this.spectrogram = spectrogram;
      this.theme = theme;
    }
    const first = Math.max(0, Math.floor(firstFrame / TILE_FRAMES));
    const last = Math.floor(
      Math.min(spectrogram.framesReady - 1, firstFrame + width / pxPerFrame) / TILE_FRAMES,
    );
    context.imageSmoothingEnabled = true;
    for (let index = first; index <= last; index++) {
      const x = (index * TILE_FRAMES - firstFrame) * pxPerFrame;
      context.drawImage(this.tile(spectrogram, index).image, x, 0, TILE_FRAMES * pxPerFrame, height);
    }
  }

  /** A tile with every frame of it that has arrived. */
  private tile(spectrogram: SpectrogramImage, index: number): Tile {
    const tile = this.tiles.get(index) ?? {
      image: new OffscreenCanvas(TILE_FRAMES, SPECTROGRAM_ROWS),
      painted: 0,
    };
    this.tiles.delete(index);
    this.tiles.set(index, tile);
    for (const old of this.tiles.keys()) {
      if (this.tiles.size <= MAX_TILES) break;
      this.tiles.delete(old);
    }
    const start = index * TILE_FRAMES;
    const ready = Math.min(TILE_FRAMES, spectrogram.framesReady - start);
    const frames = ready - tile.painted;
    if (frames <= 0) return tile;
    const colours = levelColours(this.theme);
    const image = new ImageData(frames, SPECTROGRAM_ROWS);
    const pixels = new Uint32Array(image.data.buffer);
    for (let frame = 0; frame < frames; frame++) {
      const levels = (start + tile.painted + frame) * SPECTROGRAM_ROWS;
      for (let row = 0; row < SPECTROGRAM_ROWS; row++) {
        pixels[(SPECTROGRAM_ROWS - 1 - row) * frames + frame] = colours[spectrogram.levels[levels + row]];
      }
    }
    tile.image.getContext("2d")!.putImageData(image, tile.painted, 0);
    tile.painted = ready;
    return tile;
  }
}
