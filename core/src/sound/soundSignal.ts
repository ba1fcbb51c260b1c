import { noteFileBeats } from "./beats";
import { type Clock, clockBeats, clockCurve } from "./clock";
import type { SoundKind } from "./kinds";
import type { SoundData, SoundSignal } from "./signal";

/** A sound as far as its signal depends on it: its kind, and of a clock its beats. */
export type SignalSource = ({ kind: "clock" } & Clock) | { kind: Exclude<SoundKind, "clock"> };

/** Everything a strand can read of a sound. */
export function signalOf(
  sound: SignalSource,
  { mono, channels, weights, notes, table }: SoundData,
): SoundSignal {
  return {
    samples: mono,
    channels,
    weights,
    ...(table && { columns: table.columns }),
    ...(notes && { beats: noteFileBeats(notes), notes: notes.notes, controls: notes.controls }),
    ...(sound.kind === "clock" && { beats: clockBeats(sound), curve: clockCurve(sound) }),
  };
}
