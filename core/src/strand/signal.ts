import { frameCount } from "../constants";
import type { Note, NoteFile } from "../format/midi";
import type { TableColumn } from "../format/table";
import type { Beats } from "./clock";
import type { Track } from "./track";

/** Everything about a sound that a strand can read. */
export interface Signal {
  /** Mono at 48 kHz, finite. */
  samples: Float32Array;
  /** All channels, for what is defined over them; the mono mix stands for them where there are none. */
  channels?: readonly Float32Array[];
  /** Its beats, for clocks and note files. */
  beats?: Beats;
  /** A clock's drawn curve, 0..1 at a time. */
  curve?(timeS: number): number;
  notes?: readonly Note[];
  controls?: NoteFile["controls"];
  /** Columns of a table of numbers. */
  columns?: readonly TableColumn[];
  /** Frames there are, when that is not told by the samples. */
  frames?: number;
  /** Other strands, shaped. */
  strands?: readonly Track[];
}

/** Frames that a signal has. */
export const framesOf = ({ frames, samples }: Signal): number => frames ?? frameCount(samples.length);
