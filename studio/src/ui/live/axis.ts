import { PITCH_LIMITS_HZ } from "@bumbrel/core/dsp/maths/measureWindows";
import { rangeBetween, roundHz } from "@bumbrel/core/dsp/spectrum/frequencyRange";
import { axisToHz, type FrequencyAxis, hzToAxis } from "@bumbrel/core/dsp/spectrum/spectrogram";
import { noteHz } from "@bumbrel/core/dsp/tone/note";
import type { Measure } from "@bumbrel/core/strand/measures/table";

/** Range of the spine: that of music, with a little room below it. */
export const SPINE_AXES: Record<FrequencyAxis["kind"], FrequencyAxis> = {
  log: { kind: "log", lowHz: 28, highHz: 18_000 },
  linear: { kind: "linear", lowHz: 0, highHz: 12_000 },
};

export const AXIS_TICKS: Record<FrequencyAxis["kind"], number[]> = {
  log: [30, 50, 100, 200, 500, 1000, 2000, 5000, 10_000],
  linear: [1000, 2000, 3000, 4000, 5000, 6000, 7000, 8000, 9000, 10_000, 11_000],
};

/** Share of the spine's height, from its top, at which a frequency lies. */
export function hzToTop(axis: FrequencyAxis, hz: number): number {
  return 1 - Math.min(1, Math.max(0, hzToAxis(axis, Math.max(hz, 1e-3))));
}

/** Frequency at a share of the height from the top, rounded as finely as it can be told. */
export function topToHz(axis: FrequencyAxis, top: number): number {
  return roundHz(axisToHz(axis, 1 - Math.min(1, Math.max(0, top))));
}

/** Moves a range by a distance on the axis, keeping its width there. */
export function shiftRange(axis: FrequencyAxis, range: { lowHz: number; highHz: number }, shareUp: number) {
  const low = hzToAxis(axis, Math.max(range.lowHz, 1e-3));
  const high = hzToAxis(axis, range.highHz);
  const by = Math.min(1 - high, Math.max(-low, shareUp));
  return rangeBetween(axisToHz(axis, low + by), axisToHz(axis, high + by));
}

/** Steps that dragging keeps to: notes where frequency is heard in ratios, tens of hertz where it is not. */
const LINEAR_STEP_HZ = 10;

/** The nearest note, or the nearest ten hertz on a linear axis. */
export function snapHz({ kind }: FrequencyAxis, hz: number): number {
  if (kind === "linear") return Math.round(hz / LINEAR_STEP_HZ) * LINEAR_STEP_HZ;
  return roundHz(noteHz(Math.round(hzToNote(Math.max(hz, 1)))));
}

const hzToNote = (hz: number) => 69 + 12 * Math.log2(hz / 440);

/** A narrower range holds no pitch worth searching for. */
const NARROWEST_PITCH_HZ = 30;

/** A range within the limits of a measure: pitch is searched for in a narrower one. */
export function limitsOf({ kind }: Measure, { lowHz, highHz }: { lowHz: number; highHz: number }) {
  if (kind !== "pitch" && kind !== "certainty") return { lowHz, highHz };
  const { low, high } = PITCH_LIMITS_HZ;
  const from = Math.min(high - NARROWEST_PITCH_HZ, Math.max(low, lowHz));
  return { lowHz: from, highHz: Math.min(high, Math.max(from + NARROWEST_PITCH_HZ, highHz)) };
}
