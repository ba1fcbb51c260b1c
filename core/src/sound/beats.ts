import type { NoteFile } from "../format/samples/midi";
import type { Cue } from "./cue";

/** Beats and bars over time, wherever they come from: a clock, a note file, or found in a sound. */
export interface Beats {
  /** Beats since beat 0, with their fraction. */
  beatAt(timeS: number): number;
  /** Position of a beat in its bar, 0..1. */
  barPhase(beat: number): number;
  /** Cues of all ticks from `fromS` up to, not including, `toS`, in order. */
  ticks(fromS: number, toS: number): Cue[];
}

/** Strengths of the ticks that begin a bar, begin a beat, and lie between beats. */
export const TICK_STRENGTHS = { bar: 1, beat: 0.7, between: 0.4 } as const;

/** The part of a number after its whole part, 0 to 1. */
export const fraction = (x: number): number => x - Math.floor(x);

/** A note file's beats: quarter notes along its tempo map, with its notes as ticks. */
export function noteFileBeats({ tempos, beatsPerBar, notes }: NoteFile): Beats {
  const tempoAt = (timeS: number) => {
    let tempo = tempos[0];
    for (const one of tempos) if (one.timeS <= timeS) tempo = one;
    return tempo;
  };
  return {
    beatAt: (timeS) => {
      const { timeS: since, beat, bpm } = tempoAt(timeS);
      return beat + ((timeS - since) * bpm) / 60;
    },
    barPhase: (beat) => fraction(beat / beatsPerBar),
    // Each note is as strong as it was struck.
    ticks: (fromS, toS) =>
      notes
        .filter(({ timeS }) => timeS >= fromS && timeS < toS)
        .map(({ timeS, velocity }) => ({ timeS, strength: velocity || TICK_STRENGTHS.between })),
  };
}
