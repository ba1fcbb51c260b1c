import type { Measure } from "../measures/table";
import type { MeasureUnit, ShapingChange } from "./shaping";

/** A way of shaping by name, for a common wish: where to begin, not where to stop. */
export interface StartingPoint {
  label: string;
  help: string;
  /** Kinds of numbers it suits. */
  units: readonly MeasureUnit[];
  fansOnly?: true;
  /** Part of a measure that it brings along. */
  measure?: Partial<Extract<Measure, { kind: "fan" }>>;
  shaping: ShapingChange;
}

const OFF = { on: false };

export const STARTING_POINTS = {
  snap: {
    label: "Snap",
    help: "A sharp hit: up at once, gone before the next.",
    units: ["level", "strength"],
    shaping: {
      gate: { on: true, mark: 0.15, slack: 0.05 },
      curve: { on: true, way: "power", power: 1.5 },
      follow: { on: true, attackMs: 0, holdMs: 0, releaseMs: 110 },
      average: OFF,
      autoRange: OFF,
    },
  },
  ember: {
    label: "Ember",
    help: "A hit that glows on: up at once, down over a second.",
    units: ["level", "strength"],
    shaping: {
      gate: { on: true, mark: 0.2, slack: 0.05 },
      curve: OFF,
      follow: { on: true, attackMs: 0, holdMs: 60, releaseMs: 700 },
      average: OFF,
    },
  },
  swell: {
    label: "Swell",
    help: "A slow rise and fall with the passage, not with the hit.",
    units: ["level", "loudness", "hz", "strength"],
    shaping: {
      gate: OFF,
      curve: OFF,
      follow: { on: true, attackMs: 400, holdMs: 0, releaseMs: 1600 },
      average: { on: true, frames: 20 },
    },
  },
  speech: {
    label: "Speaking voice",
    help: "Open while someone speaks, steady between words, closed in pauses.",
    units: ["level", "loudness"],
    shaping: {
      autoRange: { on: true, fallDbPerS: 2, leastDb: 18 },
      gate: { on: true, mark: 0.25, slack: 0.1 },
      curve: OFF,
      follow: { on: true, attackMs: 15, holdMs: 120, releaseMs: 180 },
      average: { on: true, frames: 3 },
    },
  },
  lively: {
    label: "Lively all through",
    help: "Quiet parts move as much as loud ones: the ceiling follows the music.",
    units: ["level", "loudness", "strength"],
    shaping: {
      autoRange: { on: true, fallDbPerS: 4, leastDb: 14 },
      gate: OFF,
      follow: { on: true, attackMs: 8, holdMs: 0, releaseMs: 160 },
    },
  },
  fence: {
    label: "Steady row",
    help: "A row of bands that stands evenly from low to high and does not flicker.",
    units: ["level"],
    fansOnly: true,
    measure: { tiltDb: 3 },
    shaping: {
      relative: OFF,
      neighbours: { on: true, bands: 1 },
      follow: { on: true, attackMs: 20, holdMs: 0, releaseMs: 260 },
      average: OFF,
    },
  },
  outline: {
    label: "Outline",
    help: "Only the shape of the spectrum, as large in the verse as in the chorus.",
    units: ["level"],
    fansOnly: true,
    measure: { tiltDb: 3 },
    shaping: {
      relative: { on: true, least: 0.15 },
      neighbours: { on: true, bands: 2 },
      follow: { on: true, attackMs: 30, holdMs: 0, releaseMs: 200 },
    },
  },
} as const satisfies Record<string, StartingPoint>;
export type StartingPointName = keyof typeof STARTING_POINTS;

/** The starting points that suit a kind of number. */
export function startingPointsFor(unit: MeasureUnit, isFan: boolean): [StartingPointName, StartingPoint][] {
  return (Object.entries(STARTING_POINTS) as [StartingPointName, StartingPoint][]).filter(
    ([, point]) => point.units.includes(unit) && (isFan || !point.fansOnly),
  );
}
