import { type MidiEvent, writeMidi } from "midi-file";

/** 120 beats a minute and 960 ticks a beat: 1920 ticks a second, half a millisecond each. */
const TICKS_PER_BEAT = 960;
const TEMPO_US = 500_000;
const TICKS_PER_S = (TICKS_PER_BEAT * 1e6) / TEMPO_US;
const NOTE_TICKS = TICKS_PER_S * 0.05;

/** Cues of one strand on their way into a MIDI file. */
export interface CueTrack {
  name: string;
  /** MIDI note number, 0..127. */
  note: number;
  /** In order of time; strength 0..1. */
  cues: readonly { timeS: number; strength: number }[];
}

/** The first note of a row of cue tracks: C2. */
const FIRST_NOTE = 36;

/** Cues of several strands as tracks, on notes one above the other. */
export const cueTracks = (lists: readonly Pick<CueTrack, "name" | "cues">[]): CueTrack[] =>
  lists.map(({ name, cues }, i) => ({ name, note: Math.min(127, FIRST_NOTE + i), cues }));

/**
 * Cues as a Standard MIDI File of format 1: a track each, a note of 50 ms or less for each cue, as hard as the cue is
 * strong, on the channel that General MIDI keeps for drums.
 *
 * @returns the file's bytes
 */
export function writeCueMidi(tracks: readonly CueTrack[]): Uint8Array {
  const tempo: MidiEvent[] = [
    { deltaTime: 0, meta: true, type: "setTempo", microsecondsPerBeat: TEMPO_US },
    { deltaTime: 0, meta: true, type: "endOfTrack" },
  ];
  return Uint8Array.from(
    writeMidi({
      header: { format: 1, numTracks: tracks.length + 1, ticksPerBeat: TICKS_PER_BEAT },
      tracks: [tempo, ...tracks.map(trackEvents)],
    }),
  );
}

function trackEvents({ name, note, cues }: CueTrack): MidiEvent[] {
  const starts = cues.map(({ timeS }) => Math.round(timeS * TICKS_PER_S));
  const events: MidiEvent[] = [{ deltaTime: 0, meta: true, type: "trackName", text: name }];
  let now = 0;
  cues.forEach(({ strength }, i) => {
    const start = Math.max(now, starts[i]);
    const end = Math.min(start + NOTE_TICKS, Math.max(start + 1, starts[i + 1] ?? Number.POSITIVE_INFINITY));
    const velocity = Math.min(127, Math.max(1, Math.round(strength * 127)));
    events.push({ deltaTime: start - now, type: "noteOn", channel: 9, noteNumber: note, velocity });
    events.push({ deltaTime: end - start, type: "noteOff", channel: 9, noteNumber: note, velocity: 0 });
    now = end;
  });
  return [...events, { deltaTime: 0, meta: true, type: "endOfTrack" }];
}
