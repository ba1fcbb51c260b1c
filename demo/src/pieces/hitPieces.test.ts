import { analyseStrand } from "@bumbrel/core/analyse/strandAnalysis";
import { HOP_SAMPLES } from "@bumbrel/core/constants";
import { LiveListening, LiveStrand } from "@bumbrel/core/strand/hearing/live";
import { CachedSpectra, DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { compare, HitFinder } from "@bumbrel/core/strand/hits/catch";
import { casesOf } from "@bumbrel/core/testing/full";
import { describe, expect, it } from "@jest/globals";
import { HARD_HITS, makeHitPiece } from "./hitPieces";

/** People mark up to 20 ms early or late. */
const HUMAN_S = [0.018, -0.012, 0.02, -0.02, 0.007, -0.016];

const fOf = (cues: { timeS: number; strength: number }[], hitsS: number[], withinS: number) =>
  (2 * compare(cues, hitsS, withinS).matched) / (hitsS.length + cues.length);

describe("catching hits that one level does not tell from the rest", () => {
  it.each(casesOf(HARD_HITS, 1))("%s, from six marks", (kind) => {
    const { samples, hitsS } = makeHitPiece(kind, 2, 110, 10);
    const marks = hitsS.slice(2, 8).map((timeS, i) => timeS + HUMAN_S[i]);
    const { cues } = new HitFinder(samples, new CachedSpectra()).find(marks);
    expect(fOf(cues, hitsS, 0.025)).toBeGreaterThan(0.85);
  });

  it("lists cues beside the marks, and learns from crossed-out ones", () => {
    const { samples, hitsS } = makeHitPiece("tom fills", 2, 110);
    const finder = new HitFinder(samples, new CachedSpectra());
    const marks = hitsS.slice(1, 6);
    const first = finder.find(marks);
    const wrong = compare(first.cues, hitsS, 0.05).extra;
    expect(wrong.length).toBeGreaterThan(0);
    const crossedOut = wrong.slice(0, 3).map(({ timeS }) => timeS);
    const second = finder.find(marks, crossedOut);
    expect(compare(second.cues, crossedOut, 0.03).matched).toBe(0);
    expect(fOf(second.cues, hitsS, 0.05)).toBeGreaterThan(fOf(first.cues, hitsS, 0.05));
  });

  it("gives a strand that has these cues again, over the whole sound and live", () => {
    const { samples, hitsS } = makeHitPiece("ghost notes", 2, 110, 6);
    const { by, tuning, cues } = new HitFinder(samples, new CachedSpectra()).find(hitsS.slice(1, 6));
    expect(by).toMatchObject({ way: "learnt", hits: 5 });
    expect(analyseStrand({ samples }, tuning, new DirectSpectra()).cues).toEqual(cues);
    const strand = new LiveStrand(tuning);
    const listening = new LiveListening();
    let heard = 0;
    for (let at = 0; at < samples.length; at += HOP_SAMPLES) {
      listening.take(samples.subarray(at, at + HOP_SAMPLES), [strand]);
      heard = strand.cueCount;
    }
    // Live frames lie between those of a whole sound, and the last are still to come.
    expect(Math.abs(heard - cues.length)).toBeLessThanOrEqual(2);
    expect(heard).toBeGreaterThan(10);
  });

  it("begin a drum within a millisecond or two of where it is known to", () => {
    const { samples, hitsS } = makeHitPiece("kick under a bass note", 3, 120, 6);
    const { cues } = new HitFinder(samples, new CachedSpectra()).find(hitsS.slice(2, 7));
    const off = hitsS.map((timeS) => Math.min(...cues.map((cue) => Math.abs(cue.timeS - timeS))));
    off.sort((a, b) => a - b);
    expect(off[off.length >> 1]).toBeLessThan(0.002);
  });
});
