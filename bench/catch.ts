import { compare, HitFinder } from "@bumbrel/core/strand/catch";
import { CachedSpectra } from "@bumbrel/core/strand/spectra";
import { DRUM_PIECES, makeDrumPiece } from "@bumbrel/demo/drumPiece";

/** People mark a little early or late. */
const HUMAN_S = [0.018, -0.012, 0.024, -0.02];

/** F-measures (±50 ms) of kick and snare over whole pieces, caught from four marked hits of each. */
for (const settings of DRUM_PIECES) {
  const { samples, kicksS, snaresS } = makeDrumPiece(settings);
  const finder = new HitFinder(samples, new CachedSpectra());
  const figures = [kicksS, snaresS].map((hits) => {
    const marks = hits.slice(6, 10).map((timeS, i) => timeS + HUMAN_S[i]);
    const { cues, lowHz, highHz } = finder.find(marks);
    const f = (2 * compare(cues, hits).matched) / (hits.length + cues.length);
    return `F ${f.toFixed(3)} in ${lowHz} to ${highHz} Hz of ${hits.length}`;
  });
  const what = `caught at ${settings.bpm} BPM, ${settings.gainDb} dB, seed ${settings.seed}`;
  console.log(`${what.padEnd(46)} kick ${figures[0]}; snare ${figures[1]}`);
}
