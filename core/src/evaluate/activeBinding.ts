import { AXES, type Axis } from "../document/axes";
import type { Binding } from "../document/scene";
import { drawnCurve } from "../dsp/maths/curve";
import { type ColourBlend, colourRamp } from "../setting/colour";
import type { Cue } from "../sound/cue";
import type { Track } from "../strand/track";
import type { Slot } from "./slots";

/** A binding prepared for evaluation: references resolved, curves and ramps built. */
export interface ActiveBinding {
  binding: Binding;
  slot: Slot;
  /** Which of the slot's numbers it moves. */
  axes: readonly number[];
  /** Maps a strand's number to the share between the two ends of the output. */
  share(value: number): number;
  low: number;
  high: number;
  blend: ColourBlend | undefined;
  track: Track | undefined;
  /** For rates: sums since the start, one for each band of the strand; empty until its track is known. */
  sums: Float64Array;
}

/** @returns `undefined` when the binding's output does not fit the property */
export function activateBinding(binding: Binding, slot: Slot): ActiveBinding | undefined {
  const { output, input, curve, mode } = binding;
  const isColour = slot.property.type === "colour";
  if (isColour !== (output.kind === "colours")) return undefined;
  if (isColour && mode !== "set") return undefined;
  const bend = curveOf(curve);
  const { low, high } = input;
  return {
    binding,
    slot,
    axes: slot.property.type === "vector" ? binding.axes.map((axis: Axis) => AXES.indexOf(axis)) : [0],
    share: bend ? (value) => bend(inputShare(value, low, high)) : (value) => inputShare(value, low, high),
    low: output.kind === "range" ? output.low : 0,
    high: output.kind === "range" ? output.high : 0,
    blend: output.kind === "colours" ? colourRamp(output.stops, output.mix) : undefined,
    track: undefined,
    sums: new Float64Array(0),
  };
}

/** @returns `undefined` for a straight line, which thousands of copies a frame go along */
function curveOf(curve: Binding["curve"]): ((share: number) => number) | undefined {
  if (curve.kind === "drawn") {
    const points = [...curve.points].sort((a, b) => a.at - b.at);
    return drawnCurve(points.filter(({ at }, i) => i === 0 || at > points[i - 1].at));
  }
  const { power } = curve;
  return power === 1 ? undefined : (share) => share ** power;
}

/**
 * Position of a strand's value between two input marks, clamped to 0..1. Marks in reverse order run backwards; two
 * equal marks make a switch.
 */
export function inputShare(value: number, low: number, high: number): number {
  if (low === high) return value >= high ? 1 : 0;
  return Math.min(1, Math.max(0, (value - low) / (high - low)));
}

/** The output value of a range binding for a strand's number. */
export function outputFor(active: ActiveBinding, value: number): number {
  return active.low + (active.high - active.low) * active.share(value);
}

/** A kick is over after this many time constants: it is down to a millionth. */
const DECAYS = 14;

/**
 * Sum, at a time, of the remainders of all kicks before it.
 *
 * @param cues  in order of time
 */
export function kickOffset(active: ActiveBinding, cues: readonly Cue[], timeS: number): number {
  const { decayMs, alternate } = active.binding;
  const decayS = decayMs / 1000;
  let sum = 0;
  for (let i = cuesUpTo(cues, timeS) - 1; i >= 0; i--) {
    const age = timeS - cues[i].timeS;
    if (age > DECAYS * decayS) break;
    const sign = alternate && i % 2 === 1 ? -1 : 1;
    sum += sign * outputFor(active, cues[i].strength) * Math.exp(-age / decayS);
  }
  return sum;
}

/** Number of cues at or before a time. */
export function cuesUpTo(cues: readonly Cue[], timeS: number): number {
  let low = 0;
  let high = cues.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (cues[middle].timeS <= timeS) low = middle + 1;
    else high = middle;
  }
  return low;
}
