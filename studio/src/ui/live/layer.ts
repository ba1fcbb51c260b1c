/**
 * A part of a drawing that rarely changes, painted once and laid over the rest each frame. Writing is the
 * reason: a canvas that sets a font makes the page settle its styles there and then.
 */
export class Layer {
  private readonly canvas = new OffscreenCanvas(1, 1);
  private key = "";

  /**
   * Lays the part over a drawing.
   *
   * @param key  changes whenever what is painted does
   * @param width  CSS pixels
   * @param height  CSS pixels
   */
  lay(
    over: CanvasRenderingContext2D,
    key: string,
    width: number,
    height: number,
    paint: (context: OffscreenCanvasRenderingContext2D) => void,
  ): void {
    const ratio = Math.min(2, devicePixelRatio);
    const whole = `${key} ${width} ${height} ${ratio}`;
    if (whole !== this.key) {
      this.key = whole;
      this.canvas.width = Math.max(1, Math.round(width * ratio));
      this.canvas.height = Math.max(1, Math.round(height * ratio));
      const context = this.canvas.getContext("2d")!;
      context.scale(ratio, ratio);
      paint(context);
    }
    over.drawImage(this.canvas, 0, 0, width, height);
  }
}
