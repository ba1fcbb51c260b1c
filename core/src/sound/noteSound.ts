import { SAMPLE_RATE_HZ } from "../constants";
import { CLICK_LEVEL, makeClicks } from "../dsp/rhythm/click";
import { noteHz } from "../dsp/tone/note";
import { type NoteFile, readMidi } from "../format/samples/midi";
import type { SoundData } from "./signal";

/** The sound of a note file: a short tone on each note, as long as the file and the tail of its last note. */
export function soundNotes({ notes, durationS }: NoteFile): Float32Array {
  const strikes = notes.map(({ timeS, note, velocity }) => ({
    timeS,
    hz: noteHz(note),
    level: velocity * CLICK_LEVEL,
  }));
  return makeClicks(strikes, Math.max(1, Math.ceil((durationS + 0.2) * SAMPLE_RATE_HZ)));
}

/**
 * Reads the bytes of a note file.
 *
 * @throws SoundFormatError naming what is wrong with them
 */
export function noteSound(bytes: Uint8Array, name: string): SoundData {
  const notes = readMidi(bytes, name);
  const mono = soundNotes(notes);
  return { channels: [mono], mono, notes };
}
