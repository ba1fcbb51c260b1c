import { describe, expect, test } from "@jest/globals";
import fc from "fast-check";
import { KeyTrack, keptFrames } from "./keyframes";

/** A value between keys, by search; on a line. */
function readAt({ frames, values }: { frames: number[]; values: number[] }, frame: number): number {
  const after = frames.findIndex((one) => one >= frame);
  if (after < 0) return values.at(-1)!;
  if (frames[after] === frame || after === 0) return values[after];
  const share = (frame - frames[after - 1]) / (frames[after] - frames[after - 1]);
  return values[after - 1] + share * (values[after] - values[after - 1]);
}

describe("keptFrames", () => {
  test("keeps the corners of a broken line and nothing else", () => {
    const line = Array.from({ length: 101 }, (_none, i) => (i < 40 ? i : 80 - i));
    expect(keptFrames(line, 1, 1e-9)).toEqual([0, 40, 100]);
  });

  test("two frames and one stay as they are", () => {
    expect(keptFrames([1, 2, 3, 4], 2, 1)).toEqual([0, 1]);
    expect(keptFrames([1, 2], 2, 1)).toEqual([0]);
  });

  test("an even turn needs its ends alone, on the long way in parts as well", () => {
    const turn = Array.from({ length: 91 }, (_none, i) => {
      const half = (i * Math.PI) / 360;
      return [0, Math.sin(half), 0, Math.cos(half)];
    }).flat();
    expect(keptFrames(turn, 4, 1e-6, true)).toEqual([0, 90]);
    // On a line its parts would be off.
    expect(keptFrames(turn, 4, 1e-6).length).toBeGreaterThan(20);
  });
});

describe("KeyTrack", () => {
  test("is nowhere further than allowed from the original curve", () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -5, max: 5, noNaN: true }), { minLength: 1, maxLength: 1300 }),
        fc.double({ min: 0.001, max: 1, noNaN: true }),
        (given, within) => {
          const track = new KeyTrack(1, within);
          for (const value of given) track.add([value]);
          const keys = track.finish();
          given.forEach((value, frame) => {
            expect(Math.abs(readAt(keys, frame) - value)).toBeLessThanOrEqual(within + 1e-9);
          });
          expect(keys.frames).toEqual([...new Set(keys.frames)].sort((a, b) => a - b));
        },
      ),
      { numRuns: 60 },
    );
  });

  test("holds its first value until it begins", () => {
    const track = new KeyTrack(1, 0.01);
    track.holdUntil(700, [0]);
    expect(track.length).toBe(700);
    track.add([1]);
    track.add([2]);
    const keys = track.finish();
    expect([0, 350, 699, 700, 701].map((frame) => readAt(keys, frame))).toEqual([0, 0, 0, 1, 2]);
    expect(keys.frames).toEqual([0, 699, 700, 701].filter((frame) => keys.frames.includes(frame)));
  });

  test("keeps a step sharp", () => {
    const track = new KeyTrack(1, 1e-6);
    for (const value of [0, 1, 2]) track.add([value]);
    track.leap();
    for (const value of [10, 11]) track.add([value]);
    const keys = track.finish();
    expect([1.5, 2.5, 2.99, 3, 3.5].map((frame) => readAt(keys, frame))).toEqual(
      [1.5, 2.5, 2.99, 10, 10.5].map((value) => expect.closeTo(value, 6)),
    );
  });

  test("turns go on the near way, whichever sign their quaternions have", () => {
    const track = new KeyTrack(4, 1e-4, true);
    track.add([0, 0, 0, 1]);
    track.add([0, -Math.sin(0.1), 0, -Math.cos(0.1)]);
    const turned = track.finish().values.slice(4);
    expect([turned[1], turned[3]]).toEqual([Math.sin(0.1), Math.cos(0.1)]);
  });

  test("reduces a constant to one frame", () => {
    const track = new KeyTrack(2, 0.1);
    for (let i = 0; i < 1200; i++) track.add([3, 4]);
    expect(track.finish()).toEqual({ frames: [0], values: [3, 4] });
  });
});
