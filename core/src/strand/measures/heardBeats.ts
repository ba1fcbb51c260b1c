import { FRAME_RATE_HZ } from "../../constants";
import { findBeatsSliced } from "../../dsp/beat";
import { finish, type Sliced } from "../../dsp/slices";
import { type Beats, fraction, TICK_STRENGTHS } from "../../sound/beats";

/**
 * Beats and bars heard in a sound. Bars begin where the low end hits hardest.
 *
 * @param onsets  onset strength, 100 frames a second
 * @param lowOnsets  that of the low end, for telling which beat is a bar's first
 * @returns `undefined` when nothing repeats
 */
export function soundBeats(
  onsets: Float32Array,
  lowOnsets: Float32Array,
  beatsPerBar: number,
): HeardBeats | undefined {
  return finish(soundBeatsSliced(onsets, lowOnsets, beatsPerBar));
}

/** Beats with their tempo. */
export type HeardBeats = Beats & { bpm: number };

/** {@link soundBeats} in slices. */
export function* soundBeatsSliced(
  onsets: Float32Array,
  lowOnsets: Float32Array,
  beatsPerBar: number,
): Sliced<HeardBeats | undefined> {
  const { bpm, timesS } = yield* findBeatsSliced(onsets, lowOnsets);
  if (timesS.length < 2) return undefined;
  const periodS = 60 / bpm;
  const last = timesS.length - 1;
  const beatAt = (timeS: number): number => {
    if (timeS < timesS[0]) return (timeS - timesS[0]) / periodS;
    if (timeS >= timesS[last]) return last + (timeS - timesS[last]) / periodS;
    let [low, high] = [0, last];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (timesS[middle] <= timeS) low = middle;
      else high = middle;
    }
    return low + (timeS - timesS[low]) / (timesS[high] - timesS[low]);
  };
  const first = firstOfBar(timesS, lowOnsets, beatsPerBar);
  const inBar = (beat: number) => beat - first;
  return {
    bpm,
    beatAt,
    barPhase: (beat) => fraction(inBar(beat) / beatsPerBar),
    ticks: (fromS, toS) =>
      timesS
        .map((timeS, beat) => ({
          timeS,
          strength: inBar(beat) % beatsPerBar === 0 ? TICK_STRENGTHS.bar : TICK_STRENGTHS.beat,
        }))
        .filter(({ timeS }) => timeS >= fromS && timeS < toS),
  };
}

/** Which of the first beats begins a bar: the one whose beats, a bar apart, have the most low end. */
function firstOfBar(timesS: readonly number[], lowOnsets: Float32Array, beatsPerBar: number): number {
  const weights = new Array<number>(beatsPerBar).fill(0);
  const counts = new Array<number>(beatsPerBar).fill(0);
  timesS.forEach((timeS, beat) => {
    const frame = Math.round(timeS * FRAME_RATE_HZ);
    let most = 0;
    for (let i = frame - 4; i <= frame + 4; i++) most = Math.max(most, lowOnsets[i] ?? 0);
    weights[beat % beatsPerBar] += most;
    counts[beat % beatsPerBar]++;
  });
  const means = weights.map((weight, i) => weight / Math.max(1, counts[i]));
  return means.indexOf(Math.max(...means));
}
