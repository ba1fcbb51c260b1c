import { describe, expect, it } from "@jest/globals";
import { adviseOn, healthOf, levelsOf } from "./health";
import { MEASURES } from "./measures/table";
import { changeShaping, defaultShaping, type ShapingChange, shape } from "./shape/shaping";

const measure = MEASURES.band.defaults;
const level = (db: number) => 10 ** (db / 20);

/** A strand on levels in dB, with its health and the advice on it. */
function look(db: number[], change: ShapingChange = {}) {
  const shaping = defaultShaping();
  changeShaping(shaping, change);
  const raw = Float32Array.from(db, (one) => (Number.isFinite(one) ? level(one) : 0));
  const shaped = shape(raw, shaping);
  const health = healthOf(raw, shaped, 1, { measure, shaping });
  return { health, shaping, raw, advice: adviseOn(health, raw, { measure, shaping }) };
}
const OFF = { follow: { on: false } };
/** Between two levels, evenly. */
const ramp = (from: number, to: number, frames: number) =>
  Array.from({ length: frames }, (_, i) => from + ((to - from) * i) / (frames - 1));

describe("health", () => {
  it("counts frames at floor and ceiling, and where most of them are", () => {
    const { health } = look(
      [...new Array(800).fill(-70), ...new Array(400).fill(-5), ...new Array(400).fill(-40)],
      OFF,
    );
    expect(health.atFloor).toBeCloseTo(0.5, 6);
    expect(health.atCeiling).toBeCloseTo(0.25, 6);
    expect(health.fullest).toEqual({ fromS: 8, toS: 16, share: 0.5 });
    expect(health.silent).toBe(false);
    expect(look(new Array(100).fill(-90), OFF).health.silent).toBe(true);
  });

  it("is the mean change a frame, and the delay of the followed number", () => {
    const { health } = look(
      Array.from({ length: 100 }, (_, i) => (i % 2 ? -10 : -60)),
      { ...OFF, window: { floorDb: -60, rangeDb: 50 } },
    );
    expect(health.jitter).toBeCloseTo(1, 6);
    const hits = Array.from({ length: 1000 }, (_, i) => (i % 100 < 12 ? -10 : -60));
    expect(look(hits, { follow: { attackMs: 0, releaseMs: 0 } }).health.lagMs).toBe(0);
    expect(
      look(hits, { follow: { on: false }, average: { on: true, frames: 11 } }).health.lagMs,
    ).toBeGreaterThanOrEqual(20);
  });
});

describe("advice", () => {
  it("raises the range of a pinned strand by the advised amount, which mends it", () => {
    const sound = ramp(-50, -2, 1000);
    const { advice, shaping, raw } = look(sound, { ...OFF, window: { floorDb: -60, rangeDb: 35 } });
    expect(advice[0].code).toBe("pinned");
    const by = Number(/raise the range by ([\d.]+) dB/.exec(advice[0].text)![1]);
    expect(advice[0].change!.window!.rangeDb).toBeCloseTo(35 + by, 6);
    expect(advice[0].text).toMatch(/^At its ceiling \d+ % (of the time|from \d:\d\d to \d:\d\d)/);
    changeShaping(shaping, advice[0].change!);
    const again = healthOf(raw, shape(raw, shaping), 1, { measure, shaping });
    expect(again.atCeiling).toBeLessThan(0.08);
    expect(adviseOn(again, raw, { measure, shaping }).map(({ code }) => code)).not.toContain("pinned");
  });

  it("counts the gain that comes before the window", () => {
    const gain = { gain: { on: true, db: 20 } };
    const [advice] = look(ramp(-70, -22, 1000), {
      ...OFF,
      ...gain,
      window: { floorDb: -60, rangeDb: 35 },
    }).advice;
    expect(advice.change!.window!.rangeDb).toBeCloseTo(35 + 21.6, 0);
  });

  it("lowers the range of a strand that never comes up, and the floor of one below it", () => {
    const low = look(ramp(-60, -40, 500), OFF).advice.find(({ code }) => code === "low")!;
    expect(low.change!.window!.rangeDb).toBeLessThan(25);
    const below = look(ramp(-78, -70, 500), { ...OFF, window: { floorDb: -40, rangeDb: 30 } }).advice[0];
    expect(below.text).toMatch(/below the floor/);
    expect(below.change!.window!.floorDb).toBeLessThan(-70);
  });

  it("smooths a jittering strand, and says nothing about a good one", () => {
    const flicker = Array.from({ length: 400 }, (_, i) => (i % 2 ? -15 : -55));
    const advice = look(flicker, OFF).advice.find(({ code }) => code === "jittery")!;
    expect(advice.change!.follow).toMatchObject({ on: true });
    expect(look(Array.from({ length: 900 }, (_, i) => -35 + 22 * Math.sin(i / 40))).advice).toEqual([]);
  });

  it("can only give instructions for a silent strand", () => {
    expect(look(new Array(200).fill(Number.NEGATIVE_INFINITY)).advice).toEqual([
      expect.objectContaining({
        code: "silent",
        change: undefined,
        text: expect.stringContaining("widen the range"),
      }),
    ]);
  });

  it("never praises a strand that is at its ceiling most of the time", () => {
    const raw = Float32Array.from({ length: 1000 }, (_, i) => (i % 10 === 0 ? 0.2 : 0.9));
    const changes: ShapingChange[] = [
      { window: { on: false }, clamp: { on: true } },
      { gain: { on: true, db: 30 } },
      { autoRange: { on: true, fallDbPerS: 40 } },
      { output: { on: true, scale: 6, offset: 0 } },
    ];
    for (const change of changes) {
      const shaping = defaultShaping();
      changeShaping(shaping, change);
      const shaped = shape(
        raw.map((x) => (change.window ? x * 3 : x)),
        shaping,
      );
      const tuning = { measure: MEASURES.band.defaults, shaping };
      const health = healthOf(
        raw.map((x) => (change.window ? x * 3 : x)),
        shaped,
        1,
        tuning,
      );
      if (health.atCeiling < 0.5) continue;
      expect(adviseOn(health, raw, tuning).map(({ code }) => code)).toContain("pinned");
    }
  });

  it("counts how often each level occurs", () => {
    const raw = Float32Array.from({ length: 400 }, (_, i) =>
      i % 4 === 0 ? level(-10) : i % 4 === 1 ? 0 : level(-50),
    );
    const { from, step, shares, inDb } = levelsOf(raw, true);
    expect([from, step, inDb]).toEqual([-96, 3, true]);
    const at = (db: number) => shares[Math.floor((db - from) / step)];
    expect(at(-10)).toBeCloseTo(0.25, 9);
    expect(at(-50)).toBeCloseTo(0.5, 9);
    // Silence is below everything that is counted.
    expect(shares[0]).toBeCloseTo(0.25, 9);
    expect(shares.reduce((sum, share) => sum + share)).toBeCloseTo(1, 9);
    const plain = levelsOf(Float32Array.of(0, 500, 1000, 1000), false);
    expect(plain.shares[plain.shares.length - 1]).toBeCloseTo(0.5, 9);
    expect(levelsOf(new Float32Array(0), true).shares.every((share) => share === 0)).toBe(true);
  });
});
