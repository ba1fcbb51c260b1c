import { type Static, Type } from "@sinclair/typebox";
import { drawnCurve } from "../dsp/curve";
import type { Cue } from "./cue";
import { CurvePointsSchema } from "./shaping";

const closed = { additionalProperties: false } as const;

export const TEMPO_LIMITS = { minBpm: 20, maxBpm: 400 } as const;
/** A swung pair of ticks: half is even, two thirds is a triplet, three quarters is dotted. */
export const SWING_LIMITS = { even: 0.5, most: 0.75 } as const;

/** What makes a beat clock. */
export const CLOCK_SETTINGS = {
  bpm: Type.Number({ minimum: TEMPO_LIMITS.minBpm, maximum: TEMPO_LIMITS.maxBpm }),
  beatsPerBar: Type.Integer({ minimum: 1, maximum: 32 }),
  /** Ticks in a beat. */
  subdivision: Type.Integer({ minimum: 1, maximum: 12 }),
  /** Share of a pair of ticks that the first of them takes. */
  swing: Type.Number({ minimum: SWING_LIMITS.even, maximum: SWING_LIMITS.most }),
  /** A beat and when it is: where a change of tempo took hold. Beats count from 0, bars begin at multiples. */
  anchor: Type.Object({ timeS: Type.Number(), beat: Type.Number() }, closed),
  /** A drawn curve that goes round every so many beats. */
  curve: Type.Object(
    {
      beats: Type.Number({ minimum: 0.25, maximum: 1024 }),
      points: CurvePointsSchema,
    },
    closed,
  ),
};
const ClockSchema = Type.Object(CLOCK_SETTINGS, closed);
export type Clock = Static<typeof ClockSchema>;

/** A clock as a new one is: 120 beats a minute, four to a bar, a curve that falls once a beat. */
export function newClock(): Clock {
  return {
    bpm: 120,
    beatsPerBar: 4,
    subdivision: 2,
    swing: SWING_LIMITS.even,
    anchor: { timeS: 0, beat: 0 },
    curve: {
      beats: 4,
      points: [
        { at: 0, value: 1 },
        { at: 0.25, value: 0.2 },
        { at: 0.5, value: 0.6 },
        { at: 1, value: 0 },
      ],
    },
  };
}

/** Beats and bars over time, wherever they come from: a clock's own, or a note file's. */
export interface Beats {
  /** Beats since beat 0, with their fraction. */
  beatAt(timeS: number): number;
  /** Where in its bar a beat stands, 0..1. */
  barPhase(beat: number): number;
  /** Cues of all ticks from `fromS` up to, not including, `toS`, in order. */
  ticks(fromS: number, toS: number): Cue[];
}

/** How strong the ticks are that begin a bar, begin a beat, and stand between beats. */
export const TICK_STRENGTHS = { bar: 1, beat: 0.7, between: 0.4 } as const;

/** What is left of a number above the whole one below it, 0 to 1. */
export const fraction = (x: number): number => x - Math.floor(x);

/** A clock's beats over time. */
export function clockBeats(clock: Clock): Beats {
  const { beatsPerBar, subdivision, swing } = clock;
  const perBar = beatsPerBar * subdivision;
  return {
    beatAt: (timeS) => beatAt(clock, timeS),
    barPhase: (beat) => fraction(beat / beatsPerBar),
    ticks: (fromS, toS) => {
      const cues: Cue[] = [];
      const timeOf = (beat: number) => clock.anchor.timeS + ((beat - clock.anchor.beat) * 60) / clock.bpm;
      for (let bar = Math.floor(beatAt(clock, fromS) / beatsPerBar); ; bar++) {
        if (timeOf(bar * beatsPerBar) >= toS) return cues;
        for (let tick = 0; tick < perBar; tick++) {
          const late = tick % 2 === 1 ? (swing - SWING_LIMITS.even) * 2 : 0;
          const timeS = timeOf(bar * beatsPerBar + (tick + late) / subdivision);
          // A tick that rounding put a hair before the start still belongs to it.
          if (timeS < fromS - 1e-9 || timeS >= toS - 1e-9) continue;
          const strength =
            tick === 0
              ? TICK_STRENGTHS.bar
              : tick % subdivision === 0
                ? TICK_STRENGTHS.beat
                : TICK_STRENGTHS.between;
          cues.push({ timeS: Math.max(timeS, fromS), strength });
        }
      }
    },
  };
}

/** Beats since beat 0 at a time. */
export function beatAt(clock: Pick<Clock, "bpm" | "anchor">, timeS: number): number {
  return clock.anchor.beat + ((timeS - clock.anchor.timeS) * clock.bpm) / 60;
}

/** The drawn curve's value at a time, 0..1. */
export function clockCurve(clock: Clock): (timeS: number) => number {
  const curve = drawnCurve(clock.curve.points);
  return (timeS) => curve(fraction(beatAt(clock, timeS) / clock.curve.beats));
}

/**
 * The clock at another tempo from a time on, with no jump in phase: the beat at `timeS` stays what it is.
 *
 * @throws RangeError for a tempo outside 20 to 400 beats a minute
 */
export function withTempo(clock: Clock, bpm: number, timeS: number): Clock {
  if (!(bpm >= TEMPO_LIMITS.minBpm && bpm <= TEMPO_LIMITS.maxBpm)) {
    throw new RangeError(`a tempo must be ${TEMPO_LIMITS.minBpm} to ${TEMPO_LIMITS.maxBpm}, not ${bpm}`);
  }
  return { ...clock, bpm, anchor: { timeS, beat: beatAt(clock, timeS) } };
}

/** Taps further apart than this begin a new count. */
const TAP_PAUSE_S = 60 / TEMPO_LIMITS.minBpm;

/**
 * The tempo of a row of taps, by a least-squares line through them, and the beat they fall on.
 *
 * @param tapsS  times of taps, rising; only those since the last pause count
 * @returns `undefined` with fewer than two taps, else beats a minute and a time that stands on a beat
 */
export function tappedTempo(tapsS: readonly number[]): { bpm: number; beatS: number } | undefined {
  let first = tapsS.length - 1;
  while (first > 0 && tapsS[first] - tapsS[first - 1] <= TAP_PAUSE_S) first--;
  const taps = tapsS.slice(Math.max(0, first));
  if (taps.length < 2) return undefined;
  const middle = (taps.length - 1) / 2;
  const mean = taps.reduce((sum, tap) => sum + tap, 0) / taps.length;
  let across = 0;
  let along = 0;
  taps.forEach((tap, i) => {
    across += (i - middle) * (tap - mean);
    along += (i - middle) ** 2;
  });
  const periodS = across / along;
  if (!(periodS > 0)) return undefined;
  const bpm = Math.min(TEMPO_LIMITS.maxBpm, Math.max(TEMPO_LIMITS.minBpm, 60 / periodS));
  return { bpm, beatS: mean + middle * periodS };
}
