import type { Samples } from "../../../dsp/maths/samples";
import type { Sliced } from "../../../dsp/maths/slices";
import { PitchFinder } from "../../../dsp/tone/pitch";
import { type FramePeriod, PitchPath } from "../../../dsp/tone/pitchPath";
import { WholeCursor } from "../../hearing/cursor";
import { framesOf, type Signal } from "../../hearing/signal";
import { DirectSpectra } from "../../hearing/spectra";
import { type MeasureReader, single } from "../declaration";

interface PitchRange {
  lowHz: number;
  highHz: number;
}

/** Samples after the instant that pitches are looked for in. */
export const pitchAhead = ({ lowHz, highHz }: PitchRange): number =>
  new PitchFinder(lowHz, highHz).aheadSamples;

/** Frames read between two chances to stop: a few milliseconds. */
const FRAMES_A_SLICE = 8;

/** Periods of sounds by their samples and range: pitch and its certainty look for them once. */
const found = new WeakMap<Samples, Map<string, readonly FramePeriod[]>>();

/** The period of each frame of a whole sound, in slices. */
export function* periodsSliced(
  signal: Pick<Signal, "samples" | "frames">,
  { lowHz, highHz }: PitchRange,
): Sliced<readonly FramePeriod[]> {
  const ofSound = found.get(signal.samples) ?? new Map<string, readonly FramePeriod[]>();
  found.set(signal.samples, ofSound);
  const range = `${lowHz} ${highHz}`;
  const known = ofSound.get(range);
  if (known) return known;
  const finder = new PitchFinder(lowHz, highHz);
  const frames = framesOf(signal);
  const path = new PitchPath(Math.max(1, frames));
  const cursor = new WholeCursor(signal, new DirectSpectra());
  for (let frame = 0; frame < frames; frame++) {
    cursor.moveTo(frame);
    finder.moveTo(cursor.samples, cursor.centre);
    path.push(finder.candidates());
    if (frame % FRAMES_A_SLICE === 0) yield;
  }
  const periods = path.whole();
  ofSound.set(range, periods);
  return periods;
}

/**
 * Reads pitches: over a known sound by the likeliest way through all of it, live by what was heard so far.
 *
 * @param take  is called with the pitch in Hz and how sure it is; 0 and 0 for none
 */
export function pitchReader(
  range: PitchRange,
  signal: Signal,
  take: (hz: number, certainty: number) => number,
): MeasureReader {
  const finder = new PitchFinder(range.lowHz, range.highHz);
  const refined = ({ lag, certainty }: FramePeriod) =>
    lag > 0 ? take(finder.refinedHz(lag), certainty) : take(0, 0);
  if (signal.samples.length === 0) {
    const path = new PitchPath(1);
    return single(({ samples, centre }) => {
      finder.moveTo(samples, centre);
      path.push(finder.candidates());
      return refined(path.newest());
    });
  }
  let periods: readonly FramePeriod[] = [];
  return {
    ...single(({ samples, centre, frame }) => {
      const period = periods[frame];
      if (!period) return take(0, 0);
      finder.moveTo(samples, centre);
      return refined(period);
    }),
    *prepare() {
      periods = yield* periodsSliced(signal, range);
    },
  };
}
