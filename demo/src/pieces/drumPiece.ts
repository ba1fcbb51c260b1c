import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { dbToLevel } from "@bumbrel/core/dsp/level/decibel";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { noteHz } from "@bumbrel/core/dsp/tone/note";
import { makeNoise } from "@bumbrel/core/dsp/tone/tone";
import { bass, kick, pad, pluck, shaker, snare } from "../music/voices";

export interface DrumPieceSettings {
  seed: number;
  bpm: number;
  /** Level of the whole. */
  gainDb: number;
  bars?: number;
}

/** A piece whose every hit is known, for measuring how well hits are caught and tempos found. */
export interface DrumPiece {
  /** Mono at 48 kHz. */
  samples: Float32Array;
  kicksS: number[];
  snaresS: number[];
}

/** Twelve pieces of different seeds, tempos and loudness. */
export const DRUM_PIECES: DrumPieceSettings[] = [
  { seed: 11, bpm: 60, gainDb: -6 },
  { seed: 12, bpm: 72, gainDb: -18 },
  { seed: 13, bpm: 84, gainDb: 0 },
  { seed: 14, bpm: 92, gainDb: -30 },
  { seed: 15, bpm: 100, gainDb: -12 },
  { seed: 16, bpm: 108, gainDb: -24 },
  { seed: 17, bpm: 116, gainDb: -3 },
  { seed: 18, bpm: 124, gainDb: -9 },
  { seed: 19, bpm: 132, gainDb: -20 },
  { seed: 20, bpm: 146, gainDb: -15 },
  { seed: 21, bpm: 160, gainDb: -6 },
  { seed: 22, bpm: 180, gainDb: -10 },
];

const ROOTS = [38, 41, 36, 43, 45, 40];

/**
 * Synthesises drums over a bass, a plucked tune, a pad and noise. Kicks fall on the first and third beat and on some
 * eighths, snares on the second and fourth; bass notes and plucks begin with them and between them.
 */
export function makeDrumPiece({ seed, bpm, gainDb, bars = 16 }: DrumPieceSettings): DrumPiece {
  const random = seededRandom(seed);
  const beatS = 60 / bpm;
  const length = Math.round(bars * 4 * beatS * SAMPLE_RATE_HZ);
  const samples = new Float32Array(length);
  const [kicksS, snaresS]: number[][] = [[], []];
  const at = (bar: number, beat: number) => Math.round((bar * 4 + beat) * beatS * SAMPLE_RATE_HZ);
  const velocity = () => 0.75 + 0.25 * random();
  for (let bar = 0; bar < bars; bar++) {
    const root = ROOTS[Math.floor(random() * ROOTS.length)];
    const chord = [root + 24, root + 28, root + 31];
    for (let eighth = 0; eighth < 8; eighth++) {
      const beat = eighth / 2;
      const start = at(bar, beat);
      const target = { samples, start };
      if (beat === 0 || beat === 2 || (eighth % 4 !== 2 && random() < 0.2)) {
        kick(target, 0.7 * velocity());
        kicksS.push(start / SAMPLE_RATE_HZ);
      }
      if (beat === 1 || beat === 3) {
        snare(target, 0.6 * velocity(), random);
        snaresS.push(start / SAMPLE_RATE_HZ);
      }
      shaker(target, 0.35 * velocity(), random);
      if (random() < 0.5) bass(target, noteHz(root + 12), 0.8 * beatS, 0.35);
      if (random() < 0.5) pluck(target, noteHz(chord[Math.floor(random() * 3)] + 12), 0.25, random);
    }
    pad({ samples, start: at(bar, 0) }, chord.map(noteHz), 4 * beatS + 0.2, 0.25);
  }
  const noise = makeNoise("pink", length, seed, 0.02);
  const gain = dbToLevel(gainDb);
  for (let i = 0; i < length; i++) samples[i] = gain * Math.tanh(samples[i] + noise[i]);
  return { samples, kicksS, snaresS };
}
