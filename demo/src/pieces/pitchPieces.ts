import { FRAME_RATE_HZ, frameCount, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { noteHz } from "@bumbrel/core/dsp/tone/note";
import { makeNoise } from "@bumbrel/core/dsp/tone/tone";
import { kick, shaker, snare } from "../music/voices";

/** A single voice, whose pitch is known at each instant. */
export interface PitchPiece {
  /** Mono at 48 kHz. */
  samples: Float32Array;
  /** Pitch in Hz at each frame of the 100 Hz grid; 0 where nothing sings, and within 40 ms of where that begins or ends. */
  pitchHz: number[];
}

interface PitchPieceOptions {
  /** Lowest and highest note. */
  notes: readonly [lowest: number, highest: number];
  seconds: number;
  seed: number;
  /** White noise under the voice, dB below it. */
  noiseDb: number;
  /** True for drums over it. */
  hasDrums?: boolean;
}

const HARMONICS = 12;
const UNSURE_FRAMES = 4;

/** Synthesises a voice of notes with vibrato and glides between them, each note with another balance of harmonics. */
export function makePitchPiece({
  notes,
  seconds,
  seed,
  noiseDb,
  hasDrums = false,
}: PitchPieceOptions): PitchPiece {
  const random = seededRandom(seed);
  const [lowest, highest] = notes;
  const samples = new Float32Array(Math.round(seconds * SAMPLE_RATE_HZ));
  const hzOf = new Float32Array(samples.length);
  let note = lowest + random() * (highest - lowest);
  for (let start = 4800; start < samples.length - 48_000; ) {
    const length = Math.round((0.25 + 0.5 * random()) * SAMPLE_RATE_HZ);
    const end = start + length;
    const before = note;
    note = Math.min(highest, Math.max(lowest, note + Math.round(14 * (random() - 0.5))));
    const glides = random() < 0.4 && hzOf[start - 1] > 0;
    const vibrato = random() < 0.5 ? 0.3 : 0;
    const strengths = Array.from({ length: HARMONICS }, (_none, k) =>
      k === 0 ? 0.15 + 0.85 * random() : random() / Math.sqrt(k + 1),
    );
    const loudness = 0.2 / Math.hypot(...strengths);
    let phase = 0;
    for (let i = start; i < end && i < samples.length; i++) {
      const timeS = (i - start) / SAMPLE_RATE_HZ;
      const glide = glides ? Math.max(0, 1 - timeS / 0.12) : 0;
      const hz = noteHz(note + glide * (before - note) + vibrato * Math.sin(2 * Math.PI * 5.3 * timeS));
      phase += (2 * Math.PI * hz) / SAMPLE_RATE_HZ;
      const level = loudness * Math.min(1, timeS / 0.01, (end - i) / 480);
      for (let k = 0; k < HARMONICS && (k + 1) * hz < 20_000; k++)
        samples[i] += level * strengths[k] * Math.sin((k + 1) * phase);
      hzOf[i] = hz;
    }
    start = random() < 0.25 ? end + Math.round(0.2 * SAMPLE_RATE_HZ) : end;
  }
  const pitchHz = Array.from({ length: frameCount(samples.length) }, (_none, frame) => {
    const at = (frames: number) => hzOf[Math.round(((frame + frames) / FRAME_RATE_HZ) * SAMPLE_RATE_HZ)] || 0;
    const around = Array.from({ length: 2 * UNSURE_FRAMES + 1 }, (_one, i) => at(i - UNSURE_FRAMES));
    // If one note follows another at once, both are heard.
    const isSure = around.every((hz) => hz > 0 && Math.abs(Math.log2(hz / at(0))) < 1 / 12);
    return isSure ? at(0) : 0;
  });
  const noise = makeNoise("white", samples.length, seed + 1, 1);
  const power = (all: Float32Array) => all.reduce((sum, one) => sum + one * one, 0) / all.length;
  // A voice sings at a level of 0.2, whatever its harmonics are.
  const share = Math.sqrt((0.2 ** 2 / 2 / power(noise)) * 10 ** (-noiseDb / 10));
  for (let i = 0; i < samples.length; i++) samples[i] += share * noise[i];
  for (let step = 0; hasDrums && step < seconds * 4; step++) {
    const target = { samples, start: Math.round((step / 4) * SAMPLE_RATE_HZ) };
    if (step % 4 === 0) kick(target, 0.4);
    if (step % 4 === 2) snare(target, 0.3, random);
    shaker(target, 0.2, random);
  }
  return { samples, pitchHz };
}

/** How pitches in Hz, one a frame, meet those of a piece where it sings. */
export function scorePitches({ pitchHz }: PitchPiece, found: ArrayLike<number>) {
  const cents: number[] = [];
  let [sung, octaves, far] = [0, 0, 0];
  pitchHz.forEach((hz, frame) => {
    if (hz === 0) return;
    sung++;
    const off = 1200 * Math.log2(found[frame] / hz);
    if (Math.abs(off) < 50) cents.push(Math.abs(off));
    else far++;
    if (Math.abs(off) >= 600) octaves++;
  });
  cents.sort((a, b) => a - b);
  return {
    /** Shares of the frames that sing. */
    octavesOff: octaves / sung,
    farOff: far / sung,
    /** Of those less than 50 cents off: the middle one, and that of which nineteen in twenty are below. */
    middleCents: cents[cents.length >> 1],
    mostCents: cents[Math.floor(0.95 * (cents.length - 1))],
  };
}
