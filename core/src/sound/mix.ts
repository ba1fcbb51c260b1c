import { FADER_OFF_DB, FADER_TOP_DB } from "../dsp/level/decibel";
import { number, objectOf, toggle, vector } from "../setting/descriptor";

/** Settings of a fader strip, of a sound or a bus. */
export const STRIP_SETTINGS = {
  muted: toggle("Mute", false, "Silences it; strands that listen before the fader still hear it."),
  faderDb: number(
    "Fader",
    "dB",
    [FADER_OFF_DB, FADER_TOP_DB, 0.1],
    0,
    "Gain; the lowest position is silence.",
    {
      chars: 5,
    },
  ),
  pan: number("Pan", "", [-1, 1, 0.02], 0, "−1 left, 1 right; equal power."),
};

/** Position of a sound on the stage, and how its level falls with the distance from the camera. */
export const PLACE_SETTINGS = {
  position: vector("Position", "m", [-1000, 1000, 0.1], [0, 0, 0], "Right, up, towards the viewer."),
  objectId: objectOf("Moves with", "An object it comes from, wherever that is.", undefined, "its own place"),
  fromItsSide: toggle(
    "Heard from its direction",
    false,
    "Both ears hear it as if it came from there, wherever the listener turns.",
  ),
  silentBeyond: toggle(
    "Silent beyond",
    false,
    "It falls to silence at its greatest distance instead of staying as loud as it is there.",
  ),
  referenceM: number("Reference distance", "m", [0.1, 1000, 0.1], 3, "Full level up to here.", { chars: 5 }),
  maximumM: number("Maximum distance", "m", [0.1, 10_000, 0.1], 20, "No further fall beyond here.", {
    chars: 5,
  }),
  rollOff: number("Roll-off", "", [0, 10, 0.1], 1, "How fast the level falls between the two.", { chars: 4 }),
  heardFollows: toggle("Heard follows the distance", true, "The mix gets quieter with distance."),
  analysedFollows: toggle(
    "Strands follow the distance",
    false,
    "Strands read the level at the camera’s resting place, so that the numbers are the same everywhere.",
  ),
};

/**
 * - `tape`: starts, seeks and loops with the tape
 * - `alone`: has a play button and a position of its own; on a delivered page it starts with the tape
 */
export const RUNS = ["tape", "alone"] as const;
export type Runs = (typeof RUNS)[number];

/** Before a fader, or after it. */
export const TAPS = ["before", "after"] as const;
export type Tap = (typeof TAPS)[number];
