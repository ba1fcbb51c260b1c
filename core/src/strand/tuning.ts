import type { SoundPart } from "../sound/parts";
import type { CueSettings } from "./cues";
import type { Measure } from "./measures/table";
import type { Shaping } from "./shape/shaping";

/** Everything a strand's numbers depend on, beside what it listens to. */
export interface Tuning {
  measure: Measure;
  shaping: Shaping;
  /** Without them there are no cues. */
  cues?: CueSettings;
  /** Code of the program that gives its numbers. */
  code?: string | undefined;
  /** The part of the sound that it hears; all of it without one. */
  part?: SoundPart | undefined;
}
