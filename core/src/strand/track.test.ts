import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { addFrames, lastFrames, liveTrack, type Track, trackMeanAt, trackValueAt } from "./track";

const whole = (values: number[], more: Partial<Track> = {}): Track => ({
  width: 1,
  values: Float32Array.from(values),
  ...more,
});

describe("a track over a whole sound", () => {
  it("is linear between frames and stays at either end", () => {
    const track = whole([0.25, 0.5, 1]);
    expect([-1, 0, 0.005, 0.01, 0.0175, 0.02, 9].map((timeS) => trackValueAt(track, timeS))).toEqual([
      0.25,
      0.25,
      0.375,
      0.5,
      expect.closeTo(0.875, 6),
      1,
      1,
    ]);
    expect(trackValueAt(whole([]), 1)).toBe(0);
    expect(trackValueAt(track, Number.NaN)).toBe(0.25);
  });

  it("goes round with a sound that loops, and is where a sound that runs alone is", () => {
    const track = whole([0, 1, 2, 3], { loopS: 0.04 });
    expect(trackValueAt(track, 0.05)).toBeCloseTo(1, 6);
    expect(trackValueAt({ ...track, positionS: (timeS) => timeS + 0.01 }, 0.05)).toBeCloseTo(2, 6);
  });

  it("has the mean of a fan's bands", () => {
    const track = { width: 2, values: Float32Array.of(0, 1, 0.5, 0.5) };
    expect([trackMeanAt(track, 0), trackMeanAt(track, 0.005), trackValueAt(track, 0.005, 1)]).toEqual([
      0.5, 0.5, 0.75,
    ]);
  });
});

describe("a track of a strand that is heard live", () => {
  it("remembers the last seconds as a plain list of them would", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 3 }),
        fc.array(fc.integer({ min: 1, max: 900 }), { minLength: 1, maxLength: 12 }),
        fc.double({ min: -1, max: 40, noNaN: true }),
        (width, bursts, agoS) => {
          const track = liveTrack(width);
          const list: number[][] = [];
          for (const frames of bursts) {
            const numbers = new Float32Array(frames * width);
            for (let i = 0; i < numbers.length; i++) numbers[i] = Math.sin(list.length + i * 0.7);
            for (let f = 0; f < frames; f++) list.push([...numbers.slice(f * width, (f + 1) * width)]);
            // They come in time: as many hundredths of a second as there are of them.
            addFrames(track, numbers, list.length / 100);
          }
          const room = track.values.length / width;
          const nowS = track.newest.timeS;
          const kept = list.slice(-room);
          const last = new Float32Array(500 * width);
          lastFrames(track, last);
          const nothing = new Array(Math.max(0, 500 - list.length)).fill(new Array(width).fill(0));
          expect([...last]).toEqual([...nothing, ...list.slice(-500)].flat());
          const place = Math.min(kept.length - 1, Math.max(0, kept.length - 1 - agoS * 100));
          const low = Math.floor(place);
          for (let band = 0; band < width; band++) {
            const [a, b] = [kept[low][band], kept[Math.min(kept.length - 1, low + 1)][band]];
            expect(trackValueAt(track, nowS - agoS, band)).toBeCloseTo(a + (b - a) * (place - low), 4);
          }
        },
      ),
    );
  });

  it("is 0 before anything has come, and keeps room for 30 s unless it is very wide", () => {
    expect(trackValueAt(liveTrack(2), 5, 1)).toBe(0);
    expect(liveTrack(1).values).toHaveLength(3000);
    expect(liveTrack(1024).values).toHaveLength(2 ** 20);
  });

  it("keeps an even pace while its blocks come in fits and starts, and catches up after a pause", () => {
    const track = liveTrack(1);
    let came = 0;
    for (let frame = 0; frame < 500; frame += 2) {
      // Two frames at a time, up to 15 ms late.
      came = frame / 100 + 0.02 + 0.015 * Math.abs(Math.sin(frame));
      const before = track.newest.timeS;
      addFrames(track, new Float32Array(2), came);
      if (frame > 100) expect(Math.abs(track.newest.timeS - before - 0.02)).toBeLessThan(0.0015);
    }
    expect(Math.abs(track.newest.timeS - came)).toBeLessThan(0.02);
    addFrames(track, new Float32Array(1), came + 60);
    expect(track.newest.timeS).toBe(came + 60);
  });
});
