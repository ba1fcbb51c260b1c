import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { peakOf } from "../../dsp/level/peak";
import { anyShaping } from "../../testing/anyShaping";
import {
  changeShaping,
  defaultShaping,
  SHAPING_STEPS,
  type Shaping,
  type ShapingChange,
  STEP_NAMES,
  shape,
  stepSettings,
} from "./shaping";
import { STARTING_POINTS, startingPointsFor } from "./startingPoints";

/** The chain as docs/strands.md words it, frame after frame of `width` numbers, sharing nothing with the steps' code. */
function shapeByDefinition(frames: number[][], s: Shaping): number[][] {
  const width = frames[0]?.length ?? 1;
  const isFan = width > 1;
  const y = new Array<number>(width).fill(0);
  const held = new Array<number>(width).fill(0);
  const open = new Array<boolean>(width).fill(false);
  const past: number[][] = [];
  let ceiling = 1;
  return frames.map((frame) => {
    let x = frame.map((level) => (s.gain.on ? level * 10 ** (s.gain.db / 20) : level));
    if (s.window.on && s.window.scale === "dB") {
      x = x.map((v) =>
        v > 0 ? Math.max(0, (Math.max(-200, 20 * Math.log10(v)) - s.window.floorDb) / s.window.rangeDb) : 0,
      );
    } else if (s.window.on) {
      x = x.map((v) => Math.max(0, (v - s.window.low) / Math.max(1e-6, s.window.high - s.window.low)));
    }
    if (s.autoRange.on && s.autoRange.fallDbPerS > 0) {
      const inDb = s.window.on && s.window.scale === "dB";
      const fallen = inDb
        ? ceiling - s.autoRange.fallDbPerS / 100 / s.window.rangeDb
        : ceiling * 10 ** (-s.autoRange.fallDbPerS / 2000);
      ceiling = Math.max(...x, fallen, inDb ? s.autoRange.leastDb / s.window.rangeDb : 0.05);
      x = x.map((v) => v / ceiling);
    }
    if (isFan && s.relative.on) {
      const most = Math.max(...x, s.relative.least);
      x = x.map((v) => v / most);
    }
    if (isFan && s.neighbours.on) {
      x = x.map((_, i) => {
        const some = x.slice(Math.max(0, i - s.neighbours.bands), i + s.neighbours.bands + 1);
        return some.reduce((sum, v) => sum + v, 0) / some.length;
      });
    }
    if (s.gate.on) {
      x = x.map((v, i) => {
        open[i] = open[i] ? v >= s.gate.mark - s.gate.slack : v >= s.gate.mark;
        return open[i] ? v : 0;
      });
    }
    if (s.curve.on) x = x.map((v) => Math.min(1e6, v ** s.curve.power));
    if (s.follow.on) {
      x = x.map((v, i) => {
        if (v >= y[i]) held[i] = Math.round(s.follow.holdMs / 10);
        else if (held[i] > 0) {
          held[i]--;
          return y[i];
        }
        const tau = v > y[i] ? s.follow.attackMs : s.follow.releaseMs;
        y[i] += (v - y[i]) * (tau === 0 ? 1 : 1 - Math.exp(-10 / tau));
        return y[i];
      });
    }
    if (s.average.on) {
      past.unshift(x);
      x = x.map(
        (_, i) => past.slice(0, s.average.frames).reduce((sum, one) => sum + one[i], 0) / s.average.frames,
      );
    }
    if (s.clamp.on) x = x.map((v) => Math.min(1, Math.max(0, v)));
    return s.output.on ? x.map((v) => v * s.output.scale + s.output.offset) : x;
  });
}

const only = (changes: ShapingChange): Shaping => {
  const shaping = defaultShaping();
  for (const name of STEP_NAMES) shaping[name].on = name in changes;
  changeShaping(shaping, changes);
  return shaping;
};
const round = (values: Float32Array) => [...values].map((x) => Math.round(x * 1e4) / 1e4);

describe("the shaping chain", () => {
  it("agrees with its definition for any settings, any step switched off, and any width", () => {
    const level = fc.oneof(fc.constant(0), fc.double({ min: 1e-5, max: 1, noNaN: true }));
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 4 }),
        fc.array(fc.array(level, { minLength: 4, maxLength: 4 }), { maxLength: 40 }),
        anyShaping,
        (width, rows, made) => {
          // A gate's mark is a matter of the last digit; the definition has more of them.
          const shaping = {
            ...made,
            gate: { ...made.gate, on: false },
            curve: { ...made.curve, way: "power" as const },
          };
          const frames = rows.map((row) => [...Float32Array.from(row.slice(0, width))]);
          const expected = shapeByDefinition(frames, shaping).flat();
          const got = shape(Float32Array.from(frames.flat()), shaping, width);
          // Single precision between the steps, stretched by a curve and by output.
          const slack = 2e-3 * Math.max(1, Math.abs(shaping.output.on ? shaping.output.scale : 1));
          got.forEach((value, i) => {
            expect(Math.abs(value - expected[i])).toBeLessThanOrEqual(
              slack * Math.max(1, Math.abs(expected[i])),
            );
          });
        },
      ),
      { numRuns: 400 },
    );
  });

  it("keeps quiet parts lively: the ceiling comes down by so many dB a second", () => {
    const raw = new Float32Array(401).fill(0.01);
    raw[0] = 1;
    const shaped = shape(
      raw,
      only({
        window: { on: true, floorDb: -60, rangeDb: 60 },
        autoRange: { on: true, fallDbPerS: 5, leastDb: 6 },
      }),
    );
    expect(shaped[0]).toBe(1);
    // After 4 s the ceiling stands at −20 dB, 40 above the floor; −40 dB is half of that.
    expect(shaped[400]).toBeCloseTo(0.5, 3);
    expect(round(shape(raw, only({ autoRange: { on: true, fallDbPerS: 0 } })))[400]).toBe(0.01);
  });

  it("opens a gate at the mark and closes it below by the slack", () => {
    const gate = only({ gate: { on: true, mark: 0.5, slack: 0.2 } });
    expect(round(shape(Float32Array.of(0.4, 0.5, 0.35, 0.29, 0.4, 0.6), gate))).toEqual([
      0, 0.5, 0.35, 0, 0, 0.6,
    ]);
  });

  it("holds before it falls, and averages up to now", () => {
    const hold = only({ follow: { on: true, attackMs: 0, releaseMs: 0, holdMs: 30 } });
    expect(round(shape(Float32Array.of(1, 0, 0, 0, 0), hold))).toEqual([1, 1, 1, 1, 0]);
    expect(round(shape(Float32Array.of(1, 1, 0, 0, 0), only({ average: { on: true, frames: 2 } })))).toEqual([
      0.5, 1, 0.5, 0, 0,
    ]);
  });

  it("looks across a fan: against its largest band, and with its neighbours", () => {
    const fan = Float32Array.of(0.1, 0.2, 0.4, 0.01, 0, 0);
    expect(round(shape(fan, only({ relative: { on: true, least: 0.1 } }), 3))).toEqual([
      0.25, 0.5, 1, 0.1, 0, 0,
    ]);
    expect(round(shape(fan, only({ neighbours: { on: true, bands: 1 } }), 3))).toEqual([
      0.15, 0.2333, 0.3, 0.005, 0.0033, 0,
    ]);
    // One number has no neighbours and no larger band.
    expect(
      round(shape(Float32Array.of(0.1), only({ relative: { on: true }, neighbours: { on: true } }))),
    ).toEqual([0.1]);
  });

  it("bends by a power and by a drawn curve, and stretches at the end", () => {
    expect(
      round(shape(Float32Array.of(0.5, 2), only({ curve: { on: true, way: "power", power: 2 } }))),
    ).toEqual([0.25, 4]);
    const points = [
      { at: 0, value: 1 },
      { at: 1, value: 0 },
    ];
    expect(
      round(shape(Float32Array.of(0, 0.5, 1, 3), only({ curve: { on: true, way: "drawn", points } }))),
    ).toEqual([1, 0.5, 0, 0]);
    expect(round(shape(Float32Array.of(0.5), only({ output: { on: true, scale: 4, offset: -1 } })))).toEqual([
      1,
    ]);
  });

  it("reads its input without changing it, and gives as many numbers", () => {
    const raw = Float32Array.of(0.1, 0.5, 0);
    const before = raw.slice();
    expect(shape(raw, defaultShaping())).toHaveLength(3);
    expect(raw).toEqual(before);
    expect(shape(new Float32Array(0), defaultShaping())).toHaveLength(0);
  });

  it("begins every new strand with settings of its own, within their limits, each with a line of help", () => {
    const first = defaultShaping();
    Object.assign(first.window, { floorDb: -10 });
    first.curve.points[0].value = 0.7;
    expect(defaultShaping().window.floorDb).toBe(SHAPING_STEPS.window.settings.floorDb.default);
    expect(defaultShaping().curve.points[0].value).toBe(0);
    for (const name of STEP_NAMES) {
      expect(SHAPING_STEPS[name].help).toMatch(/^[A-Z].*\.$/);
      for (const setting of Object.values(stepSettings(name))) {
        if (setting.type === "choice") expect(setting.values).toContain(setting.default);
        if (setting.type !== "number") continue;
        expect(setting.default).toBeGreaterThanOrEqual(setting.min);
        expect(setting.default).toBeLessThanOrEqual(setting.max);
      }
    }
  });
});

describe("starting points", () => {
  it("suit the measures they are offered for, and change only existing settings", () => {
    expect(startingPointsFor("level", false).map(([name]) => name)).not.toContain("fence");
    expect(startingPointsFor("level", true).map(([name]) => name)).toContain("fence");
    expect(startingPointsFor("share", false)).toEqual([]);
    for (const { shaping } of Object.values(STARTING_POINTS)) {
      const changed = defaultShaping();
      changeShaping(changed, shaping as ShapingChange);
      for (const name of STEP_NAMES)
        expect(Object.keys(changed[name])).toEqual(Object.keys(defaultShaping()[name]));
      const values = shape(
        Float32Array.from({ length: 300 }, (_, i) => Math.abs(Math.sin(i / 9))),
        changed,
      );
      expect(Math.max(...values)).toBeGreaterThan(0.3);
    }
  });
});

describe("peakOf", () => {
  it("is the largest magnitude in any channel", () => {
    expect(peakOf([Float32Array.of(0.25, -0.5), Float32Array.of(0.1, 0.375)])).toBe(0.5);
    expect(peakOf([new Float32Array(3)])).toBe(0);
    expect(peakOf([])).toBe(0);
  });
});
