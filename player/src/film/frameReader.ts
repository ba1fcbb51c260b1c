import type { WebGLRenderer } from "three";
import { GraphicsLost } from "./graphicsLost";

/** Frames that are read while later ones are drawn. More of them save no more time. */
const PENDING = 3;
/** Between two looks at whether the graphics have finished a frame, ms. */
const LOOK_AGAIN_MS = 1;

interface PendingFrame {
  frame: number;
  buffer: WebGLBuffer;
  fence: WebGLSync;
}

/**
 * Reads drawn frames back without making the graphics wait: the next frames are drawn while one is on its way.
 *
 * @example
 * const reader = new FrameReader(renderer, 48, 28, (frame, rgba) => meter.push(frame / 60, rgba));
 * for (let frame = 0; frame < 600; frame++) { draw(frame); await reader.push(frame); }
 * await reader.finish();
 */
export class FrameReader {
  private readonly gl: WebGL2RenderingContext;
  private readonly pending: PendingFrame[] = [];
  private readonly spare: WebGLBuffer[] = [];
  private readonly rgba: Uint8ClampedArray;

  /**
   * @param width  of the drawing buffer, pixels
   * @param onFrame  called for each frame in order with RGBA, 0 to 255, lowest row first; the array is used again
   */
  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly width: number,
    private readonly height: number,
    private readonly onFrame: (frame: number, rgba: Uint8ClampedArray) => void,
  ) {
    this.gl = renderer.getContext() as WebGL2RenderingContext;
    this.rgba = new Uint8ClampedArray(width * height * 4);
  }

  /**
   * Takes the frame that has just been drawn on the canvas, in the same task.
   *
   * @throws GraphicsLost when there is nothing to read from any more
   */
  async push(frame: number): Promise<void> {
    const { gl } = this;
    const buffer = this.spare.pop() ?? this.makeBuffer();
    this.renderer.setRenderTarget(null);
    gl.bindBuffer(gl.PIXEL_PACK_BUFFER, buffer);
    gl.readPixels(0, 0, this.width, this.height, gl.RGBA, gl.UNSIGNED_BYTE, 0);
    gl.bindBuffer(gl.PIXEL_PACK_BUFFER, null);
    const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    if (!fence) throw new GraphicsLost();
    gl.flush();
    this.pending.push({ frame, buffer, fence });
    while (this.pending.length > PENDING) await this.takeOldest();
  }

  /** Waits for the frames that are still on their way, and frees what was used to read. */
  async finish(): Promise<void> {
    while (this.pending.length > 0) await this.takeOldest();
    for (const buffer of this.spare) this.gl.deleteBuffer(buffer);
  }

  private async takeOldest(): Promise<void> {
    const { gl } = this;
    const { frame, buffer, fence } = this.pending.shift()!;
    // A browser tells of it only after the page has had a turn.
    while (gl.getSyncParameter(fence, gl.SYNC_STATUS) !== gl.SIGNALED && !gl.isContextLost())
      await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
    if (gl.isContextLost()) throw new GraphicsLost();
    gl.deleteSync(fence);
    gl.bindBuffer(gl.PIXEL_PACK_BUFFER, buffer);
    gl.getBufferSubData(gl.PIXEL_PACK_BUFFER, 0, this.rgba);
    gl.bindBuffer(gl.PIXEL_PACK_BUFFER, null);
    this.spare.push(buffer);
    this.onFrame(frame, this.rgba);
  }

  private makeBuffer(): WebGLBuffer {
    const { gl } = this;
    const buffer = gl.createBuffer()!;
    gl.bindBuffer(gl.PIXEL_PACK_BUFFER, buffer);
    gl.bufferData(gl.PIXEL_PACK_BUFFER, this.rgba.byteLength, gl.STREAM_READ);
    return buffer;
  }
}
