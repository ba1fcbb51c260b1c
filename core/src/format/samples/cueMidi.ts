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
  /** Its numbers, 100 times a second, one after the other: controllers, one for each of the first bands. */
  numbers?: { width: number; values: Float32Array } | undefined;
}

/** Controllers that nothing else is meant by: the first, and how many of them are used. */
const FIRST_CONTROLLER = 20;
const MOST_CONTROLLERS = 12;
/** The channel that General MIDI keeps for drums. */
const DRUMS = 9;

/** The first note of a row of cue tracks: C2. */
const FIRST_NOTE = 36;

/** Cues of several strands as tracks, on notes one above the other. */
export const cueTracks = (lists: readonly Omit<CueTrack, "note">[]): CueTrack[] =>
  lists.map((one, i) => ({ ...one, note: Math.min(127, FIRST_NOTE + i) }));

/**
 * Strands as a Standard MIDI File of format 1, a track each. Cues are notes of 50 ms or less, as hard as the cue is strong, on
 * the channel that General MIDI keeps for drums. Numbers are controllers from 20 on, one for each of the first twelve bands,
 * told when they change, on a channel of the strand's own.
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
      tracks: [tempo, ...tracks.map(trackOf)],
    }),
  );
}

/** An event at a time in ticks, before it is told as the time since the one before. */
type Timed = MidiEvent & { at: number };

function trackOf(track: CueTrack, i: number): MidiEvent[] {
  const channel = i % 15 < DRUMS ? i % 15 : (i % 15) + 1;
  const timed = [...controllers(track, channel), ...notes(track)].sort((a, b) => a.at - b.at);
  let now = 0;
  const events = timed.map(({ at, ...event }) => {
    const told = { ...event, deltaTime: at - now };
    now = at;
    return told as MidiEvent;
  });
  return [
    { deltaTime: 0, meta: true, type: "trackName", text: track.name },
    ...events,
    { deltaTime: 0, meta: true, type: "endOfTrack" },
  ];
}

function controllers({ numbers }: CueTrack, channel: number): Timed[] {
  if (!numbers) return [];
  const { width, values } = numbers;
  const count = Math.min(MOST_CONTROLLERS, width);
  const last = new Int16Array(count).fill(-1);
  const events: Timed[] = [];
  for (let frame = 0; frame * width < values.length; frame++) {
    for (let band = 0; band < count; band++) {
      const value = Math.min(127, Math.max(0, Math.round(values[frame * width + band] * 127)));
      if (value === last[band]) continue;
      last[band] = value;
      events.push({
        at: Math.round((frame * TICKS_PER_S) / 100),
        deltaTime: 0,
        type: "controller",
        channel,
        controllerType: FIRST_CONTROLLER + band,
        value,
      });
    }
  }
  return events;
}

function notes({ note, cues }: CueTrack): Timed[] {
  const starts = cues.map(({ timeS }) => Math.round(timeS * TICKS_PER_S));
  const event = { deltaTime: 0, channel: DRUMS, noteNumber: note };
  let now = 0;
  return cues.flatMap(({ strength }, i): Timed[] => {
    const start = Math.max(now, starts[i]);
    const end = Math.min(start + NOTE_TICKS, Math.max(start + 1, starts[i + 1] ?? Number.POSITIVE_INFINITY));
    const velocity = Math.min(127, Math.max(1, Math.round(strength * 127)));
    now = end;
    return [
      { ...event, at: start, type: "noteOn", velocity },
      { ...event, at: end, type: "noteOff", velocity: 0 },
    ];
  });
}
