import { DEFAULT_FFT_SIZE, FRAME_RATE_HZ, HOP_SAMPLES } from "../constants";
import type { Sliced } from "../dsp/maths/slices";
import { type FeatureRows, noveltyOf, similarity } from "../dsp/rhythm/selfSimilarity";
import { PITCH_CLASS_RANGE, PITCH_CLASSES } from "../dsp/spectrum/fanBands";
import { DEFAULT_WINDOW } from "../dsp/spectrum/window";
import { brightnessHz } from "../dsp/tone/brightness";
import { TICK_STRENGTHS } from "../sound/beats";
import { WholeCursor } from "./hearing/cursor";
import { framesOf, type Signal } from "./hearing/signal";
import { DirectSpectra } from "./hearing/spectra";
import { soundBeatsSliced } from "./measures/heardBeats";
import { MEASURES, startMeasure } from "./measures/table";

/** A section of a sound. */
export interface Section {
  startS: number;
  /** Sections that sound alike have the same letter; the first section has A. */
  letter: string;
}

/** Frames from one look at the sound to the next: a tenth of a second. */
const STEP_FRAMES = 10;
/** Length of a block where no beats are heard. */
const BLOCK_S = 0.5;
/** Features are means over so many blocks: what changes within a bar is no new section. */
const SMOOTHED_BLOCKS = 4;
/** Blocks that are compared on either side of each. */
const REACH_BLOCKS = 24;
/** A new section is at least this novel. */
const LEAST_NOVELTY = 0.12;
/** Sections are no shorter than this. */
const LEAST_S = 5;
/** Distances that count as one: 4 dB, a third of an octave of brightness, half of the length of all pitch classes. */
const DB_APART = 4;
const OCTAVES_APART = 0.35;
const CLASSES_APART = 0.5;
/** Sections share a letter that are at least so much alike. */
const LEAST_ALIKE = 0.5;
/** Levels below this share of the loudest count as it. */
const FLOOR_DB = -50;
/** Blocks on either side by which a boundary is placed. */
const SHARP_BLOCKS = 16;
/** How much the bars that are heard count beside the boundaries themselves. */
const HEARD_BARS = 0.12;
/** Beats less certain than this are not taken for beats. */
const LEAST_CERTAINTY = 0.2;
const WIDTH = 2 + PITCH_CLASSES.length;

/** Features of each tenth of a second: power, brightness in octaves, and the levels of pitch classes. */
function* featuresSliced(signal: Signal, onProgress: (share: number) => void): Sliced<FeatureRows> {
  const frames = framesOf(signal);
  const steps = Math.max(1, Math.floor(frames / STEP_FRAMES));
  const values = new Float32Array(steps * WIDTH);
  const cursor = new WholeCursor(signal, new DirectSpectra());
  const fan = { ...MEASURES.fan.defaults, layout: "pitchClasses", ...PITCH_CLASS_RANGE } as const;
  const classes = startMeasure(fan, signal);
  for (let step = 0; step < steps; step++) {
    cursor.moveTo(step * STEP_FRAMES + STEP_FRAMES / 2);
    const { samples, centre } = cursor;
    const reach = (STEP_FRAMES * HOP_SAMPLES) / 2;
    let energy = 0;
    for (let i = centre - reach; i < centre + reach; i++) energy += (samples[i] || 0) ** 2;
    cursor.loadSpectrum(DEFAULT_FFT_SIZE, DEFAULT_WINDOW);
    const hz = brightnessHz(cursor.powers, cursor.offset, DEFAULT_FFT_SIZE, "magnitude", 1e-10);
    const at = step * WIDTH;
    values[at] = energy / (2 * reach);
    values[at + 1] = Math.log2(Math.max(50, hz));
    classes.read(cursor, values, at + 2);
    yield;
    onProgress(step / steps);
  }
  return { width: WIDTH, values };
}

/** Blocks of a sound: its beats where they are heard. */
interface Blocks {
  /** Beginning of each section, and last the end. */
  edgesS: number[];
  /** Blocks in a bar; 0 where no beats are heard. */
  perBar: number;
  /** The block, counted within a bar, that bars are heard to begin with. */
  one: number;
}

function* blocksSliced(signal: Signal, beatsPerBar: number): Sliced<Blocks> {
  const lengthS = framesOf(signal) / FRAME_RATE_HZ;
  const beats = yield* soundBeatsSliced(signal, { beatsPerBar, tempo: "heard", oneAtS: 0 });
  const ticks = beats?.ticks(0, lengthS) ?? [];
  const certainty = ticks.reduce((sum, { timeS }) => sum + beats!.certaintyAt(beats!.beatAt(timeS)), 0);
  if (ticks.length < 2 * REACH_BLOCKS || certainty < LEAST_CERTAINTY * ticks.length) {
    const count = Math.max(1, Math.floor(lengthS / BLOCK_S));
    return { edgesS: Array.from({ length: count + 1 }, (_none, i) => i * BLOCK_S), perBar: 0, one: 0 };
  }
  const one = ticks.findIndex(({ strength }) => strength === TICK_STRENGTHS.bar);
  return { edgesS: [...ticks.map(({ timeS }) => timeS), lengthS], perBar: beatsPerBar, one };
}

/** Features of blocks in units of what lies apart. */
function blockFeatures(steps: FeatureRows, edgesS: readonly number[]): FeatureRows {
  const count = edgesS.length - 1;
  const values = new Float32Array(count * WIDTH);
  const stepS = STEP_FRAMES / FRAME_RATE_HZ;
  const stepCount = steps.values.length / WIDTH;
  let [loudest, brightness] = [0, 0];
  for (let block = 0; block < count; block++) {
    const from = Math.min(stepCount - 1, Math.floor(edgesS[block] / stepS));
    const to = Math.min(stepCount, Math.max(from + 1, Math.floor(edgesS[block + 1] / stepS)));
    const at = block * WIDTH;
    let weight = 0;
    for (let step = from; step < to; step++) {
      const row = steps.values.subarray(step * WIDTH, (step + 1) * WIDTH);
      const level = Math.sqrt(row[0]);
      weight += level;
      values[at] += row[0] / (to - from);
      values[at + 1] += level * row[1];
      for (let i = 2; i < WIDTH; i++) values[at + i] += row[i];
    }
    if (weight > 0) brightness = values[at + 1] / weight;
    values[at + 1] = brightness / OCTAVES_APART;
    const length = Math.hypot(...values.subarray(at + 2, at + WIDTH));
    for (let i = 2; i < WIDTH; i++) values[at + i] *= length > 0 ? 1 / (length * CLASSES_APART) : 0;
    loudest = Math.max(loudest, values[at]);
  }
  for (let at = 0; at < values.length; at += WIDTH) {
    const db = 10 * Math.log10(values[at] / loudest || 0);
    values[at] = Math.max(FLOOR_DB, db) / DB_APART;
  }
  return { width: WIDTH, values };
}

/** Each row as the mean of those around it. */
function smoothed({ width, values }: FeatureRows, blocks: number): FeatureRows {
  const count = values.length / width;
  const out = new Float32Array(values.length);
  for (let block = 0; block < count; block++) {
    // Evenly about the beginning of the block: that is where a section begins.
    const from = Math.max(0, block - blocks / 2);
    const to = Math.min(count, block + blocks / 2);
    for (let other = from; other < to; other++)
      for (let i = 0; i < width; i++) out[block * width + i] += values[other * width + i] / (to - from);
  }
  return { width, values: out };
}

/** Blocks at which sections begin, after the first. */
function boundariesOf(novelty: Float32Array, edgesS: readonly number[]): number[] {
  const found: number[] = [];
  for (let block = 1; block < novelty.length; block++) {
    if (novelty[block] < LEAST_NOVELTY) continue;
    const isMost = novelty.every(
      (one, other) =>
        Math.abs(edgesS[other] - edgesS[block]) > LEAST_S || one < novelty[block] || other === block,
    );
    const lengthS = edgesS[edgesS.length - 1];
    if (isMost && edgesS[block] - edgesS[0] >= LEAST_S / 2 && lengthS - edgesS[block] >= LEAST_S / 2)
      found.push(block);
  }
  return found;
}

/**
 * Moves boundaries to beginnings of bars. Sections begin with bars: where they change most decides together with the bars
 * that are heard which beat of a bar is its first.
 */
function onBars(boundaries: readonly number[], rows: FeatureRows, { perBar, one }: Blocks): number[] {
  const sharp = noveltyOf(rows, SHARP_BLOCKS);
  const reach = SMOOTHED_BLOCKS / 2;
  const best = boundaries.map((block) => {
    let most = block;
    for (let other = block - reach; other <= block + reach; other++)
      if (sharp[other] > sharp[most]) most = other;
    return most;
  });
  if (perBar === 0 || best.length === 0) return best;
  const votes = new Float64Array(perBar);
  for (const block of best) votes[block % perBar] += sharp[block];
  votes[one % perBar] += HEARD_BARS * votes.reduce((sum, vote) => sum + vote, 0);
  const first = votes.indexOf(Math.max(...votes));
  return boundaries.map((block) => {
    const before = first + perBar * Math.floor((block - first) / perBar);
    return sharp[before] > (sharp[before + perBar] ?? 0) ? before : before + perBar;
  });
}

/** Mean likeness of the blocks of two stretches. */
function likeness(
  rows: FeatureRows,
  [fromA, toA]: readonly number[],
  [fromB, toB]: readonly number[],
): number {
  let sum = 0;
  for (let a = fromA; a < toA; a++) for (let b = fromB; b < toB; b++) sum += similarity(rows, a, b);
  return sum / ((toA - fromA) * (toB - fromB));
}

/** A letter for each stretch: that of an earlier one which it is most like, or a new one. */
function lettersOf(rows: FeatureRows, stretches: readonly (readonly [number, number])[]): string[] {
  const letters: string[] = [];
  const own = stretches.map((stretch) => likeness(rows, stretch, stretch));
  stretches.forEach((stretch, i) => {
    let [best, letter] = [LEAST_ALIKE, ""];
    for (let other = 0; other < i; other++) {
      const alike = likeness(rows, stretch, stretches[other]) / Math.sqrt(own[i] * own[other]);
      if (alike >= best) [best, letter] = [alike, letters[other]];
    }
    letters.push(letter || String.fromCharCode(65 + Math.min(25, new Set(letters).size)));
  });
  return letters;
}

/**
 * Finds the sections of a whole sound: boundaries at peaks of self-similarity novelty (Foote 2000) over loudness, brightness
 * and pitch classes, at the beginnings of bars where beats are heard.
 *
 * @param beatsPerBar  how beats are counted
 * @param onProgress  called with 0..1
 * @returns sections in order of time, the first from 0; none for a sound of less than ten seconds
 */
export function* findSectionsSliced(
  signal: Signal,
  beatsPerBar = 4,
  onProgress: (share: number) => void = () => {},
): Sliced<Section[]> {
  if (framesOf(signal) < 2 * LEAST_S * FRAME_RATE_HZ) return [];
  const steps = yield* featuresSliced(signal, (share) => onProgress(0.6 * share));
  const blocks = yield* blocksSliced(signal, beatsPerBar);
  onProgress(0.9);
  const { edgesS } = blocks;
  const sharp = blockFeatures(steps, edgesS);
  const rows = smoothed(sharp, SMOOTHED_BLOCKS);
  yield;
  const rough = boundariesOf(noveltyOf(rows, REACH_BLOCKS), edgesS);
  yield;
  const starts = [0, ...onBars(rough, sharp, blocks)];
  const ends = [...starts.slice(1), edgesS.length - 1];
  const letters = lettersOf(
    rows,
    starts.map((start, i) => [start, ends[i]] as const),
  );
  onProgress(1);
  return starts.flatMap((start, i) =>
    i > 0 && letters[i] === letters[i - 1]
      ? []
      : [{ startS: start === 0 ? 0 : edgesS[start], letter: letters[i] }],
  );
}
