import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { noteHz } from "@bumbrel/core/dsp/tone/note";
import { makeNoise } from "@bumbrel/core/dsp/tone/tone";
import { bass, kick, pad, pluck, shaker, snare } from "../music/voices";

/** A bar of four beats in sixteenths, or in triplets of eighths: `x` is struck, `o` struck softly. */
interface Style {
  kick?: string;
  snare?: string;
  hat?: string;
  bass?: string;
  chord?: string;
  tune?: string;
  /** The tempo at the end over that at the beginning. */
  speedsUpTo?: number;
  beatsPerBar?: number;
}

/** Styles whose beats are told apart from their off-beats, halves and doubles by different things. */
export const BEAT_STYLES = {
  "four on the floor": {
    kick: "x...x...x...x...",
    snare: "....x.......x...",
    hat: "..x...x...x...x.",
    bass: "..x...x...x...x.",
  },
  backbeat: {
    kick: "x.......x.x.....",
    snare: "....x.......x...",
    hat: "x.x.x.x.x.x.x.x.",
    bass: "x.......x.x.....",
    tune: "x...x.x...x.x...",
  },
  swing: {
    kick: "o..o..o..o..",
    snare: "...o.....o..",
    hat: "x..x.xx..x.x",
    bass: "x..x..x..x..",
    tune: "..x..x..x...",
  },
  syncopated: {
    kick: "x..x..x...x..x..",
    snare: "....x..o.o..x...",
    hat: "x.xxx.xxx.xxx.xx",
    bass: "x..x..x...x..x..",
    tune: "..x..x....x..x..",
  },
  "half time": {
    kick: "x.....x.........",
    snare: "........x.......",
    hat: "x.x.x.x.x.x.x.x.",
    bass: "x...............",
    tune: "x...x...x...x...",
  },
  "off beat": {
    kick: "........x.......",
    snare: "........x.......",
    hat: "x.x.x.x.x.x.x.x.",
    bass: "x..x..x...x.x...",
    chord: "..x...x...x...x.",
  },
  accelerando: {
    kick: "x.......x.......",
    snare: "....x.......x...",
    hat: "x.x.x.x.x.x.x.x.",
    bass: "x.......x.......",
    speedsUpTo: 1.2,
  },
  "without drums": {
    bass: "x.......x.......",
    chord: "x...x...x...x...",
    tune: "x...x.x.x...x.xx",
  },
} satisfies Record<string, Style>;

/** Bars of three and of six beats. */
export const METRE_STYLES = {
  waltz: {
    kick: "x...........",
    snare: "....o...o...",
    hat: "....x...x...",
    bass: "x...........",
    beatsPerBar: 3,
  },
  jig: {
    kick: "x.....o.....",
    snare: "......x.....",
    hat: "x.x.x.x.x.x.",
    bass: "x.....x.....",
    tune: "x.x.x.x...x.",
    beatsPerBar: 6,
  },
} satisfies Record<string, Style>;

export type BeatStyle = keyof typeof BEAT_STYLES | keyof typeof METRE_STYLES;
const STYLES: Record<BeatStyle, Style> = { ...BEAT_STYLES, ...METRE_STYLES };

/** Tempos of the pieces, beats a minute. */
export const BEAT_TEMPOS = [63, 75, 87, 100, 124, 144];

/** A piece whose beats are known. */
export interface BeatPiece {
  /** Mono at 48 kHz. */
  samples: Float32Array;
  beatsPerBar: number;
  beatsS: number[];
  /** The beats that begin a bar. */
  barsS: number[];
}

const ROOTS = [38, 41, 36, 43];
/** Players are this much early or late, at most. */
const LOOSE_S = 0.006;

export interface BeatPieceSettings {
  style: BeatStyle;
  bpm: number;
  seed: number;
  /** About so many seconds. */
  lengthS?: number;
  /** Share of hits that are left out, and of places between them at which something is struck softly instead. */
  freedom?: number;
  drumsOnly?: boolean;
}

/** Synthesises bars of a style: drums, bass, chords and a tune over a pad and some noise. */
export function makeBeatPiece({
  style: name,
  bpm,
  seed,
  lengthS = 32,
  freedom = 0,
  drumsOnly = false,
}: BeatPieceSettings): BeatPiece {
  const style = STYLES[name];
  const { speedsUpTo = 1, beatsPerBar = 4 } = style;
  const random = seededRandom(seed);
  const bars = Math.max(6, Math.round((lengthS * bpm) / 60 / beatsPerBar));
  const beats = bars * beatsPerBar;
  /** Each beat lasts a little less than the one before where it speeds up. */
  const timesS = [0.3];
  for (let beat = 0; beat < beats; beat++) {
    timesS.push(timesS[beat] + 60 / (bpm * speedsUpTo ** (beat / beats)));
  }
  const timeOf = (beat: number) => {
    const whole = Math.min(beats - 1, Math.floor(beat));
    return timesS[whole] + (beat - whole) * (timesS[whole + 1] - timesS[whole]);
  };
  const samples = makeNoise("pink", Math.round((timesS[beats] + 0.3) * SAMPLE_RATE_HZ), seed, 0.01);
  for (let bar = 0; bar < bars; bar++) {
    const root = ROOTS[Math.floor(random() * ROOTS.length)];
    const notes = [root + 24, root + 28, root + 31];
    const beatS = timeOf(bar * beatsPerBar + 1) - timeOf(bar * beatsPerBar);
    const play = (row: string | undefined, strike: (start: number, velocity: number) => void) => {
      if (!row) return;
      for (let cell = 0; cell < row.length; cell++) {
        const isFree = freedom > 0 && random() < freedom;
        // Rows of rests get fewer extra hits than rows of hits lose.
        if (row[cell] === "." ? !isFree || random() > 0.3 : isFree) continue;
        const timeS = timeOf((bar + cell / row.length) * beatsPerBar) + LOOSE_S * (2 * random() - 1);
        strike(Math.round(timeS * SAMPLE_RATE_HZ), (row[cell] === "x" ? 1 : 0.35) * (0.75 + 0.25 * random()));
      }
    };
    play(style.kick, (start, velocity) => kick({ samples, start }, 0.7 * velocity));
    play(style.snare, (start, velocity) => snare({ samples, start }, 0.55 * velocity, random));
    play(style.hat, (start, velocity) => shaker({ samples, start }, 0.35 * velocity, random));
    if (drumsOnly) continue;
    play(style.bass, (start, velocity) =>
      bass({ samples, start }, noteHz(root + (random() < 0.3 ? 19 : 12)), 0.6 * beatS, 0.35 * velocity),
    );
    play(style.chord, (start, velocity) => {
      for (const note of notes) pluck({ samples, start }, noteHz(note), 0.2 * velocity, random);
    });
    play(style.tune, (start, velocity) =>
      pluck({ samples, start }, noteHz(notes[Math.floor(3 * random())] + 12), 0.3 * velocity, random),
    );
    const start = Math.round(timeOf(bar * beatsPerBar) * SAMPLE_RATE_HZ);
    pad({ samples, start }, notes.map(noteHz), beatsPerBar * beatS + 0.2, 0.15);
  }
  for (let i = 0; i < samples.length; i++) samples[i] = Math.tanh(0.7 * samples[i]);
  const beatsS = timesS.slice(0, beats);
  return { samples, beatsPerBar, beatsS, barsS: beatsS.filter((_time, beat) => beat % beatsPerBar === 0) };
}
