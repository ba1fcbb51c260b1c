import { drawnCurve } from "../dsp/maths/curve";
import { defaultsOf, number, type Settings, type ValuesOf, whole } from "../setting/descriptor";
import { type Beats, fraction, TICK_STRENGTHS } from "./beats";
import type { Cue } from "./cue";

export const TEMPO_LIMITS = { minBpm: 20, maxBpm: 400 } as const;
/** A swung pair of ticks: half is even, two thirds is a triplet, three quarters is dotted. */
export const SWING_LIMITS = { even: 0.5, most: 0.75 } as const;

/** The settings of a beat clock. */
export const CLOCK_SETTINGS = {
  bpm: number(
    "Tempo",
    "BPM",
    [TEMPO_LIMITS.minBpm, TEMPO_LIMITS.maxBpm, 0.1],
    120,
    "Beats a minute; a change while it runs takes effect without a jump.",
    { chars: 5 },
  ),
  beatsPerBar: whole("Beats per bar", [1, 32], 4, "Beats in a bar.", { chars: 2 }),
  subdivision: whole("Ticks per beat", [1, 12], 2, "Ticks in a beat.", { chars: 2 }),
  swing: number(
    "Swing",
    "",
    [SWING_LIMITS.even, SWING_LIMITS.most, 0.01],
    SWING_LIMITS.even,
    "Share of a pair of ticks that the first of them takes.",
    { chars: 4 },
  ),
};
/** The drawn curve that repeats with a clock's beats. */
export const CLOCK_CURVE_SETTINGS = {
  beats: number("Curve length", "beats", [0.25, 1024, 0.25], 4, "Beats after which the curve repeats.", {
    chars: 6,
  }),
  points: {
    type: "curve",
    label: "Curve",
    help: "A drawn curve, 0 to 1.",
    default: [
      { at: 0, value: 1 },
      { at: 0.25, value: 0.2 },
      { at: 0.5, value: 0.6 },
      { at: 1, value: 0 },
    ],
  },
} satisfies Settings;

export type Clock = ValuesOf<typeof CLOCK_SETTINGS> & {
  /** A beat and its time: where a change of tempo took effect. Beats count from 0, bars begin at multiples. */
  anchor: { timeS: number; beat: number };
  curve: ValuesOf<typeof CLOCK_CURVE_SETTINGS>;
};

/** The clock of a new sound. */
export function newClock(): Clock {
  return {
    ...defaultsOf(CLOCK_SETTINGS),
    anchor: { timeS: 0, beat: 0 },
    curve: defaultsOf(CLOCK_CURVE_SETTINGS),
  };
}

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
