import type { Note, NoteFile } from "../format/midi";
import type { Beats } from "./clock";

/** Everything about a sound that a strand can read. */
export interface Signal {
  /** Mono at 48 kHz, finite. */
  samples: Float32Array;
  /** Its beats, for clocks and note files. */
  beats?: Beats;
  /** A clock's drawn curve, 0..1 at a time. */
  curve?(timeS: number): number;
  notes?: readonly Note[];
  controls?: NoteFile["controls"];
}
