import { frameCount } from "../../constants";
import type { SoundSignal } from "../../sound/signal";
import type { Track } from "../track";

/** Everything a strand can read: one sound, the sum of a bus, or other strands. */
export interface Signal extends SoundSignal {
  /** Number of frames, when it does not follow from the samples. */
  frames?: number;
  /** Other strands, shaped. */
  strands?: readonly Track[];
  /** It is a zone, whose numbers come from the simulation. */
  zone?: true;
  /** Code of the program that reads it. */
  code?: string | undefined;
}

/** Number of analysis frames of a signal. */
export const framesOf = ({ frames, samples }: Signal): number => frames ?? frameCount(samples.length);
