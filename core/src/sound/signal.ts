import type { Samples } from "../dsp/maths/samples";
import type { Note, NoteFile } from "../format/samples/midi";
import type { Table, TableColumn } from "../format/table";
import type { Beats } from "./beats";

/** Data that a sound can offer to strands. */
export const SIGNAL_PARTS = [
  "samples",
  "beats",
  "curve",
  "notes",
  "controls",
  "columns",
  "strands",
  "zone",
] as const;
export type SignalPart = (typeof SIGNAL_PARTS)[number];

/** Everything about one sound that a strand can read. */
export interface SoundSignal {
  /** Mono at 48 kHz, finite. */
  samples: Samples;
  /** All channels, for measures that are defined over them; without any the mono mix stands for them. */
  channels?: readonly Samples[];
  /** Loudness weight of each channel; all are 1 without it. */
  weights?: readonly number[] | undefined;
  /** Its beats, for clocks and note files. */
  beats?: Beats;
  /** A clock's drawn curve, 0..1 at a time. */
  curve?(timeS: number): number;
  notes?: readonly Note[];
  controls?: NoteFile["controls"];
  /** Columns of a table of numbers. */
  columns?: readonly TableColumn[];
}

/** A sound's samples in memory, with the notes or numbers its file holds. */
export interface SoundData {
  /** At 48 kHz, of equal length. */
  channels: readonly Samples[];
  /** Mean of the channels, finite. */
  mono: Samples;
  /** Loudness weight of each channel; all are 1 without it. */
  weights?: readonly number[] | undefined;
  notes?: NoteFile;
  table?: Table;
}
