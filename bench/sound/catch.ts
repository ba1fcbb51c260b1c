import { CachedSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { compare, HitFinder } from "@bumbrel/core/strand/hits/catch";
import { DRUM_PIECES, makeDrumPiece } from "@bumbrel/demo/pieces/drumPiece";
import { HARD_HITS, makeHitPiece } from "@bumbrel/demo/pieces/hitPieces";

/** People mark a little early or late. */
const HUMAN_S = [0.018, -0.012, 0.024, -0.02];

/** F-measures (±50 and ±25 ms) and typical errors of kick and snare over whole pieces, caught from four marked hits of each. */
for (const settings of DRUM_PIECES) {
  const { samples, kicksS, snaresS } = makeDrumPiece(settings);
  const finder = new HitFinder(samples, new CachedSpectra());
  const figures = [kicksS, snaresS].map((hits) => {
    const marks = hits.slice(6, 10).map((timeS, i) => timeS + HUMAN_S[i]);
    const { cues, by } = finder.find(marks);
    const f = (withinS: number) =>
      ((2 * compare(cues, hits, withinS).matched) / (hits.length + cues.length)).toFixed(3);
    const off = hits
      .map((hitS) => Math.min(...cues.map(({ timeS }) => Math.abs(timeS - hitS))))
      .sort((a, b) => a - b);
    const typicalMs = (1000 * off[off.length >> 1]).toFixed(1);
    return `F ${f(0.05)}, ${f(0.025)} within 25 ms, ${typicalMs} ms off, ${by.way === "range" ? `in ${by.lowHz} to ${by.highHz} Hz` : "learnt"} of ${hits.length}`;
  });
  const what = `caught at ${settings.bpm} BPM, ${settings.gainDb} dB, seed ${settings.seed}`;
  console.log(`${what.padEnd(46)} kick ${figures[0]}; snare ${figures[1]}`);
}

/** The same of hits that one level does not tell from what sounds beside them, from four and six marks. */
for (const kind of HARD_HITS) {
  const figures = [1, 2, 3, 4].flatMap((seed) => {
    const { samples, hitsS } = makeHitPiece(kind, seed, 90 + 10 * seed);
    const finder = new HitFinder(samples, new CachedSpectra());
    return [4, 6].map((count) => {
      const marks = hitsS.slice(2, 2 + count).map((timeS, i) => timeS + HUMAN_S[i % HUMAN_S.length]);
      const { cues } = finder.find(marks);
      return (2 * compare(cues, hitsS, 0.05).matched) / (hitsS.length + cues.length);
    });
  });
  const mean = figures.reduce((sum, one) => sum + one, 0) / figures.length;
  const each = figures.map((f) => f.toFixed(2)).join(" ");
  console.log(`caught, ${kind}: F ${mean.toFixed(3)} in the mean of eight (${each})`);
}
