import { SAMPLE_RATE_HZ } from "../constants";
import { makeClicks, type Strike } from "../dsp/click";
import { dbToLevel } from "../dsp/decibel";
import { noteHz } from "../dsp/note";
import { makeNoise, makeTone } from "../dsp/tone";
import { type NoteFile, noteFileBeats } from "../format/midi";
import type { Table } from "../format/table";
import { clockBeats, clockCurve, TICK_STRENGTHS } from "../strand/clock";
import type { SignalPart } from "../strand/measures";
import type { Signal } from "../strand/signal";
import type { ClockSound, Sound } from "./document";

/** A sound that is computed from its settings, and so needs no bytes anywhere. */
export type MadeSound = Extract<Sound, { kind: "tone" | "noise" | "clock" }>;
/** A sound whose bytes are stored. */
export type StoredKind = Extract<Sound, { storedId: string }>;

const MADE_PREFIX = "made ";

export const isMade = (sound: Sound): sound is MadeSound =>
  sound.kind === "tone" || sound.kind === "noise" || sound.kind === "clock";
export const isStored = (sound: Sound): sound is StoredKind => "storedId" in sound;

/**
 * What a sound's samples depend on, as text: sounds with the same key have the same samples. A stored sound's
 * key is the id it is stored under; a live one has none.
 */
export function samplesKey(sound: Sound): string | undefined {
  switch (sound.kind) {
    case "file":
    case "notes":
    case "table":
      return sound.storedId;
    case "tone": {
      const { kind, on, waveform, hz, toHz, sweep, seconds, levelDb } = sound;
      return MADE_PREFIX + JSON.stringify([kind, on, waveform, hz, toHz, sweep, seconds, levelDb]);
    }
    case "noise": {
      const { kind, on, colour, seed, seconds, levelDb } = sound;
      return MADE_PREFIX + JSON.stringify([kind, on, colour, seed, seconds, levelDb]);
    }
    case "clock": {
      const { kind, on, seconds, levelDb, bpm, beatsPerBar, subdivision, swing, anchor, curve } = sound;
      const beats = [bpm, beatsPerBar, subdivision, swing, anchor, curve];
      return MADE_PREFIX + JSON.stringify([kind, on, seconds, levelDb, ...beats]);
    }
    default:
      return undefined;
  }
}

/** Whether a key is that of a made sound, whose samples can be made again at any time. */
export function isMadeKey(key: string): boolean {
  return key.startsWith(MADE_PREFIX);
}

/**
 * Computes a made sound.
 *
 * @returns one channel at 48 kHz, full scale = 1
 */
export function makeSound(sound: MadeSound): Float32Array {
  const count = Math.round(sound.seconds * SAMPLE_RATE_HZ);
  if (!sound.on) return new Float32Array(count);
  const level = dbToLevel(sound.levelDb);
  if (sound.kind === "noise") return makeNoise(sound.colour, count, sound.seed, level);
  if (sound.kind === "clock") return makeClicks(clickStrikes(sound, level), count);
  const { waveform, hz, toHz, sweep } = sound;
  return makeTone(waveform, toHz === null ? hz : { fromHz: hz, toHz, sweep }, count, level);
}

/** Half of full scale, so that a click does not mask what it is to be compared with. */
const CLICK_LEVEL = 0.5;

function clickStrikes(clock: ClockSound, level: number): Strike[] {
  return clockBeats(clock)
    .ticks(0, clock.seconds)
    .map(({ timeS, strength }) => ({
      timeS,
      hz: strength === TICK_STRENGTHS.bar ? 1760 : strength === TICK_STRENGTHS.beat ? 1320 : 990,
      level: level * strength * CLICK_LEVEL,
    }));
}

/** What is heard of a note file: a short tone on each note, as long as the file and the tail of its last note. */
export function soundNotes({ notes, durationS }: NoteFile): Float32Array {
  const strikes = notes.map(({ timeS, note, velocity }) => ({
    timeS,
    hz: noteHz(note),
    level: velocity * CLICK_LEVEL,
  }));
  return makeClicks(strikes, Math.max(1, Math.ceil((durationS + 0.2) * SAMPLE_RATE_HZ)));
}

/** Everything a strand can read of a sound, from its samples and what it was made of. */
export function signalOf(samples: Float32Array, origin?: Sound | NoteFile | Table): Signal {
  if (!origin) return { samples };
  if ("columns" in origin) return { samples, columns: origin.columns };
  if ("tempos" in origin) {
    const { notes, controls } = origin;
    return { samples, beats: noteFileBeats(origin), notes, controls };
  }
  if (origin.kind !== "clock") return { samples };
  return { samples, beats: clockBeats(origin), curve: clockCurve(origin) };
}

/** What is heard of a table: nothing, for as long as it goes on. */
export function soundTable({ durationS }: Table): Float32Array {
  return new Float32Array(Math.max(1, Math.round(durationS * SAMPLE_RATE_HZ)));
}

/** What strands can read of a kind of sound, before any of it has arrived. */
export function partsOf(kind: Sound["kind"] | "bus" | "strands"): ReadonlySet<SignalPart> {
  switch (kind) {
    case "strands":
      return new Set(["strands"]);
    case "table":
      return new Set(["columns"]);
    case "clock":
      return new Set(["beats", "curve", "samples"]);
    case "notes":
      return new Set(["notes", "controls", "beats", "samples"]);
    case "keys":
      return new Set(["notes", "controls"]);
    default:
      return new Set(["samples"]);
  }
}
