import { DEFAULT_FFT_SIZE, FRAME_RATE_HZ, HOP_SAMPLES } from "../../constants";
import { DEFAULT_WINDOW } from "../../dsp/window";
import { whole } from "../../setting/descriptor";
import { type Beats, fraction } from "../../sound/beats";
import type { Cue } from "../../sound/cue";
import { WholeCursor } from "../cursor";
import { framesOf, type Signal } from "../signal";
import { DirectSpectra } from "../spectra";
import { type MeasureReader, measure, overTime, precomputed, single } from "./declaration";
import { soundBeats, soundBeatsSliced } from "./heardBeats";
import { onsetReader, WHOLE_RANGE } from "./onset";

/** Spectra that beats are heard in. */
const HEARD_IN = { fftSize: DEFAULT_FFT_SIZE, window: DEFAULT_WINDOW };
const LOW_END = { lowHz: 27, highHz: 160 };

/** Frames read between two chances to stop: a millisecond or two. */
const FRAMES_A_SLICE = 64;
/** Beats of a live sound are found in this much of it, and again every half second. */
const LISTEN_FRAMES = 10 * FRAME_RATE_HZ;
const AGAIN_FRAMES = FRAME_RATE_HZ / 2;

/**
 * Beats of a signal that has none of its own: found in its onsets, over all of it, or live over the last ten seconds
 * and continued from there.
 */
function foundBeats(
  signal: Signal,
  perBar: number,
  take: (beats: Beats | undefined, timeS: number) => number,
): MeasureReader {
  if (signal.beats) return overTime((timeS) => take(signal.beats, timeS));
  const onsets = [WHOLE_RANGE, LOW_END].map((range) => onsetReader(HEARD_IN, range));
  if (signal.samples.length > 0) {
    let beats: Beats | undefined;
    return {
      ...overTime((timeS) => take(beats, timeS)),
      *prepare() {
        const frames = framesOf(signal);
        const [all, low] = [new Float32Array(frames), new Float32Array(frames)];
        const cursor = new WholeCursor(signal, new DirectSpectra());
        for (let frame = 0; frame < frames; frame++) {
          cursor.moveTo(frame);
          onsets[0].read(cursor, all, frame);
          onsets[1].read(cursor, low, frame);
          if (frame % FRAMES_A_SLICE === 0) yield;
        }
        beats = yield* soundBeatsSliced(all, low, perBar);
      },
    };
  }
  const heard = { all: new Float32Array(LISTEN_FRAMES), low: new Float32Array(LISTEN_FRAMES) };
  let frames = 0;
  let beats: Beats | undefined;
  return single((cursor) => {
    heard.all.copyWithin(0, 1);
    heard.low.copyWithin(0, 1);
    onsets[0].read(cursor, heard.all, LISTEN_FRAMES - 1);
    onsets[1].read(cursor, heard.low, LISTEN_FRAMES - 1);
    frames++;
    const known = Math.min(frames, LISTEN_FRAMES);
    if (frames % AGAIN_FRAMES === 0 && known >= 2 * FRAME_RATE_HZ) {
      const startS = (frames - known) / FRAME_RATE_HZ;
      const found = soundBeats(heard.all.subarray(-known), heard.low.subarray(-known), perBar);
      beats = found && { ...found, beatAt: (timeS) => found.beatAt(timeS - startS) };
    }
    return take(beats, (frames - 1) / FRAME_RATE_HZ);
  });
}

/** Writes each cue to the frame nearest its time; of two on one frame the stronger counts. */
function strike(cues: readonly Cue[], out: Float32Array): void {
  for (const { timeS, strength } of cues) {
    const frame = Math.round(timeS * FRAME_RATE_HZ);
    if (frame >= 0 && frame < out.length) out[frame] = Math.max(out[frame], strength);
  }
}

/** Beats, bars and positions. */
export const TIMES = {
  beatPhase: measure({
    label: "Beat phase",
    help: "Rises from 0 to 1 over each beat: a clock's own, or those heard in the sound.",
    group: "time",
    unit: "share",
    reads: ["beats", "samples"],
    settings: {},
    ahead: () => DEFAULT_FFT_SIZE / 2,
    start: (_measure, signal) =>
      foundBeats(signal, 4, (beats, timeS) => (beats ? fraction(beats.beatAt(timeS)) : 0)),
  }),
  barPhase: measure({
    label: "Bar phase",
    help: "Rises from 0 to 1 over each bar: a clock's own, or so many of the beats heard in the sound.",
    group: "time",
    unit: "share",
    reads: ["beats", "samples"],
    settings: {
      beatsPerBar: whole(
        "Beats per bar",
        [1, 32],
        4,
        "Beats in a bar, where the sound has none of its own.",
        { chars: 2 },
      ),
    },
    ahead: () => DEFAULT_FFT_SIZE / 2,
    start: (measure, signal) =>
      foundBeats(signal, measure.beatsPerBar, (beats, timeS) =>
        beats ? beats.barPhase(beats.beatAt(timeS)) : 0,
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
