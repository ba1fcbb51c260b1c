import type { BeatBand } from "./beatOnsets";

/** Places in a beat at which something may begin: sixteenths lie 3 of these apart, triplets of eighths 4. */
export const PLACES_A_BEAT = 12;

/**
 * How bars of one style go: a text for each beat, in each band. A digit says how likely something begins at its place, from 1,
 * hardly ever, to 9, nearly always; places with a dot are not looked at.
 */
interface Pattern extends Record<BeatBand, readonly string[]> {
  /** Taken off the evidence of each of its beats, more for a rarer style. */
  rare: number;
}

/** How likely something begins, by the digits of a pattern. */
export const LIKELIHOODS = [0, 0.03, 0.08, 0.15, 0.25, 0.4, 0.55, 0.7, 0.82, 0.93];

const times = (count: number, ...beats: string[]): string[] =>
  Array.from({ length: count }, () => beats).flat();

const HATS = "7..3..6..3..";

/** Styles that bars are compared with, by the number of beats in a bar. They are drawn from common practice, not learnt. */
const PATTERNS: Readonly<Record<number, Readonly<Record<string, Pattern>>>> = {
  4: {
    pulse: {
      low: times(4, "9..1..1..1.."),
      middle: times(4, "9..1..1..1.."),
      high: times(4, "9..1..1..1.."),
      rare: 1.2,
    },
    everyBeat: {
      low: times(4, "9..2..4..2.."),
      middle: times(2, "5..2..4..2..", "7..2..4..2.."),
      high: times(4, "5..2..7..2.."),
      rare: 0,
    },
    backbeat: {
      low: ["9..2..3..2..", "2..2..3..2..", "6..2..4..2..", "2..2..4..2.."],
      middle: times(2, "6..2..4..2..", "9..2..4..2.."),
      high: times(2, HATS, "8..3..6..3.."),
      rare: 0,
    },
    halfTime: {
      low: ["9..2..2..2..", "2..2..4..2..", "3..2..2..2..", "2..2..4..2.."],
      middle: ["6..2..3..2..", "4..2..4..2..", "9..2..3..2..", "4..2..4..2.."],
      high: times(4, HATS),
      rare: 0.2,
    },
    offBeat: {
      low: ["5..1..1..3..", "2..1..2..1..", "8..1..1..1..", "2..1..2..1.."],
      middle: ["3..1..8..1..", "3..1..8..1..", "6..1..8..1..", "3..1..8..1.."],
      high: times(4, "6..2..7..2.."),
      rare: 0.2,
    },
    syncopated: {
      low: ["9..2..2..6..", "2..2..6..2..", "4..2..6..2..", "3..2..5..2.."],
      middle: ["5..2..4..5..", "8..2..5..3..", "4..3..5..2..", "8..2..4..2.."],
      high: times(4, "7..4..6..4.."),
      rare: 0.2,
    },
    threeThreeTwo: {
      low: times(4, "8..1..2..2.."),
      middle: ["4..1..1..7..", "3..1..7..1..", "4..1..1..7..", "3..1..7..1.."],
      high: times(4, "5..3..6..3.."),
      rare: 0.6,
    },
    broken: {
      low: ["9..2..4..2..", "2..2..2..4..", "3..2..8..2..", "2..2..3..2.."],
      middle: ["5..2..3..3..", "9..2..3..4..", "3..4..5..3..", "9..2..3..2.."],
      high: times(4, HATS),
      rare: 0.3,
    },
    swing: {
      low: times(4, "6...1..22..."),
      middle: times(2, "5...1..33...", "7...1..33..."),
      high: times(2, "8...1..22...", "8...1..66..."),
      rare: 0.3,
    },
    shuffle: {
      low: times(2, "8...1...3...", "3...1...3..."),
      middle: times(2, "5...2...4...", "8...2...4..."),
      high: times(4, "8...3...8..."),
      rare: 0.3,
    },
    plain: {
      low: times(2, "7..2..3..2..", "4..2..3..2.."),
      middle: times(2, "7..2..5..2..", "6..2..5..2.."),
      high: times(4, "6..3..5..3.."),
      rare: 0,
    },
  },
  3: {
    waltz: {
      low: ["9..1..2..1..", "3..1..2..1..", "3..1..2..1.."],
      middle: ["5..2..3..2..", "7..2..3..2..", "7..2..3..2.."],
      high: ["5..2..4..2..", "7..2..4..2..", "7..2..4..2.."],
      rare: 0,
    },
    plain: {
      low: ["7..2..3..2..", "4..2..3..2..", "4..2..3..2.."],
      middle: ["7..2..5..2..", "6..2..5..2..", "6..2..5..2.."],
      high: times(3, "6..3..5..3.."),
      rare: 0,
    },
  },
  6: {
    jig: {
      low: ["9.....1.....", "1.....1.....", "2.....1.....", "5.....1.....", "1.....1.....", "2.....1....."],
      middle: [
        "5.....1.....",
        "3.....1.....",
        "3.....1.....",
        "8.....1.....",
        "3.....1.....",
        "4.....1.....",
      ],
      high: times(6, "7.....2....."),
      rare: 0,
    },
    plain: {
      low: ["7.....2.....", "2.....2.....", "3.....2.....", "5.....2.....", "2.....2.....", "3.....2....."],
      middle: [
        "7.....2.....",
        "5.....2.....",
        "5.....2.....",
        "6.....2.....",
        "5.....2.....",
        "5.....2.....",
      ],
      high: times(6, "6.....3....."),
      rare: 0,
    },
  },
};

/** Bars of any number of beats, of which only the first is told from the others. */
const plainBar = (beats: number): Pattern => ({
  low: ["7..2..3..2..", ...times(beats - 1, "4..2..3..2..")],
  middle: ["7..2..5..2..", ...times(beats - 1, "6..2..5..2..")],
  high: times(beats, "6..3..5..3.."),
  rare: 0,
});

/** The styles of bars of so many beats: of its own, of several bars of four, or a plain one. */
export function beatPatterns(beatsPerBar: number): Pattern[] {
  const own = PATTERNS[beatsPerBar];
  if (own) return Object.values(own);
  if (beatsPerBar % 4 !== 0) return [plainBar(beatsPerBar)];
  const bars = beatsPerBar / 4;
  return Object.values(PATTERNS[4]).map(({ low, middle, high, rare }) => ({
    low: times(bars, ...low),
    middle: times(bars, ...middle),
    high: times(bars, ...high),
    rare,
  }));
}
