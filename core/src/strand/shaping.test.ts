import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { peakOf } from "../dsp/peak";
import { defaultShaping, type Setting, SHAPING_STEPS, type Shaping, STEP_NAMES, shape } from "./shaping";

/** The chain as docs/scene.md words it, one frame after the other, sharing nothing with the steps' own code. */
function shapeByDefinition(raw: number[], { gain, window, follow, clamp }: Shaping): number[] {
  let y = 0;
  return raw.map((level) => {
    let x = gain.on ? level * 10 ** (gain.db / 20) : level;
    if (window.on) x = x > 0 ? Math.max(0, (20 * Math.log10(x) - window.floorDb) / window.rangeDb) : 0;
    if (follow.on) {
      const tau = x > y ? follow.attackMs : follow.releaseMs;
      y += (x - y) * (tau === 0 ? 1 : 1 - Math.exp(-10 / tau));
      x = y;
    }
    return clamp.on ? Math.min(1, Math.max(0, x)) : x;
  });
}

const settingsOf = (name: (typeof STEP_NAMES)[number]) =>
  fc.record({
    on: fc.boolean(),
    ...Object.fromEntries(
      Object.entries(SHAPING_STEPS[name].settings as Record<string, Setting>).map(([key, { min, max }]) => [
        key,
        fc.double({ min, max, noNaN: true }),
      ]),
    ),
  });
const anyShaping = fc.record(
  Object.fromEntries(STEP_NAMES.map((name) => [name, settingsOf(name)])),
) as unknown as fc.Arbitrary<Shaping>;

describe("the shaping chain", () => {
  it("agrees with its definition for any settings and any step switched off", () => {
    const levels = fc.array(fc.oneof(fc.constant(0), fc.double({ min: 1e-5, max: 1, noNaN: true })), {
      maxLength: 60,
    });
    fc.assert(
      fc.property(levels, anyShaping, (raw, shaping) => {
        const stored = Float32Array.from(raw);
        const expected = shapeByDefinition([...stored], shaping);
        shape(stored, shaping).forEach((value, i) => {
          expect(Math.abs(value - expected[i])).toBeLessThanOrEqual(
            1e-4 * Math.max(1, Math.abs(expected[i])),
          );
        });
      }),
      { numRuns: 500 },
    );
  });

  it("reads its input without changing it, and gives as many numbers", () => {
    const raw = Float32Array.of(0.1, 0.5, 0);
    const before = raw.slice();
    expect(shape(raw, defaultShaping())).toHaveLength(3);
    expect(raw).toEqual(before);
    expect(shape(new Float32Array(0), defaultShaping())).toHaveLength(0);
  });

  it("begins every new strand with settings of its own, within their limits", () => {
    const first = defaultShaping();
    Object.assign(first.window, { floorDb: -10 });
    expect(defaultShaping().window.floorDb).toBe(SHAPING_STEPS.window.settings.floorDb.default);
    for (const { settings, help } of Object.values(SHAPING_STEPS)) {
      expect(help).toMatch(/^[A-Z].*\.$/);
      for (const setting of Object.values(settings as Record<string, Setting>)) {
        expect(setting.default).toBeGreaterThanOrEqual(setting.min);
        expect(setting.default).toBeLessThanOrEqual(setting.max);
      }
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
