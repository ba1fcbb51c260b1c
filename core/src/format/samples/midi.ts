import { type MidiData, parseMidi } from "midi-file";
import { MAX_SOUND_S } from "../../constants";
import { SoundFormatError } from "../../errors";

export interface Note {
  timeS: number;
  endS: number;
  /** MIDI note number, 0..127; 69 is A4. */
  note: number;
  /** 0..1 */
  velocity: number;
  channel: number;
}

export interface ControlChange {
  timeS: number;
  controller: number;
  /** 0..1 */
  value: number;
  channel: number;
}

/** A tempo and where it begins. */
export interface TempoChange {
  timeS: number;
  /** Quarter notes since the start. */
  beat: number;
  bpm: number;
}

/** A Standard MIDI File, with every time in seconds. */
export interface NoteFile {
  durationS: number;
  /** In order of time, the first at 0. */
  tempos: TempoChange[];
  /** Quarter notes in a bar, by the file's first time signature. */
  beatsPerBar: number;
  notes: Note[];
  controls: ControlChange[];
}

const DEFAULT_TEMPO_US = 500_000;
/** Most events a file may hold; a day of steady playing stays below it. */
const MAX_EVENTS = 1_000_000;

/**
 * Reads a Standard MIDI File of format 0 or 1 with time in ticks a quarter note: notes, control changes and
 * the tempo map. (MIDI 1.0, RP-001.)
 *
 * @param where  what to call the file in an error
 * @throws SoundFormatError naming what is wrong
 */
export function readMidi(bytes: Uint8Array, where = "the file"): NoteFile {
  const fail = (code: string, what: string, remedy: string): never => {
    throw new SoundFormatError({ code, what, where, remedy });
  };
  if (String.fromCharCode(...bytes.subarray(0, 4)) !== "MThd") {
    fail("notes-not-midi", "this is not a Standard MIDI File", "Export it again as .mid");
  }
  let parsed: MidiData;
  try {
    parsed = parseMidi(bytes);
  } catch (error) {
    return fail(
      "notes-broken",
      `the notes cannot be read (${(error as Error).message})`,
      "Export it again as .mid, or check that the copy is complete",
    );
  }
  const { ticksPerBeat, format } = parsed.header;
  if (!ticksPerBeat) {
    return fail(
      "notes-timecode",
      "its times are film frames, not beats",
      "Export it with ticks per quarter note",
    );
  }
  if (format > 1) {
    fail(
      "notes-format",
      "it holds several pieces at once (format 2)",
      "Export each piece as a file of its own",
    );
  }
  const events = parsed.tracks.flatMap((track) => {
    let ticks = 0;
    return track.map((event) => {
      ticks += event.deltaTime;
      return { ticks, event };
    });
  });
  if (events.length > MAX_EVENTS) {
    fail(
      "notes-too-many",
      `it holds ${events.length} events; ${MAX_EVENTS} can be read`,
      "Split it in parts",
    );
  }
  events.sort((a, b) => a.ticks - b.ticks);

  const tempos: TempoChange[] = [{ timeS: 0, beat: 0, bpm: 60e6 / DEFAULT_TEMPO_US }];
  const timeOf = (ticks: number) => {
    const beat = ticks / ticksPerBeat;
    const tempo = tempos[tempos.length - 1];
    return tempo.timeS + ((beat - tempo.beat) * 60) / tempo.bpm;
  };
  const notes: Note[] = [];
  const controls: ControlChange[] = [];
  const sounding = new Map<number, Note[]>();
  let beatsPerBar: number | undefined;
  let durationS = 0;
  for (const { ticks, event } of events) {
    const timeS = timeOf(ticks);
    durationS = timeS;
    if (event.type === "setTempo" && event.microsecondsPerBeat > 0) {
      const change = { timeS, beat: ticks / ticksPerBeat, bpm: 60e6 / event.microsecondsPerBeat };
      if (tempos[tempos.length - 1].beat === change.beat) tempos.pop();
      tempos.push(change);
    } else if (event.type === "timeSignature") {
      beatsPerBar ??= Math.max(0.25, (event.numerator * 4) / event.denominator);
    } else if (event.type === "controller") {
      const { controllerType: controller, value, channel } = event;
      controls.push({ timeS, controller, value: value / 127, channel });
    } else if (event.type === "noteOn" || event.type === "noteOff") {
      const key = event.channel * 128 + event.noteNumber;
      const held = sounding.get(key) ?? [];
      sounding.set(key, held);
      if (event.type === "noteOn" && event.velocity > 0) {
        const { noteNumber, channel } = event;
        const note = { timeS, endS: timeS, note: noteNumber, velocity: event.velocity / 127, channel };
        held.push(note);
        notes.push(note);
      } else {
        const ended = held.shift();
        if (ended) ended.endS = timeS;
      }
    }
  }
  if (durationS > MAX_SOUND_S) {
    fail(
      "notes-too-long",
      `it lasts ${Math.round(durationS / 3600)} hours; up to ${MAX_SOUND_S / 3600} can be read`,
      "Shorten it, or check its tempo and its last event",
    );
  }
  // Notes without an end ring to the end of the file.
  for (const held of sounding.values()) for (const note of held) note.endS = durationS;
  return { durationS, tempos, beatsPerBar: beatsPerBar ?? 4, notes, controls };
}
