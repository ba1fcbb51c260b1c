import { SAMPLE_RATE_HZ } from "../constants";
import { makeClicks, type Strike } from "../dsp/click";
import { dbToLevel } from "../dsp/decibel";
import { mixToMono } from "../dsp/mix";
import { noteHz } from "../dsp/note";
import { makeNoise, makeTone } from "../dsp/tone";
import { type NoteFile, readMidi } from "../format/midi";
import { readProjectSound } from "../format/sound";
import { readTable, type Table } from "../format/table";
import { noteFileBeats, TICK_STRENGTHS } from "./beats";
import { clockBeats, clockCurve } from "./clock";
import {
  type ClockSound,
  isMade,
  isStored,
  type MadeSound,
  SOUND_KINDS,
  type Sound,
  type SoundKind,
  type StoredSound,
  soundKind,
} from "./kinds";
import type { SignalPart, SoundData, SoundSignal } from "./signal";

const MADE_PREFIX = "made ";

/**
 * Text that a sound's samples depend on: sounds with the same key have the same samples. A stored sound's
 * key is the id it is stored under; a live one has none.
 */
export function samplesKey(sound: Sound): string | undefined {
  if (isStored(sound)) return sound.storedId;
  if (!isMade(sound)) return undefined;
  const { settings, fields = {} } = soundKind(sound.kind);
  const values = sound as unknown as Record<string, unknown>;
  const keys = [...Object.keys(settings), ...Object.keys(fields)];
  return MADE_PREFIX + JSON.stringify([sound.kind, ...keys.map((key) => values[key])]);
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

/** Everything a strand can read of a sound. */
export function signalOf(sound: Sound, { mono, channels, notes, table }: SoundData): SoundSignal {
  return {
    samples: mono,
    channels,
    ...(table && { columns: table.columns }),
    ...(notes && { beats: noteFileBeats(notes), notes: notes.notes, controls: notes.controls }),
    ...(sound.kind === "clock" && { beats: clockBeats(sound), curve: clockCurve(sound) }),
  };
}

/** The samples of a made sound, of which there is one channel. */
export function madeSoundData(sound: MadeSound): SoundData {
  const mono = makeSound(sound);
  return { channels: [mono], mono };
}

/**
 * Reads the stored bytes of a sound.
 *
 * @throws SoundFormatError naming what is wrong with them
 */
export function readStoredSound(
  { kind, name }: Pick<StoredSound, "kind" | "name">,
  bytes: Uint8Array,
): SoundData {
  if (kind === "file") {
    const { channels } = readProjectSound(bytes, name);
    return { channels, mono: mixToMono(channels).samples };
  }
  if (kind === "table") {
    const table = readTable(bytes, name);
    const mono = soundTable(table);
    return { channels: [mono], mono, table };
  }
  const notes = readMidi(bytes, name);
  const mono = soundNotes(notes);
  return { channels: [mono], mono, notes };
}

/** A table sounds like nothing: silence of its length. */
export function soundTable({ durationS }: Table): Float32Array {
  return new Float32Array(Math.max(1, Math.round(durationS * SAMPLE_RATE_HZ)));
}

/** What strands can read of a kind of sound, of a bus or of other strands, before any of it has arrived. */
export function partsOf(kind: SoundKind | "bus" | "strands" | "zone"): ReadonlySet<SignalPart> {
  if (kind === "zone") return new Set(["zone"]);
  if (kind === "strands") return new Set(["strands"]);
  return new Set(kind === "bus" ? SOUND_KINDS.file.offers : SOUND_KINDS[kind].offers);
}
