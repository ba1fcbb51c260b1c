/**
 * Draws min–max pairs as a solid shape from the left edge, in the fill colour that is set.
 *
 * @param pairs  as `waveformOverview` gives them
 * @param width  CSS pixels the whole of them takes
 */
export function drawWaveform(
  context: CanvasRenderingContext2D,
  pairs: Float32Array,
  width: number,
  height: number,
): void {
  const columns = pairs.length / 2;
  for (let x = 0; x < width; x++) {
    const column = Math.min(columns - 1, Math.floor((x / width) * columns));
    const top = (1 - pairs[column * 2 + 1]) * 0.5 * height;
    const bottom = (1 - pairs[column * 2]) * 0.5 * height;
    context.fillRect(x, top, 1, Math.max(1, bottom - top));
  }
}
