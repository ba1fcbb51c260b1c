import { describe, expect, it } from "@jest/globals";
import { SAMPLE_RATE_HZ } from "../../constants";
import type { Cue } from "../../sound/cue";
import { DirectSpectra } from "../hearing/spectra";
import { SHAPING_STEPS } from "../shape/shaping";
import { compare, HitFinder, hitTuning, topDb } from "./catch";

const LENGTH_S = 8;
/** Low hits on the beat, high ones between them, so that both sound at different times. */
const LOW_S = Array.from({ length: 14 }, (_, i) => 0.5 + i * 0.5);
const HIGH_S = Array.from({ length: 13 }, (_, i) => 0.75 + i * 0.5);

/** Bursts that die away, each time at one frequency, over a little noise. */
function bursts(...kinds: { timesS: readonly number[]; hz: number; level: number; decayS: number }[]) {
  let seed = 1;
  const noise = () => {
    seed = (seed * 1_103_515_245 + 12_345) % 2 ** 31;
    return seed / 2 ** 30 - 1;
  };
  const samples = Float32Array.from({ length: LENGTH_S * SAMPLE_RATE_HZ }, () => 0.003 * noise());
  for (const { timesS, hz, level, decayS } of kinds) {
    for (const timeS of timesS) {
      const first = Math.round(timeS * SAMPLE_RATE_HZ);
      for (let i = 0; i < decayS * 6 * SAMPLE_RATE_HZ && first + i < samples.length; i++) {
        const t = i / SAMPLE_RATE_HZ;
        samples[first + i] += level * Math.exp(-t / decayS) * Math.sin(2 * Math.PI * hz * t);
      }
    }
  }
  return samples;
}

const drums = () =>
  bursts(
    { timesS: LOW_S, hz: 60, level: 0.8, decayS: 0.06 },
    { timesS: HIGH_S, hz: 7000, level: 0.3, decayS: 0.02 },
  );
const cuesAt = (...timesS: number[]): Cue[] => timesS.map((timeS) => ({ timeS, strength: 1 }));

/** How many times have a cue of their own within 50 ms; counted plainly, one after the other. */
function met(timesS: readonly number[], cues: readonly Cue[]): number {
  const left = cues.map(({ timeS }) => timeS);
  return timesS.filter((timeS) => {
    const at = left.findIndex((cue) => Math.abs(cue - timeS) <= 0.05);
    if (at >= 0) left.splice(at, 1);
    return at >= 0;
  }).length;
}

describe("HitFinder", () => {
  const finder = new HitFinder(drums(), new DirectSpectra());

  it("finds every low hit from three marks, and none of the high ones", () => {
    const found = finder.find([LOW_S[2] + 0.015, LOW_S[3] - 0.01, LOW_S[4] + 0.02]);
    expect(found.by).toMatchObject({ way: "range" });
    if (found.by.way === "range") expect(found.by.lowHz).toBeLessThan(60);
    expect(found).toMatchObject({ precision: 1, recall: 1, missed: [], extra: [] });
    expect(found.cues).toHaveLength(LOW_S.length);
    expect(met(LOW_S, found.cues)).toBe(LOW_S.length);
  });

  it("finds the high hits instead when those are marked", () => {
    const found = finder.find(HIGH_S.slice(5, 9));
    expect(found.cues).toHaveLength(HIGH_S.length);
    expect(met(HIGH_S, found.cues)).toBe(HIGH_S.length);
  });

  it("says which marks it could not meet, and which cues met none", () => {
    // Halfway between two hits there is nothing to find.
    const nothing = LOW_S[3] + 0.125;
    const found = finder.find([LOW_S[2], LOW_S[3], nothing, LOW_S[4]]);
    expect(found.recall).toBeCloseTo(3 / 4);
    expect(found.missed).toEqual([nothing]);
    expect(found.precision).toBeCloseTo(3 / (3 + found.extra.length));
  });

  it("reads the sound in slices and says how far it has come", () => {
    const shares: number[] = [];
    const slices = [...new HitFinder(drums(), new DirectSpectra()).prepare((share) => shares.push(share))];
    expect(slices.length).toBeGreaterThanOrEqual(4);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
    expect(shares.at(-1)).toBeLessThan(1);
  });

  it("refuses too few marks, and marks outside the sound", () => {
    expect(() => finder.find([1, 2])).toThrow(/at least 3 marked hits, not 2/);
    expect(() => finder.find([1, 1, 1])).toThrow(/not 1/);
    expect(() => finder.find([1, 2, 9])).toThrow(
      /the mark at 9 s lies outside the sound, which ends at 8.00 s/,
    );
    expect(() => finder.find([1, 2, Number.NaN])).toThrow(RangeError);
  });
});

describe("hitTuning", () => {
  it("puts the mark at the wanted level of the shaped number", () => {
    const { measure, shaping, cues } = hitTuning(100, 200, -20, -6);
    const { floorDb, rangeDb } = shaping.window;
    expect(floorDb + cues.mark * rangeDb).toBeCloseTo(-20);
    expect(floorDb + rangeDb).toBeCloseTo(-6);
    expect(measure).toMatchObject({ kind: "band", lowHz: 100, highHz: 200 });
  });

  it("keeps marks and floors within their limits", () => {
    expect(hitTuning(100, 200, -200, -6).cues.mark).toBe(0);
    expect(hitTuning(100, 200, 40, -6).cues.mark).toBe(1);
    const { min } = SHAPING_STEPS.window.settings.floorDb;
    expect(hitTuning(100, 200, -90, -96).shaping.window.floorDb).toBe(min);
  });
});

describe("topDb", () => {
  it("gives the loudest level, and silence for nothing", () => {
    expect(topDb(Float32Array.of(0.01, 0.5, 0.1))).toBeCloseTo(20 * Math.log10(0.5));
    expect(topDb(new Float32Array(4))).toBeLessThanOrEqual(-96);
  });
});

describe("compare", () => {
  it("matches one to one, the nearest first", () => {
    // The cue between both marks is nearer to the second, which has a nearer one of its own.
    expect(compare(cuesAt(1.03, 1.06), [1, 1.06])).toEqual({ matched: 2, missed: [], extra: [] });
    expect(compare(cuesAt(1), [0.98, 1.01])).toEqual({ matched: 1, missed: [0.98], extra: [] });
    expect(compare(cuesAt(1, 2), [1])).toEqual({ matched: 1, missed: [], extra: cuesAt(2) });
  });

  it("counts a cue that lies exactly at the limit, and none beyond it", () => {
    expect(compare(cuesAt(1.05), [1]).matched).toBe(1);
    expect(compare(cuesAt(1.0501), [1]).matched).toBe(0);
    expect(compare(cuesAt(1.2), [1], 0.25).matched).toBe(1);
  });
});
