import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { noteHz } from "@bumbrel/core/dsp/tone/note";
import { makeNoise } from "@bumbrel/core/dsp/tone/tone";
import { bass, kick, pad, pluck, shaker, snare } from "../music/voices";

/** A piece whose sections are known. */
export interface SectionPiece {
  /** Mono at 48 kHz. */
  samples: Float32Array;
  /** Beginning of each section, the first at its first beat; neighbours have different letters. */
  sections: { startS: number; letter: string }[];
  bpm: number;
}

const FORMS = ["ABAB", "ABCA", "ABACAB", "ABCBA", "ABCD", "ABA"];
const INSTRUMENTS = ["kick", "snare", "shaker", "bass", "pluck", "pad"] as const;
type Instrument = (typeof INSTRUMENTS)[number];

/** How sections of one letter are played. */
interface Arrangement {
  plays: ReadonlySet<Instrument>;
  /** Roots of the chords of four bars. */
  roots: number[];
  isMinor: boolean;
  loudness: number;
}

const ROOTS = [36, 38, 41, 43, 45, 40];

function arrange(random: () => number, others: readonly Arrangement[]): Arrangement {
  for (;;) {
    const plays = new Set(INSTRUMENTS.filter(() => random() < 0.6));
    const isOther = others.every((one) => {
      const changed = INSTRUMENTS.filter((instrument) => plays.has(instrument) !== one.plays.has(instrument));
      return changed.length >= 2;
    });
    if (plays.size < 2 || !isOther || !(plays.has("bass") || plays.has("pluck") || plays.has("pad")))
      continue;
    return {
      plays,
      roots: Array.from({ length: 4 }, () => ROOTS[Math.floor(random() * ROOTS.length)]),
      isMinor: random() < 0.5,
      loudness: 0.6 + 0.4 * random(),
    };
  }
}

/** Synthesises a piece of sections of four or eight bars; those of one letter are played alike. */
export function makeSectionPiece(seed: number): SectionPiece {
  const random = seededRandom(seed);
  const bpm = 84 + 60 * random();
  const beatS = 60 / bpm;
  const form = FORMS[Math.floor(random() * FORMS.length)];
  const arrangements = new Map<string, Arrangement>();
  for (const letter of form)
    if (!arrangements.has(letter)) arrangements.set(letter, arrange(random, [...arrangements.values()]));
  const bars = [...form].map(() => (random() < 0.6 ? 8 : 4));
  const total = bars.reduce((sum, count) => sum + count, 0);
  const samples = makeNoise("pink", Math.round((total * 4 * beatS + 1) * SAMPLE_RATE_HZ), seed, 0.004);
  const sections: SectionPiece["sections"] = [];
  let bar = 0;
  [...form].forEach((letter, i) => {
    sections.push({ startS: 0.1 + bar * 4 * beatS, letter });
    const { plays, roots, isMinor, loudness } = arrangements.get(letter)!;
    for (const end = bar + bars[i]; bar < end; bar++) {
      const root = roots[bar % 4];
      const chord = [root + 24, root + (isMinor ? 27 : 28), root + 31];
      const at = (beat: number) => ({
        samples,
        start: Math.round((0.1 + (bar * 4 + beat) * beatS + 0.002 * random()) * SAMPLE_RATE_HZ),
      });
      const velocity = () => loudness * (0.85 + 0.15 * random());
      for (let step = 0; step < 8; step++) {
        const beat = step / 2;
        if (plays.has("kick") && (beat === 0 || beat === 2 || random() < 0.08))
          kick(at(beat), 0.6 * velocity());
        if (plays.has("snare") && (beat === 1 || beat === 3)) snare(at(beat), 0.45 * velocity(), random);
        if (plays.has("shaker")) shaker(at(beat), 0.3 * velocity(), random);
        if (plays.has("bass") && step % 3 === 0) bass(at(beat), noteHz(root + 12), beatS, 0.4 * velocity());
        if (plays.has("pluck") && random() < 0.8)
          pluck(at(beat), noteHz(chord[step % 3] + (step % 4 === 3 ? 12 : 0)), 0.35 * velocity(), random);
      }
      if (plays.has("pad")) pad(at(0), chord.map(noteHz), 4 * beatS + 0.2, 0.3 * velocity());
    }
  });
  for (let i = 0; i < samples.length; i++) samples[i] = Math.tanh(0.8 * samples[i]);
  return { samples, sections, bpm };
}

/** How sections that were found meet those of a piece. */
export function scoreSections(
  { samples, sections }: SectionPiece,
  found: readonly { startS: number; letter: string }[],
) {
  const meant = sections.slice(1).map(({ startS }) => startS);
  const had = found.slice(1).map(({ startS }) => startS);
  const f = (nearS: number) => {
    const met = (from: readonly number[], to: readonly number[]) =>
      from.filter((a) => to.some((b) => Math.abs(a - b) <= nearS)).length;
    return (met(meant, had) + met(had, meant)) / (meant.length + had.length);
  };
  const lengthS = samples.length / SAMPLE_RATE_HZ;
  const letterAt = (all: readonly { startS: number; letter: string }[], timeS: number) =>
    all.findLast(({ startS }) => startS <= timeS)?.letter ?? all[0]?.letter;
  const instants = Array.from({ length: Math.floor(lengthS) }, (_none, i) => i + 0.5);
  let [both, inMeant, inFound] = [0, 0, 0];
  for (const a of instants)
    for (const b of instants) {
      if (a >= b) continue;
      const isMeant = letterAt(sections, a) === letterAt(sections, b);
      const isFound = letterAt(found, a) === letterAt(found, b);
      inMeant += Number(isMeant);
      inFound += Number(isFound);
      both += Number(isMeant && isFound);
    }
  return {
    /** F-measures of boundaries within 3 s and within half a second. */
    f: f(3),
    f05: f(0.5),
    /** F-measure of pairs of instants that share a letter. */
    letters: (2 * both) / (inMeant + inFound),
  };
}
