import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { drawnCurve } from "../dsp/maths/curve";
import { TICK_STRENGTHS } from "./beats";
import { beatAt, type Clock, clockBeats, clockCurve, newClock, tappedTempo, withTempo } from "./clock";

const clock = (changes: Partial<Clock> = {}): Clock => ({ ...newClock(), ...changes });
const times = (changes: Partial<Clock>, toS: number) =>
  clockBeats(clock(changes))
    .ticks(0, toS)
    .map(({ timeS }) => Math.round(timeS * 1e6) / 1e6);

describe("a clock", () => {
  it("counts beats and bars, and ticks between them", () => {
    const beats = clockBeats(clock({ bpm: 90, beatsPerBar: 3 }));
    expect(beats.beatAt(2)).toBeCloseTo(3, 12);
    expect(beats.barPhase(beats.beatAt(1))).toBeCloseTo(0.5, 12);
    const strengths = clockBeats(clock({ bpm: 60, beatsPerBar: 2, subdivision: 2 }))
      .ticks(0, 3)
      .map(({ strength }) => strength);
    const { bar, beat, between } = TICK_STRENGTHS;
    expect(strengths).toEqual([bar, between, beat, between, bar, between]);
  });

  it("swings every second tick later, and begins each bar on time", () => {
    expect(times({ bpm: 60, subdivision: 2, swing: 2 / 3 }, 2)).toEqual([0, 0.666667, 1, 1.666667]);
    expect(times({ bpm: 60, subdivision: 4, swing: 0.75 }, 1)).toEqual([0, 0.375, 0.5, 0.875]);
    // Three ticks in a bar leave the last of them without a partner.
    expect(times({ bpm: 60, beatsPerBar: 3, subdivision: 1, swing: 0.6 }, 6)).toEqual([0, 1.2, 2, 3, 4.2, 5]);
  });

  it("has the same ticks whichever way time is cut", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 20, max: 400, noNaN: true }),
        fc.integer({ min: 1, max: 7 }),
        fc.integer({ min: 1, max: 6 }),
        fc.double({ min: 0.5, max: 0.75, noNaN: true }),
        fc.double({ min: 0.1, max: 9.9, noNaN: true }),
        (bpm, beatsPerBar, subdivision, swing, cutS) => {
          const beats = clockBeats(clock({ bpm, beatsPerBar, subdivision, swing }));
          const whole = beats.ticks(0, 10);
          const parts = [...beats.ticks(0, cutS), ...beats.ticks(cutS, 10)];
          expect(parts.length).toBe(whole.length);
          parts.forEach(({ timeS }, i) => {
            expect(timeS).toBeCloseTo(whole[i].timeS, 6);
          });
        },
      ),
    );
  });

  it("changes tempo without a jump in phase, again and again", () => {
    let running = clock({ bpm: 117.3 });
    for (const [timeS, bpm] of [
      [3.21, 140],
      [9.7, 61.5],
      [10.1, 399],
    ]) {
      const before = beatAt(running, timeS);
      running = withTempo(running, bpm, timeS);
      expect(beatAt(running, timeS)).toBeCloseTo(before, 9);
      expect(beatAt(running, timeS + 60) - before).toBeCloseTo(bpm, 6);
    }
    expect(() => withTempo(running, 10, 0)).toThrow(RangeError);
  });

  it("takes the tempo of taps, those before a pause and a shaky hand aside", () => {
    const taps = Array.from({ length: 8 }, (_, i) => 100 + i * 0.5 + (i % 2 ? 0.012 : -0.012));
    const tapped = tappedTempo([3, 3.2, 3.4, ...taps])!;
    expect(tapped.bpm).toBeCloseTo(120, 0);
    expect(tapped.beatS).toBeCloseTo(103.5, 1);
    expect(tappedTempo([5])).toBeUndefined();
    expect(tappedTempo([])).toBeUndefined();
    expect(tappedTempo([1, 1.01, 1.02])!.bpm).toBe(400);
  });

  it("draws its curve round and round", () => {
    const points = [
      { at: 0, value: 0 },
      { at: 0.5, value: 1 },
      { at: 1, value: 0.25 },
    ];
    const value = clockCurve(clock({ bpm: 60, curve: { beats: 2, points } }));
    expect([value(0), value(1), value(3), value(2.0001)]).toEqual([0, 1, 1, expect.closeTo(0, 3)]);
    expect(value(1.999)).toBeCloseTo(0.25, 2);
  });
});

describe("a drawn curve", () => {
  const arbitrary = fc
    .uniqueArray(fc.integer({ min: 0, max: 1000 }), { minLength: 1, maxLength: 12 })
    .chain((ats) =>
      fc.tuple(
        fc.constant([...ats].sort((a, b) => a - b)),
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), {
          minLength: ats.length,
          maxLength: ats.length,
        }),
      ),
    )
    .map(([ats, values]) => ats.map((at, i) => ({ at: at / 1000, value: values[i] })));

  it("goes through its points and stays between neighbours", () => {
    fc.assert(
      fc.property(arbitrary, fc.double({ min: -0.5, max: 1.5, noNaN: true }), (points, at) => {
        const curve = drawnCurve(points);
        for (const point of points) expect(curve(point.at)).toBeCloseTo(point.value, 9);
        const next = points.findIndex((point) => point.at > at);
        const [left, right] = [
          points[next === -1 ? points.length - 1 : Math.max(0, next - 1)],
          points[next] ?? points.at(-1)!,
        ];
        expect(curve(at)).toBeGreaterThanOrEqual(Math.min(left.value, right.value) - 1e-9);
        expect(curve(at)).toBeLessThanOrEqual(Math.max(left.value, right.value) + 1e-9);
      }),
    );
  });

  it("needs points that go from left to right", () => {
    expect(() => drawnCurve([])).toThrow(RangeError);
    expect(() =>
      drawnCurve([
        { at: 0.5, value: 0 },
        { at: 0.5, value: 1 },
      ]),
    ).toThrow(RangeError);
  });
});
