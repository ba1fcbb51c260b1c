import { HOP_SAMPLES } from "@bumbrel/core/constants";
import {
  type FrequencyAxis,
  SPECTROGRAM_ROWS,
  SpectrogramColumns,
} from "@bumbrel/core/dsp/spectrum/spectrogram";
import { levelColours } from "./levelColours";

/** The last seconds of a live input as a spectrogram that goes round: each hop paints a column over the oldest one. */
export class LiveSpectrogram {
  /** `SPECTROGRAM_ROWS` bytes a column; column n stands at n modulo their number. */
  readonly levels: Uint8Array;
  /** Columns there have been. */
  count = 0;
  private readonly columns: number;
  private readonly fftSize: number;
  private readonly reader: SpectrogramColumns;
  private pending = 0;
  private image: OffscreenCanvas | undefined;
  private painted = 0;
  private theme = "";

  /** @param columns  hops that are kept */
  constructor(columns: number, axis: FrequencyAxis, fftSize: number) {
    this.columns = columns;
    this.fftSize = fftSize;
    this.levels = new Uint8Array(columns * SPECTROGRAM_ROWS);
    this.reader = new SpectrogramColumns(SPECTROGRAM_ROWS, axis, fftSize);
  }

  /**
   * Takes samples that have just come.
   *
   * @param history  what the input has given up to now, mono; at least a window of it
   * @param count  how many of its last samples are new
   */
  take(history: Float32Array, count: number): void {
    this.pending += count;
    for (; this.pending >= HOP_SAMPLES; this.count++) {
      this.pending -= HOP_SAMPLES;
      // A window ends with the newest sample of its hop.
      const centre = history.length - this.pending - this.fftSize / 2;
      this.reader.at(history, centre, this.levels, (this.count % this.columns) * SPECTROGRAM_ROWS);
    }
  }

  /** Draws it with the newest column at the right edge. */
  draw(context: CanvasRenderingContext2D, theme: string, width: number, height: number): void {
    this.image ??= new OffscreenCanvas(this.columns, SPECTROGRAM_ROWS);
    if (theme !== this.theme) this.painted = Math.max(0, this.count - this.columns);
    this.theme = theme;
    this.paint(this.image);
    const newest = this.count % this.columns;
    const pxPerColumn = width / this.columns;
    // From the oldest to the end of the image, then from its beginning to the newest.
    const older = this.columns - newest;
    context.imageSmoothingEnabled = true;
    context.drawImage(this.image, newest, 0, older, SPECTROGRAM_ROWS, 0, 0, older * pxPerColumn, height);
    if (newest === 0) return;
    const x = older * pxPerColumn;
    context.drawImage(this.image, 0, 0, newest, SPECTROGRAM_ROWS, x, 0, newest * pxPerColumn, height);
  }

  private paint(image: OffscreenCanvas): void {
    const context = image.getContext("2d")!;
    const colours = levelColours(this.theme);
    const column = new ImageData(1, SPECTROGRAM_ROWS);
    const pixels = new Uint32Array(column.data.buffer);
    for (let n = Math.max(this.painted, this.count - this.columns); n < this.count; n++) {
      const x = n % this.columns;
      for (let row = 0; row < SPECTROGRAM_ROWS; row++) {
        pixels[SPECTROGRAM_ROWS - 1 - row] = colours[this.levels[x * SPECTROGRAM_ROWS + row]];
      }
      context.putImageData(column, x, 0);
    }
    this.painted = this.count;
  }
}
