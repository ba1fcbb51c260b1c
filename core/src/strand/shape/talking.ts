import { levelToDb } from "../../dsp/level/decibel";
import { type ShapingChange, stepSettings } from "./shaping";
import { STARTING_POINTS } from "./startingPoints";

/** The room’s noise is what is exceeded in a twentieth of the time; digital silence counts as a very quiet room. */
const NOISE_SHARE = 0.95;
const QUIETEST_DB = -75;
/** The floor lies this far above the noise, and the gate opens this far above it, dB. */
const FLOOR_ABOVE_DB = 3;
const OPENS_ABOVE_DB = 9;
/** Somebody who talks into a microphone reaches about this. */
const TALKING_DB = -14;

export interface Talking {
  /** Level of the room, dBFS. */
  noiseDb: number;
  shaping: ShapingChange;
}

/**
 * How to shape the level of a voice in a room: smoothed for speech, closed in pauses, with marks above the room’s noise.
 *
 * @param raw  levels of a few seconds in which nobody talked, full-scale sine = 1
 */
export function talkingIn(raw: Float32Array): Talking {
  const sorted = Float32Array.from(raw).sort();
  const level = sorted[Math.floor(NOISE_SHARE * (sorted.length - 1))] ?? 0;
  const noiseDb = Math.min(TALKING_DB - 20, Math.max(QUIETEST_DB, levelToDb(level)));
  const floorDb = Math.round(noiseDb + FLOOR_ABOVE_DB);
  const { rangeDb: range } = stepSettings("window");
  const limits = range?.type === "number" ? range : { min: 6, max: 60 };
  const rangeDb = Math.min(limits.max, Math.max(18, limits.min, TALKING_DB - floorDb));
  const mark = Math.round(((noiseDb + OPENS_ABOVE_DB - floorDb) / rangeDb) * 100) / 100;
  const { speech } = STARTING_POINTS;
  return {
    noiseDb,
    shaping: {
      ...speech.shaping,
      window: { on: true, floorDb, rangeDb },
      gate: { on: true, mark, slack: Math.round(mark * 40) / 100 },
    },
  };
}
