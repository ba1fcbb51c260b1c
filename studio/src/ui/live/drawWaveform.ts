import { type Samples, StretchReader } from "@bumbrel/core/dsp/maths/samples";

/**
 * Draws a stretch of min–max pairs as a solid shape from the left edge, in the fill colour that is set.
 *
 * @param pairs  as `waveformPairs` gives them
 * @param fromHop  first hop of the stretch; may lie between hops, and outside the sound
 * @param toHop  its end
 * @param width  CSS pixels the stretch takes
 */
export function drawWaveform(
  context: CanvasRenderingContext2D,
  pairs: Float32Array,
  fromHop: number,
  toHop: number,
  width: number,
  height: number,
): void {
  const hops = pairs.length / 2;
  const perPx = (toHop - fromHop) / width;
  for (let x = 0; x < width; x++) {
    const first = Math.max(0, Math.floor(fromHop + x * perPx));
    const end = Math.min(hops, Math.max(first + 1, Math.floor(fromHop + (x + 1) * perPx)));
    if (first >= end || fromHop + (x + 1) * perPx < 0) continue;
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    for (let hop = first; hop < end; hop++) {
      low = Math.min(low, pairs[hop * 2]);
      high = Math.max(high, pairs[hop * 2 + 1]);
    }
    const top = (1 - high) * 0.5 * height;
    context.fillRect(x, top, 1, Math.max(1, (1 - low) * 0.5 * height - top));
  }
}

const reader = new StretchReader();

/** Points of a line in one pixel: its first and last sample, the lowest and the highest. */
const POINTS_PER_PX = 4;

/**
 * Draws samples as a line from edge to edge, in the stroke colour that is set; `from` may lie between samples. Of a long
 * stretch each pixel shows its extremes: a browser takes seconds to stroke a line of a hundred thousand points.
 */
export function drawSamples(
  context: CanvasRenderingContext2D,
  all: Samples,
  from: number,
  to: number,
  width: number,
  height: number,
): void {
  const pxPerSample = width / (to - from);
  const first = Math.max(0, Math.floor(from));
  const last = Math.min(all.length - 1, Math.ceil(to));
  const { samples, first: base } = reader.between(all, first, last + 1);
  const at = (i: number) => samples[i - base];
  const lineTo = (i: number) => context.lineTo((i - from) * pxPerSample, (1 - at(i)) * 0.5 * height);
  context.beginPath();
  if (pxPerSample * POINTS_PER_PX >= 1) {
    for (let i = first; i <= last; i++) lineTo(i);
  } else {
    for (let x = 0; x < width; x++) {
      const start = Math.max(first, Math.ceil(from + x / pxPerSample));
      const end = Math.min(last, Math.ceil(from + (x + 1) / pxPerSample) - 1);
      if (start > end) continue;
      let low = start;
      let high = start;
      for (let i = start; i <= end; i++) {
        if (at(i) < at(low)) low = i;
        if (at(i) > at(high)) high = i;
      }
      for (const i of [start, Math.min(low, high), Math.max(low, high), end]) lineTo(i);
    }
  }
  context.lineWidth = 1.5;
  context.stroke();
  if (pxPerSample < 6) return;
  for (let i = first; i <= last; i++) {
    context.fillRect((i - from) * pxPerSample - 2, (1 - at(i)) * 0.5 * height - 2, 4, 4);
  }
}
