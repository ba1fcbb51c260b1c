import { analyseStrand } from "@bumbrel/core/analyse/strandAnalysis";
import { findBeats } from "@bumbrel/core/dsp/beat";
import { compare, HitFinder, hitTuning, topDb } from "@bumbrel/core/strand/catch";
import { MEASURES, measureSound } from "@bumbrel/core/strand/measures/table";
import { CachedSpectra, DirectSpectra } from "@bumbrel/core/strand/spectra";
import { describe, expect, it } from "@jest/globals";
import { DRUM_PIECES, makeDrumPiece } from "./drumPiece";

/** People mark a little early or late. */
const HUMAN_S = [0.02, -0.015, 0.01, -0.025];

describe("catch", () => {
  it.each([DRUM_PIECES[0], DRUM_PIECES[3], DRUM_PIECES[8]])(
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
        expect(hitTuning(found.lowHz, found.highHz, found.mark, topDb(raw))).toEqual(found.tuning);
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

describe("tempo", () => {
  it.each([60, 66, 75, 84, 96, 108, 120, 132, 144, 156, 168, 180])(
    "is found within 1 %% at %d BPM, with every beat",
    (bpm) => {
      const { samples } = makeDrumPiece({ seed: bpm, bpm, gainDb: -12, bars: 10 });
      const spectra = new CachedSpectra();
      const [all, low] = [{}, { lowHz: 27, highHz: 160 }].map((range) =>
        measureSound({ samples }, { ...MEASURES.onset.defaults, ...range }, spectra),
      );
      const beats = findBeats(all, low);
      expect(Math.abs(beats.bpm / bpm - 1)).toBeLessThan(0.01);
      expect(Math.abs(beats.timesS.length - 40)).toBeLessThanOrEqual(2);
      for (const timeS of beats.timesS) {
        const beat = (timeS * bpm) / 60;
        expect((Math.abs(beat - Math.round(beat)) * 60) / bpm).toBeLessThan(0.04);
      }
    },
  );

  it("begins bars on the kick, and finds none in silence", () => {
    const { samples, kicksS } = makeDrumPiece({ seed: 3, bpm: 120, gainDb: -12, bars: 8 });
    const phase = measureSound({ samples }, MEASURES.barPhase.defaults, new DirectSpectra());
    const starts = [...phase.keys()].filter((frame) => frame > 0 && phase[frame] < phase[frame - 1] - 0.5);
    expect(starts.length).toBeGreaterThanOrEqual(6);
    for (const frame of starts)
      expect(Math.min(...kicksS.map((timeS) => Math.abs(timeS - frame / 100)))).toBeLessThan(0.05);
    const silence = new Float32Array(200);
    expect(findBeats(silence, silence)).toEqual({ bpm: 0, timesS: [] });
  });
});
