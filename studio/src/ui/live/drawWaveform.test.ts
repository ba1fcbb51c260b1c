import { describe, expect, it } from "@jest/globals";
import { drawSamples, drawWaveform } from "./drawWaveform";

/** A canvas that notes the points of lines and the rectangles it is given. */
function notingContext() {
  const points: [x: number, y: number][] = [];
  const rectangles: [x: number, y: number, width: number, height: number][] = [];
  const context = {
    beginPath: () => {},
    stroke: () => {},
    lineTo: (x: number, y: number) => points.push([x, y]),
    fillRect: (...one: [number, number, number, number]) => rectangles.push(one),
  };
  return { context: context as unknown as CanvasRenderingContext2D, points, rectangles };
}
const [WIDTH, HEIGHT] = [320, 64];
const square = (hz: number, seconds: number) =>
  Float32Array.from({ length: 48_000 * seconds }, (_, i) => (((i * hz) / 48_000) % 1 < 0.5 ? 1 : -1));

describe("drawSamples", () => {
  it("draws a long stretch with a few points a pixel: a line of 192 000 points holds the page up for seconds", () => {
    const { context, points } = notingContext();
    drawSamples(context, square(2, 4), 0, 4 * 48_000, WIDTH, HEIGHT);
    expect(points.length).toBeGreaterThan(WIDTH / 2);
    expect(points.length).toBeLessThanOrEqual(WIDTH * 4 + 8);
  });

  it("leaves no peak out, however short", () => {
    const samples = new Float32Array(96_000);
    samples[50_001] = 0.8;
    samples[70_003] = -0.6;
    const { context, points } = notingContext();
    drawSamples(context, samples, 0, samples.length, WIDTH, HEIGHT);
    const heights = points.map(([, y]) => 1 - (2 * y) / HEIGHT);
    expect(Math.max(...heights)).toBeCloseTo(0.8, 5);
    expect(Math.min(...heights)).toBeCloseTo(-0.6, 5);
    const [x] = points[heights.indexOf(Math.max(...heights))];
    expect(Math.abs(x - (WIDTH * 50_001) / 96_000)).toBeLessThan(1);
    const lefts = points.map(([x]) => x);
    expect(lefts).toEqual([...lefts].sort((a, b) => a - b));
  });

  it("draws every sample of a short stretch where it lies, as dots when there is room", () => {
    const samples = Float32Array.from({ length: 40 }, (_, i) => Math.sin(i));
    const { context, points, rectangles } = notingContext();
    drawSamples(context, samples, 0, 32, WIDTH, HEIGHT);
    expect(points).toHaveLength(33);
    expect(points[3]).toEqual([30, (1 - samples[3]) * 32]);
    expect(rectangles).toHaveLength(33);
    expect(rectangles[3]).toEqual([28, (1 - samples[3]) * 32 - 2, 4, 4]);
  });
});

describe("drawWaveform", () => {
  it("fills each pixel from the lowest to the highest of its hops", () => {
    const pairs = Float32Array.from({ length: WIDTH * 4 }, (_, i) => (i % 2 === 0 ? -0.5 : 0.25));
    const { context, rectangles } = notingContext();
    drawWaveform(context, pairs, 0, WIDTH * 2, WIDTH, HEIGHT);
    expect(rectangles).toHaveLength(WIDTH);
    expect(rectangles[7]).toEqual([7, 24, 1, 24]);
  });

  it("draws nothing outside the sound", () => {
    const { context, rectangles } = notingContext();
    drawWaveform(context, new Float32Array(20), -10, 10, WIDTH, HEIGHT);
    expect(rectangles.length).toBeGreaterThan(0);
    expect(Math.min(...rectangles.map(([x]) => x))).toBeGreaterThanOrEqual(WIDTH / 2 - 1);
  });
});
