import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { noteHz } from "@bumbrel/core/dsp/tone/note";
import { bass, kick, pad, pluck, shaker, snare } from "../music/voices";

export const STEM_NAMES = ["drums", "bass", "pluck", "pad"] as const;
export type StemName = (typeof STEM_NAMES)[number];
export type Drum = "kick" | "snare" | "shaker";

/** The instant a drum is struck: the time of its first sample. */
export interface DrumHit {
  timeS: number;
  drum: Drum;
  /** 0..1 */
  velocity: number;
}

export interface Piece {
  /** Mono stems of equal length at 48 kHz. */
  stems: Record<StemName, Float32Array>;
  /** Left and right of everything together. */
  mix: [Float32Array, Float32Array];
  /** In order of time. */
  hits: DrumHit[];
}

export const BEATS_PER_MINUTE = 100;
export const BARS = 20;
const BEAT_S = 60 / BEATS_PER_MINUTE;
const BAR_S = 4 * BEAT_S;
export const DURATION_S = BARS * BAR_S;
/** The bar in which the whole harbour holds its breath: every sample is 0. */
export const SILENT_BAR = 14;

interface Section {
  bars: [first: number, last: number];
  loudness: number;
  kick: number[];
  snare: number[];
  shaker: number[];
}

const EIGHTHS = [0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5];
const SECTIONS: Section[] = [
  { bars: [0, 1], loudness: 0.3, kick: [], snare: [], shaker: [] },
  { bars: [2, 5], loudness: 0.42, kick: [0, 2], snare: [], shaker: [1, 3] },
  { bars: [6, 9], loudness: 0.9, kick: [0, 1.5, 2], snare: [1, 3], shaker: EIGHTHS },
  { bars: [10, 13], loudness: 1, kick: [0, 1, 2, 3.5], snare: [1, 3], shaker: EIGHTHS },
  { bars: [15, 18], loudness: 1, kick: [0, 1, 2, 3], snare: [1, 3, 3.75], shaker: EIGHTHS },
  { bars: [19, 19], loudness: 0.4, kick: [0], snare: [], shaker: [] },
];

/** Root, and the chord above it, for each bar of a round of four. */
const CHORDS: { root: number; chord: number[] }[] = [
  { root: 38, chord: [62, 65, 69, 72] },
  { root: 41, chord: [60, 65, 67, 69] },
  { root: 36, chord: [60, 64, 67, 74] },
  { root: 43, chord: [59, 62, 67, 69] },
];
const BASS_BEATS = [0, 1.5, 2.5, 3];

/** How loud each stem is by itself, where it stands from left (−1) to right (1), and its gain in the mix. */
const PLACES: Record<StemName, { level: number; pan: number; gain: number }> = {
  drums: { level: 0.5, pan: 0, gain: 1.24 },
  bass: { level: 0.55, pan: 0, gain: 0.62 },
  pluck: { level: 0.85, pan: 0.35, gain: 0.36 },
  pad: { level: 0.7, pan: -0.25, gain: 0.45 },
};

/**
 * Synthesises *Regatta Night*: 48 s at 100 beats a minute, a quiet verse, a loud chorus, a silent bar and a
 * last round.
 *
 * @param seed  chooses velocities, the tune and all noise; the same seed gives the same samples
 */
export function makeRegattaNight(seed: number): Piece {
  const random = seededRandom(seed);
  const length = Math.round(DURATION_S * SAMPLE_RATE_HZ);
  const stems = Object.fromEntries(
    STEM_NAMES.map((name) => [name, new Float32Array(length)]),
  ) as Piece["stems"];
  const hits: DrumHit[] = [];
  const sampleAt = (bar: number, beat: number) => Math.round((bar * BAR_S + beat * BEAT_S) * SAMPLE_RATE_HZ);
  const strike = (drum: Drum, bar: number, beat: number, velocity: number) => {
    const start = sampleAt(bar, beat);
    hits.push({ timeS: start / SAMPLE_RATE_HZ, drum, velocity: Math.round(velocity * 1000) / 1000 });
    return { samples: stems.drums, start };
  };

  for (const section of SECTIONS) {
    for (let bar = section.bars[0]; bar <= section.bars[1]; bar++) {
      const { loudness } = section;
      const { root, chord } = CHORDS[bar % CHORDS.length];
      const human = () => loudness * (0.88 + 0.12 * random());
      for (const beat of section.kick) {
        const velocity = human();
        kick(strike("kick", bar, beat, velocity), velocity);
      }
      for (const beat of section.snare) {
        const velocity = human();
        snare(strike("snare", bar, beat, velocity), velocity, random);
      }
      for (const beat of section.shaker) {
        const velocity = human() * (beat % 1 === 0 ? 0.8 : 0.55);
        shaker(strike("shaker", bar, beat, velocity), velocity, random);
      }
      pad(
        { samples: stems.pad, start: sampleAt(bar, 0) },
        chord.map(noteHz),
        BAR_S + 0.3,
        0.5 + 0.5 * loudness,
      );
      if (loudness > 0.4) {
        for (const beat of loudness > 0.5 ? BASS_BEATS : [0]) {
          // An octave above the root leaves the ground below 70 Hz to the kick.
          bass(
            { samples: stems.bass, start: sampleAt(bar, beat) },
            noteHz(root + 12),
            0.8 * BEAT_S,
            loudness,
          );
        }
      }
      for (const beat of EIGHTHS) {
        if (random() < 0.35 + 0.35 * loudness) {
          const note = chord[Math.floor(random() * chord.length)] + 12;
          pluck(
            { samples: stems.pluck, start: sampleAt(bar, beat) },
            noteHz(note),
            0.4 + 0.5 * loudness,
            random,
          );
        }
      }
    }
  }

  hits.sort((a, b) => a.timeS - b.timeS);
  for (const name of STEM_NAMES) {
    const stem = stems[name];
    for (let i = 0; i < length; i++) stem[i] *= PLACES[name].level;
    holdBreath(stem, sampleAt(SILENT_BAR, 0), sampleAt(SILENT_BAR + 1, 0));
  }
  return { stems, mix: mixDown(stems, length), hits };
}

/** Fades what still rings before `from`, and makes everything up to `to` exactly 0. */
function holdBreath(samples: Float32Array, from: number, to: number): void {
  const fade = Math.round(0.03 * SAMPLE_RATE_HZ);
  for (let i = 0; i < fade; i++) samples[from - fade + i] *= 1 - i / fade;
  samples.fill(0, from, to);
}

function mixDown(stems: Piece["stems"], length: number): [Float32Array, Float32Array] {
  const left = new Float32Array(length);
  const right = new Float32Array(length);
  for (const name of STEM_NAMES) {
    const { pan, gain } = PLACES[name];
    const angle = ((pan + 1) * Math.PI) / 4;
    const toLeft = gain * Math.cos(angle) * Math.SQRT2;
    const toRight = gain * Math.sin(angle) * Math.SQRT2;
    const stem = stems[name];
    for (let i = 0; i < length; i++) {
      left[i] += toLeft * stem[i];
      right[i] += toRight * stem[i];
    }
  }
  // A soft knee instead of clipping where everything lands on one beat.
  for (const channel of [left, right]) {
    for (let i = 0; i < length; i++) channel[i] = Math.tanh(channel[i]);
  }
  return [left, right];
}
