import { FRAME_RATE_HZ, HOP_SAMPLES } from "../../constants";
import { BEAT_SPECTRA } from "../../dsp/maths/measureWindows";
import { choice, number, whole } from "../../setting/descriptor";
import { fraction } from "../../sound/beats";
import type { Cue } from "../../sound/cue";
import type { Signal } from "../hearing/signal";
import { type MeasureReader, measure, overTime, precomputed, single } from "./declaration";
import { type CountedBy, type HeardBeats, LiveBeats, soundBeatsSliced } from "./heardBeats";

/** How beats that are heard in a sound are counted; a clock's are as it says. */
const COUNTED = {
  beatsPerBar: whole(
    "Beats per bar",
    [1, 32],
    4,
    "Beats in a bar, where the sound has none of its own. Bars of 3, 4 and 6 are known by their usual rhythms.",
    { chars: 2 },
  ),
  tempo: choice(
    "Beats counted",
    { heard: "as heard", half: "every other one", double: "twice as many" },
    "heard",
    "Whether the beats that are heard are taken, every other one of them, or one more between each two.",
  ),
  oneAtS: number(
    "Bar begins at",
    "s",
    [0, 36_000, 0.001],
    0,
    "A time at which a bar begins: the beat nearest to it is its first. 0 for where bars are heard to begin. Not for live sounds.",
    { chars: 6 },
  ),
};
const LEAST_CERTAINTY = number(
  "Minimum certainty",
  "",
  [0, 1, 0.01],
  0.2,
  "Beats less certain than this count as none.",
  { chars: 4, before: "if surer than" },
);

type CertainBeats = Pick<HeardBeats, "beatAt" | "barPhase" | "certaintyAt">;

/**
 * Beats of a signal that has none of its own: the likeliest over all of it, or live those that are heard so far, continued.
 *
 * @param take  is called with a beat and its fraction
 */
function foundBeats(
  signal: Signal,
  counted: CountedBy,
  leastCertainty: number,
  take: (beats: CertainBeats, beat: number) => number,
): MeasureReader {
  const read = (beats: CertainBeats | undefined, timeS: number) => {
    if (!beats) return 0;
    const beat = beats.beatAt(timeS);
    return beats.certaintyAt(beat) < leastCertainty ? 0 : take(beats, beat);
  };
  if (signal.beats) {
    const { beats } = signal;
    // A clock's own beats are certain.
    const certain: CertainBeats = {
      beatAt: (timeS) => beats.beatAt(timeS),
      barPhase: (beat) => beats.barPhase(beat),
      certaintyAt: () => 1,
    };
    return overTime((timeS) => read(certain, timeS));
  }
  if (signal.samples.length > 0) {
    let beats: HeardBeats | undefined;
    return {
      ...overTime((timeS) => read(beats, timeS)),
      *prepare() {
        beats = yield* soundBeatsSliced(signal, counted);
      },
    };
  }
  const live = new LiveBeats(counted);
  const newest: CertainBeats = {
    beatAt: () => live.now?.beatInBar ?? 0,
    barPhase: (beat) => fraction(beat / counted.beatsPerBar),
    certaintyAt: () => live.now?.certainty ?? 0,
  };
  return single((cursor) => {
    live.read(cursor);
    return read(live.now && newest, 0);
  });
}

/** Writes each cue to the frame nearest its time; of two on one frame the stronger counts. */
function strike(cues: readonly Cue[], out: Float32Array): void {
  for (const { timeS, strength } of cues) {
    const frame = Math.round(timeS * FRAME_RATE_HZ);
    if (frame >= 0 && frame < out.length) out[frame] = Math.max(out[frame], strength);
  }
}

const sharedBeats = ({ beatsPerBar }: { beatsPerBar: number }) => `beats ${beatsPerBar}`;
const beatsAhead = () => BEAT_SPECTRA.fftSize / 2;

/** Beats, bars and positions. */
export const TIMES = {
  beatPhase: measure({
    label: "Beat phase",
    help: "Rises from 0 to 1 over each beat: a clock's own, or those heard in the sound.",
    group: "time",
    unit: "share",
    reads: ["beats", "samples"],
    settings: { ...COUNTED, leastCertainty: LEAST_CERTAINTY },
    shares: sharedBeats,
    ahead: beatsAhead,
    start: (measure, signal) =>
      foundBeats(signal, measure, measure.leastCertainty, (_beats, beat) => fraction(beat)),
  }),
  barPhase: measure({
    label: "Bar phase",
    help: "Rises from 0 to 1 over each bar: a clock's own, or so many of the beats heard in the sound.",
    group: "time",
    unit: "share",
    reads: ["beats", "samples"],
    settings: { ...COUNTED, leastCertainty: LEAST_CERTAINTY },
    shares: sharedBeats,
    ahead: beatsAhead,
    start: (measure, signal) =>
      foundBeats(signal, measure, measure.leastCertainty, (beats, beat) => beats.barPhase(beat)),
  }),
  beatCertainty: measure({
    label: "Beat certainty",
    help: "How sure the beats are that are heard in the sound: near 1 for a steady rhythm, near 0 for noise and where nothing repeats.",
    group: "time",
    unit: "share",
    reads: ["beats", "samples"],
    settings: { beatsPerBar: COUNTED.beatsPerBar },
    shares: sharedBeats,
    ahead: beatsAhead,
    start: ({ beatsPerBar }, signal) =>
      foundBeats(signal, { beatsPerBar, tempo: "heard", oneAtS: 0 }, 0, (beats, beat) =>
        beats.certaintyAt(beat),
      ),
  }),
  position: measure({
    label: "Position",
    help: "The share of the sound that has been played, 0 to 1.",
    group: "time",
    unit: "share",
    reads: ["samples", "beats", "notes"],
    settings: {},
    ahead: () => 0,
    start: (_measure, { samples }) =>
      single(({ frame }) => (samples.length > 0 ? Math.min(1, (frame * HOP_SAMPLES) / samples.length) : 0)),
  }),
  curve: measure({
    label: "Drawn curve",
    help: "The curve drawn for a clock, repeating with its beats.",
    group: "time",
    unit: "share",
    reads: ["curve"],
    settings: {},
    ahead: () => 0,
    start: (_measure, { curve }) => overTime((timeS) => curve?.(timeS) ?? 0),
  }),
  ticks: measure({
    label: "Ticks",
    help: "As strong as the tick on each tick of a clock or start of a note, 0 between them; release makes it ring on.",
    group: "time",
    unit: "share",
    reads: ["beats"],
    settings: {},
    ahead: () => 0,
    start: (_measure, signal) =>
      precomputed(signal, (out) => {
        if (signal.beats) strike(signal.beats.ticks(0, out.length / FRAME_RATE_HZ), out);
      }),
  }),
};
