import { analyseStrand } from "@bumbrel/core/analyse/strandAnalysis";
import { CachedSpectra, DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { compare, HitFinder, hitTuning, topDb } from "@bumbrel/core/strand/hits/catch";
import { casesOf } from "@bumbrel/core/testing/full";
import { describe, expect, it } from "@jest/globals";
import { DRUM_PIECES, makeDrumPiece } from "./drumPiece";

/** People mark a little early or late. */
const HUMAN_S = [0.02, -0.015, 0.01, -0.025];

describe("catch", () => {
  it.each(casesOf([DRUM_PIECES[0], DRUM_PIECES[3], DRUM_PIECES[8]], 1))(
    "catches kick and snare of $bpm BPM at $gainDb dB from four marks",
    (settings) => {
      const { samples, kicksS, snaresS } = makeDrumPiece({ ...settings, bars: 10 });
      const finder = new HitFinder(samples, new CachedSpectra());
      for (const hits of [kicksS, snaresS]) {
        const found = finder.find(hits.slice(5, 9).map((timeS, i) => timeS + HUMAN_S[i]));
        expect([found.precision, found.recall]).toEqual([1, 1]);
        // Within 25 ms of the hits, and typically far nearer.
        const { matched } = compare(found.cues, hits, 0.025);
        expect((2 * matched) / (hits.length + found.cues.length)).toBeGreaterThanOrEqual(0.95);
        const off = hits
          .map((hitS) => Math.min(...found.cues.map(({ timeS }) => Math.abs(timeS - hitS))))
          .sort((a, b) => a - b);
        expect(off[off.length >> 1]).toBeLessThan(0.002);
        // The strand that is offered gives just these cues.
        const { raw, cues } = analyseStrand({ samples }, found.tuning, new DirectSpectra());
        expect(cues).toEqual(found.cues);
        const { by } = found;
        if (by.way !== "range") throw new Error("a range is enough for these");
        expect(hitTuning(by.lowHz, by.highHz, by.mark, topDb(raw))).toEqual(found.tuning);
      }
    },
  );

  it("asks for three marks inside the sound, and answers in silence", () => {
    const finder = new HitFinder(new Float32Array(96_000), new CachedSpectra());
    expect(() => finder.find([0.5, 1, 1])).toThrow(/at least 3/);
    expect(() => finder.find([0.5, 1, 3])).toThrow(/outside the sound/);
    expect(finder.find([0.5, 1, 1.5])).toMatchObject({
      precision: 0,
      recall: 0,
      missed: [0.5, 1, 1.5],
      cues: [],
    });
  });

  it("matches one to one, the nearest first", () => {
    const cues = [1, 1.04, 2].map((timeS) => ({ timeS, strength: 1 }));
    const result = compare(cues, [1.03, 3]);
    expect([result.matched, result.missed, result.extra.map(({ timeS }) => timeS)]).toEqual([1, [3], [1, 2]]);
  });
});
