import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { type MidiEvent, writeMidi } from "midi-file";
import { SoundFormatError } from "../../errors";
import { noteFileBeats } from "../../sound/beats";
import { newSoundBasics } from "../../sound/kinds";
import { soundNotes } from "../../sound/noteSound";
import { signalOf } from "../../sound/soundSignal";
import { DirectSpectra } from "../../strand/hearing/spectra";
import { MEASURES, type Measure, measureSound } from "../../strand/measures/table";
import { readMidi } from "./midi";

const on = (deltaTime: number, noteNumber: number, velocity: number, channel = 0): MidiEvent => ({
  deltaTime,
  type: "noteOn",
  channel,
  noteNumber,
  velocity,
});
const off = (deltaTime: number, noteNumber: number, channel = 0): MidiEvent => ({
  deltaTime,
  type: "noteOff",
  channel,
  noteNumber,
  velocity: 0,
});
const tempo = (deltaTime: number, bpm: number): MidiEvent => ({
  deltaTime,
  meta: true,
  type: "setTempo",
  microsecondsPerBeat: Math.round(60e6 / bpm),
});
const end: MidiEvent = { deltaTime: 0, meta: true, type: "endOfTrack" };
const fileOf = (...tracks: MidiEvent[][]) =>
  Uint8Array.from(
    writeMidi({
      header: { format: tracks.length > 1 ? 1 : 0, numTracks: tracks.length, ticksPerBeat: 96 },
      tracks: tracks.map((track) => [...track, end]),
    }),
  );
const refusal = (bytes: Uint8Array) => {
  try {
    readMidi(bytes, "call.mid");
  } catch (error) {
    expect(error).toBeInstanceOf(SoundFormatError);
    return error as SoundFormatError;
  }
  throw new Error("it was read");
};

describe("readMidi", () => {
  it("turns ticks into seconds along the tempo map, over all tracks", () => {
    const file = readMidi(
      fileOf(
        [
          tempo(0, 120),
          {
            deltaTime: 0,
            meta: true,
            type: "timeSignature",
            numerator: 6,
            denominator: 8,
            metronome: 24,
            thirtyseconds: 8,
          },
          tempo(192, 60),
        ],
        [
          on(96, 60, 127),
          off(96, 60),
          on(0, 64, 64),
          off(96, 64),
          { deltaTime: 0, type: "controller", channel: 2, controllerType: 74, value: 127 },
        ],
      ),
    );
    expect(file.notes).toEqual([
      { timeS: 0.5, endS: 1, note: 60, velocity: 1, channel: 0 },
      { timeS: 1, endS: 2, note: 64, velocity: 64 / 127, channel: 0 },
    ]);
    expect(file.controls).toEqual([{ timeS: 2, controller: 74, value: 1, channel: 2 }]);
    expect(file.tempos).toEqual([
      { timeS: 0, beat: 0, bpm: 120 },
      { timeS: 1, beat: 2, bpm: 60 },
    ]);
    expect([file.beatsPerBar, file.durationS]).toEqual([3, 2]);
    const beats = noteFileBeats(file);
    expect([beats.beatAt(0.5), beats.beatAt(1.5)]).toEqual([1, 2.5]);
    expect(beats.barPhase(4.5)).toBeCloseTo(0.5, 12);
    expect(beats.ticks(0, 0.9)).toEqual([{ timeS: 0.5, strength: 1 }]);
  });

  it("ends a note that is struck twice in order, and lets one ring that is never let go", () => {
    const { notes } = readMidi(
      fileOf([on(0, 60, 90), on(96, 60, 80), off(96, 60), on(0, 62, 70), on(96, 62, 0), on(0, 50, 9)]),
    );
    expect(notes.map(({ timeS, endS, note }) => [timeS, endS, note])).toEqual([
      [0, 1, 60],
      [0.5, 1.5, 60],
      [1, 1.5, 62],
      [1.5, 1.5, 50],
    ]);
  });

  it("names what is wrong", () => {
    expect(refusal(new TextEncoder().encode("no notes here")).code).toBe("notes-not-midi");
    expect(refusal(fileOf([on(0, 60, 1)]).subarray(0, 16)).message).toMatch(/^call\.mid: /);
    const twoPieces = fileOf([on(0, 60, 1)], [on(0, 60, 1)]);
    twoPieces[9] = 2;
    expect(refusal(twoPieces).code).toBe("notes-format");
    const film = fileOf([on(0, 60, 1)]);
    film[12] = 0xe7;
    film[13] = 40;
    expect(refusal(film).code).toBe("notes-timecode");
    // 30 000 beats of two seconds: over sixteen hours.
    const long = fileOf([tempo(0, 30), on(0, 60, 5), off(96 * 30_000, 60)]);
    expect(refusal(long)).toMatchObject({
      code: "notes-too-long",
      what: expect.stringContaining("17 hours"),
    });
  });

  it("reads or refuses any bytes", () => {
    const good = fileOf([tempo(0, 100), on(10, 60, 5), off(20, 60)]);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { maxLength: 6 }),
        fc.nat(good.length),
        (changes, length) => {
          const bytes = good.slice(0, length);
          for (const [at, value] of changes) if (at < bytes.length) bytes[at] = value;
          try {
            for (const { timeS, endS } of readMidi(bytes).notes) expect(endS >= timeS).toBe(true);
          } catch (error) {
            expect(error).toBeInstanceOf(SoundFormatError);
          }
        },
      ),
      { numRuns: 600 },
    );
  });
});

describe("what strands read of notes", () => {
  const file = readMidi(
    fileOf([
      on(96, 48, 127),
      off(48, 48),
      on(48, 60, 51),
      { deltaTime: 24, type: "controller", channel: 0, controllerType: 1, value: 64 },
      off(24, 60),
    ]),
  );
  const mono = soundNotes(file);
  const noteSound = { ...newSoundBasics("keys", "Keys"), kind: "notes" as const, storedId: "n" };
  const read = (measure: Measure) =>
    measureSound(signalOf(noteSound, { mono, channels: [mono], notes: file }), measure, new DirectSpectra());

  it("is how hard a note is held, where it lies, and the turn of a controller", () => {
    const held = read(MEASURES.velocity.defaults);
    expect([held[49], held[50], held[74], held[75], held[100], held[124], held[125]]).toEqual(
      [0, 1, 1, 0, 51 / 127, 51 / 127, 0].map(Math.fround),
    );
    const low = read({ kind: "velocity", lowNote: 40, highNote: 50 });
    expect([low[60], low[110]]).toEqual([1, 0]);
    const note = read({ kind: "note", lowNote: 48, highNote: 72 });
    expect([note[49], note[60], note[90], note[110]]).toEqual([0, 0, 0, 0.5]);
    const turn = read(MEASURES.control.defaults);
    expect([turn[112], turn[113]]).toEqual([0, Math.fround(64 / 127)]);
    const ticks = read(MEASURES.ticks.defaults);
    expect([...ticks].filter((x) => x > 0)).toEqual([1, Math.fround(51 / 127)]);
    expect(ticks[50]).toBe(1);
  });

  it("is refused of a sound that has none", () => {
    expect(() =>
      measureSound({ samples: new Float32Array(480) }, MEASURES.note.defaults, new DirectSpectra()),
    ).toThrow(/reads notes, which this sound does not have/);
  });
});
