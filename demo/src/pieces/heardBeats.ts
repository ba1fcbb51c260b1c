import { finish } from "@bumbrel/core/dsp/maths/slices";
import type { Beat } from "@bumbrel/core/dsp/rhythm/beat";
import { foundBeatsSliced } from "@bumbrel/core/strand/measures/heardBeats";
import type { BeatPiece } from "./beatPieces";

/** The beats of a sound. */
export const beatsOf = (samples: Float32Array, beatsPerBar = 4): readonly Beat[] =>
  finish(foundBeatsSliced({ samples }, beatsPerBar));

/** How near beats have to come to be right: 70 ms, as is usual. */
const NEAR_S = 0.07;

/** How well beats that were found meet those of a piece, within its length. */
export function scoreBeats({ beatsS, barsS }: BeatPiece, beats: readonly Beat[]) {
  const [from, to] = [beatsS[0] - NEAR_S, beatsS[beatsS.length - 1] + NEAR_S];
  const inside = beats.filter(({ at }) => at / 100 >= from && at / 100 <= to);
  const offMs: number[] = [];
  const f = (known: readonly number[], found: readonly number[]) => {
    let [i, k, met] = [0, 0, 0];
    while (i < known.length && k < found.length) {
      const off = found[k] - known[i];
      if (Math.abs(off) <= NEAR_S) {
        if (known === beatsS) offMs.push(1000 * off);
        met++;
        i++;
        k++;
      } else if (off < 0) k++;
      else i++;
    }
    return (2 * met) / (known.length + found.length);
  };
  const timesS = inside.map(({ at }) => at / 100);
  return {
    /** F-measures of beats, and of those that begin bars. */
    f: f(beatsS, timesS),
    barsF: f(
      barsS,
      inside.filter(({ inBar }) => inBar === 0).map(({ at }) => at / 100),
    ),
    /** How late each beat is that was met. */
    offMs,
    bpm: (60 * (timesS.length - 1)) / (timesS[timesS.length - 1] - timesS[0]),
  };
}
