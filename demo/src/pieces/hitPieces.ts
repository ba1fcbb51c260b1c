import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { noteHz } from "@bumbrel/core/dsp/tone/note";
import { makeNoise } from "@bumbrel/core/dsp/tone/tone";
import { bass, kick, pad, pluckedBass, shaker, snare, tom } from "../music/voices";

/** Hits that one band's level does not tell from what sounds beside them. */
export const HARD_HITS = ["ghost notes", "tom fills", "kick under a bass note"] as const;
export type HardHits = (typeof HARD_HITS)[number];

/** A piece with some hits to be caught. */
export interface HitPiece {
  /** Mono at 48 kHz. */
  samples: Float32Array;
  /** The hits that are meant. */
  hitsS: number[];
}

const ROOTS = [38, 41, 36, 43];

/** Synthesises bars of four beats with the hits that are meant among others like them. */
export function makeHitPiece(kind: HardHits, seed: number, bpm = 104, bars = 12): HitPiece {
  const random = seededRandom(seed);
  const stepS = 60 / bpm / 4;
  const samples = makeNoise("pink", Math.round((bars * 16 * stepS + 0.5) * SAMPLE_RATE_HZ), seed, 0.01);
  const hitsS: number[] = [];
  const velocity = () => 0.8 + 0.2 * random();
  for (let bar = 0; bar < bars; bar++) {
    const root = ROOTS[Math.floor(random() * ROOTS.length)];
    const fill = kind === "tom fills" && bar % 2 === 1;
    for (let step = 0; step < 16; step++) {
      const timeS = (bar * 16 + step) * stepS + 0.003 * (2 * random() - 1) + 0.05;
      const target = { samples, start: Math.round(timeS * SAMPLE_RATE_HZ) };
      const isMeant = () => hitsS.push(target.start / SAMPLE_RATE_HZ);
      const plays = (steps: readonly number[]) => steps.includes(step);
      if (fill && step >= 10 && (step % 2 === 0 || random() < 0.5)) {
        tom(target, 190 - 14 * (step - 10), 0.6 * velocity());
        isMeant();
      }
      if (plays([0, 8]) || random() < 0.08) {
        kick(target, 0.7 * velocity());
        if (kind === "kick under a bass note") isMeant();
      }
      if (plays([4, 12]) && !(fill && step >= 10)) snare(target, 0.55 * velocity(), random);
      else if (kind === "ghost notes" && (plays([7, 9]) || (plays([2, 15]) && random() < 0.5))) {
        snare(target, 0.14 * velocity(), random);
        isMeant();
      }
      if (step % 2 === 0) shaker(target, 0.3 * velocity(), random);
      if (kind === "kick under a bass note") {
        if (step % 2 === 0)
          pluckedBass(target, noteHz(root + (random() < 0.3 ? 7 : 0)), 2.2 * stepS, 0.5 * velocity());
      } else if (plays([0, 6, 10])) bass(target, noteHz(root + 12), 3 * stepS, 0.3 * velocity());
    }
    const start = Math.round(bar * 16 * stepS * SAMPLE_RATE_HZ);
    pad({ samples, start }, [root + 24, root + 28, root + 31].map(noteHz), 16 * stepS + 0.2, 0.15);
  }
  for (let i = 0; i < samples.length; i++) samples[i] = Math.tanh(0.8 * samples[i]);
  return { samples, hitsS };
}
