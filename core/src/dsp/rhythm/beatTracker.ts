import { FRAME_RATE_HZ } from "../../constants";
import { type BandOnset, BEAT_BANDS } from "./beatOnsets";
import { beatPatterns, LIKELIHOODS, PLACES_A_BEAT } from "./beatPatterns";

/** Beats begin on every other frame while they are looked for, and are placed between frames afterwards. */
const STEP_FRAMES = 2;
/** Lengths of beats in steps: 40 to 214 beats a minute. */
const SHORTEST = 14;
const LONGEST = 75;
const LENGTHS = LONGEST - SHORTEST + 1;
export const LONGEST_FRAMES = LONGEST * STEP_FRAMES;
/** The tempo people lean to, beats a minute, and how strongly, in octaves; counted once a beat. */
const LIKELY_BPM = 112;
const SPREAD_OCTAVES = 0.9;
/** The price of being one step longer or shorter than the beat before, and of each further step by its share of a length. */
const UNEVEN = 0.3;
const STEADINESS = 60;
/** The price of going on in another style. */
const STYLE_CHANGE = 6;
/** The low end tells beats from off-beats better than chords and hats do. */
const LOW_WEIGHT = 1.3;
/** How many times likelier a strong onset is where something begins than anywhere else. */
const TELLING = 40;
/** The share of beginnings that are not heard as an onset. */
const MISSED = 0.05;
/** An onset counts for places this far from it, by a bell, in frames. */
export const NEAR_FRAMES = 4;
const BELL_FRAMES = 2;
/** Frames of evidence in memory, some more than the longest beat has. */
const EVIDENCE_FRAMES = 4096;
/**
 * Ways are kept as half a byte each: so many steps longer than the beat before, plus {@link SAME}, or one of these. Beats do
 * not change by more at once.
 */
const SAME = 6;
const MOST_CHANGE = 6;
const OTHER_STYLE = 14;
const BEGINS = 15;

/**
 * Evidence of an onset at a place of a pattern: the logarithm of how much likelier it is if the pattern is right than anywhere
 * else.
 *
 * @param digit  how likely the pattern has something begin there
 * @param strength  0 when there was no onset
 */
function evidenceOf(digit: number, strength: number): number {
  const likely = LIKELIHOODS[digit];
  return Math.log(1 - likely + likely * Math.max(MISSED, TELLING * strength));
}

/** One beat of one or more styles: at which places to look, and for what. */
interface BeatTemplate {
  places: number[];
  /** Columns of evidence, one a place. */
  columns: number[];
}

/** The styles of a metre, with beats that go alike listed once. */
class StyleTable {
  /** Digits of the three bands, one entry for every column of evidence. */
  readonly columns: number[][] = [];
  readonly templates: BeatTemplate[] = [];
  /** Template of each beat of each style. */
  readonly styles: number[][] = [];
  readonly rare: number[] = [];

  constructor(beatsPerBar: number) {
    const columnsByDigits = new Map<string, number>();
    const templatesByRows = new Map<string, number>();
    for (const pattern of beatPatterns(beatsPerBar)) {
      this.rare.push(pattern.rare);
      this.styles.push(
        Array.from({ length: beatsPerBar }, (_none, beat) => {
          const rows = BEAT_BANDS.map((band) => pattern[band][beat]);
          return entry(templatesByRows, rows.join(" "), this.templates, () => {
            const template: BeatTemplate = { places: [], columns: [] };
            for (let place = 0; place < PLACES_A_BEAT; place++) {
              const digits = rows.map((row) => (row[place] === "." ? 0 : Number(row[place])));
              if (digits.every((digit) => digit === 0)) continue;
              template.places.push(place);
              template.columns.push(entry(columnsByDigits, digits.join(""), this.columns, () => digits));
            }
            return template;
          });
        }),
      );
    }
  }
}

/** Index of an entry of a list, made and added where it is not there yet. */
function entry<T>(known: Map<string, number>, key: string, list: T[], make: () => T): number {
  let at = known.get(key);
  if (at === undefined) {
    at = list.length;
    known.set(key, at);
    list.push(make());
  }
  return at;
}

/** Evidence of the onsets at each frame, a column for each combination of digits of the three bands. */
class Evidence {
  readonly columns: Float32Array[];
  /** The frame that the columns begin with, and the first one that is not worked out. */
  first = 0;
  private next = 0;
  private readonly digits: readonly number[][];
  /** The strongest onset near each frame of each band, from the beginning. */
  private near = BEAT_BANDS.map(() => new Float32Array(EVIDENCE_FRAMES));
  private readonly said = BEAT_BANDS.map(() => new Float64Array(LIKELIHOODS.length));

  constructor(digits: readonly number[][]) {
    this.digits = digits;
    this.columns = digits.map(() => new Float32Array(EVIDENCE_FRAMES));
  }

  take({ band, at, strength }: BandOnset): void {
    const last = Math.floor(at + NEAR_FRAMES);
    this.makeRoom(last);
    const near = this.near[band];
    for (let frame = Math.max(this.next, Math.ceil(at - NEAR_FRAMES)); frame <= last; frame++) {
      near[frame] = Math.max(near[frame], strength * Math.exp(-0.5 * ((frame - at) / BELL_FRAMES) ** 2));
    }
  }

  /** Works out all frames before one; every onset near them has been taken. */
  fill(before: number): void {
    const { columns, digits, said } = this;
    this.makeRoom(before);
    if (before - this.first >= EVIDENCE_FRAMES) {
      const drop = EVIDENCE_FRAMES / 2;
      for (const column of columns) column.copyWithin(0, drop);
      this.first += drop;
    }
    for (; this.next < before; this.next++) {
      for (let band = 0; band < said.length; band++) {
        const strength = this.near[band][this.next];
        for (let digit = 0; digit < LIKELIHOODS.length; digit++)
          said[band][digit] = evidenceOf(digit, strength);
      }
      for (let c = 0; c < columns.length; c++) {
        const [low, middle, high] = digits[c];
        columns[c][this.next - this.first] = LOW_WEIGHT * said[0][low] + said[1][middle] + said[2][high];
      }
    }
  }

  /** Evidence of one combination at one frame, however long ago, with all bands counting alike. */
  at(column: number, frame: number): number {
    return this.digits[column].reduce(
      (sum, digit, band) => sum + evidenceOf(digit, this.near[band][frame] ?? 0),
      0,
    );
  }

  private makeRoom(frame: number): void {
    if (frame < this.near[0].length) return;
    this.near = this.near.map((old) => {
      const longer = new Float32Array(2 * Math.max(old.length, frame));
      longer.set(old);
      return longer;
    });
  }
}

/** A beat as it is found. */
export interface TrackedBeat {
  /** Frame at which it begins. */
  at: number;
  /** In frames. */
  length: number;
  /** 0 for the first of a bar. */
  inBar: number;
  /** Evidence of its onsets: the logarithm of how much likelier they are if it is a beat than otherwise. */
  evidence: number;
  template: number;
}

/**
 * Beats by a bar-pointer model: at each instant a bar is at a beat of some length in some style, and goes on to its next beat
 * with nearly the same length; styles say where in a bar something is likely to begin in the low, the middle and the high
 * end (Whiteley, Cemgil & Godsill 2006; Krebs, Böck & Widmer 2015, whose lengths change between beats only). The likeliest
 * way through is found by the Viterbi algorithm, over beats instead of frames, which is the same.
 */
export class BeatTracker {
  private readonly beatsPerBar: number;
  private readonly table: StyleTable;
  private readonly evidence: Evidence;
  /** Likelihood of the best way to a beat that ends at a step, by the beat that follows and its length: a row a step. */
  private readonly ended: Float32Array[];
  /** Evidence for a beat of each length, by its template. */
  private readonly heard: Float32Array[];
  /** Frames to each place of each template, by the length of the beat. */
  private readonly offsets: Int32Array[][];
  /** Predecessors of each step, two in a byte, and the change of style there. */
  private readonly ways: Uint8Array[] = [];
  private readonly changes: { style: number; length: number }[] = [];
  private readonly keptSteps: number;
  private readonly best = new Float32Array(LENGTHS);
  private readonly via = new Uint8Array(LENGTHS);
  /** The row of {@link ended} that each length leads to. */
  private readonly rows: Float32Array[] = [];
  private steps = 0;

  /** @param keptFrames  how long ways are kept: live, not from the beginning */
  constructor(beatsPerBar: number, keptFrames = Number.POSITIVE_INFINITY) {
    this.beatsPerBar = beatsPerBar;
    this.keptSteps = keptFrames / STEP_FRAMES;
    this.table = new StyleTable(beatsPerBar);
    const { styles, templates, columns } = this.table;
    this.evidence = new Evidence(columns);
    const width = styles.length * beatsPerBar * LENGTHS;
    this.ended = Array.from({ length: LONGEST + 1 }, () =>
      new Float32Array(width).fill(Number.NEGATIVE_INFINITY),
    );
    this.heard = templates.map(() => new Float32Array(LENGTHS));
    this.offsets = templates.map(({ places }) =>
      places.map((place) => Int32Array.from(LENGTHS_STEPS, (length) => placeFrame(length, place))),
    );
  }

  take(onset: BandOnset): void {
    this.evidence.take(onset);
  }

  /** The frame that the next step is at. Onsets of a longest beat more must have been taken before it is done. */
  get frame(): number {
    return this.steps * STEP_FRAMES;
  }

  /** How likely something begins at a place of a template in a band. */
  expected(template: number, place: number, band: number): number {
    const { places, columns } = this.table.templates[template];
    const at = places.indexOf(place);
    return at < 0 ? 0 : LIKELIHOODS[this.table.columns[columns[at]][band]];
  }

  step(): void {
    const { beatsPerBar, ended, heard, best, via, rows, evidence } = this;
    const { styles, rare } = this.table;
    const t = this.steps++;
    const now = ended[t % ended.length];
    evidence.fill(t * STEP_FRAMES + LONGEST_FRAMES + 1);
    this.hear(t * STEP_FRAMES - evidence.first);
    for (let i = 0; i < LENGTHS; i++) rows[i] = ended[(t + SHORTEST + i) % ended.length];
    const kept = t % this.keptSteps;
    this.ways[kept] ??= new Uint8Array(now.length / 2);
    const ways = this.ways[kept];
    let bestAt = 0;
    for (let style = 0; style < styles.length; style++) {
      const from = style * beatsPerBar * LENGTHS;
      for (let at = from; at < from + LENGTHS; at++) if (now[at] > now[bestAt]) bestAt = at;
    }
    const changed = now[bestAt] - STYLE_CHANGE;
    const bestLength = bestAt % LENGTHS;
    this.changes[kept] = { style: Math.floor(bestAt / LENGTHS / beatsPerBar), length: bestLength };
    for (let style = 0; style < styles.length; style++) {
      for (let beat = 0; beat < beatsPerBar; beat++) {
        const from = (style * beatsPerBar + beat) * LENGTHS;
        cheapest(now, from, t < LONGEST, best, via);
        if (beat === 0) {
          // A bar may go on in another style.
          for (let i = Math.max(0, bestLength - 1); i <= Math.min(LENGTHS - 1, bestLength + 1); i++) {
            if (changed <= best[i]) continue;
            best[i] = changed;
            via[i] = OTHER_STYLE;
          }
        }
        for (let i = 0; i < LENGTHS; i += 2) ways[(from + i) >> 1] = via[i] | (via[i + 1] << 4);
        const sums = heard[styles[style][beat]];
        const next = (style * beatsPerBar + ((beat + 1) % beatsPerBar)) * LENGTHS;
        for (let i = 0; i < LENGTHS; i++) rows[i][next + i] = best[i] + sums[i] - rare[style];
      }
    }
  }

  /**
   * The likeliest beats, in order, as far as ways are kept.
   *
   * @param since  a frame; those that begin before it are left out
   */
  beats(since = 0): TrackedBeat[] {
    const { beatsPerBar, ended, table, evidence, steps } = this;
    const oldest = Math.max(0, steps - this.keptSteps, Math.ceil(since / STEP_FRAMES));
    let [end, state, length, most] = [0, 0, 0, Number.NEGATIVE_INFINITY];
    for (let t = steps; t < steps + LONGEST; t++) {
      const now = ended[t % ended.length];
      for (let at = 0; at < now.length; at++) {
        const start = t - SHORTEST - (at % LENGTHS);
        if (start >= steps || start < 0 || now[at] <= most) continue;
        most = now[at];
        [end, state, length] = [t, Math.floor(at / LENGTHS), at % LENGTHS];
      }
    }
    const out: TrackedBeat[] = [];
    let style = Math.floor(state / beatsPerBar);
    let beat = state % beatsPerBar;
    for (let t = end; ; ) {
      t -= SHORTEST + length;
      if (t < oldest) break;
      beat = (beat + beatsPerBar - 1) % beatsPerBar;
      const template = table.styles[style][beat];
      const { places, columns } = table.templates[template];
      let said = 0;
      for (let p = 0; p < places.length; p++) {
        said += evidence.at(columns[p], t * STEP_FRAMES + placeFrame(SHORTEST + length, places[p]));
      }
      const frames = (SHORTEST + length) * STEP_FRAMES;
      out.push({ at: t * STEP_FRAMES, length: frames, inBar: beat, evidence: said, template });
      const kept = t % this.keptSteps;
      const at = (style * beatsPerBar + beat) * LENGTHS + length;
      const way = (this.ways[kept][at >> 1] >> (4 * (at & 1))) & 15;
      if (way === BEGINS) break;
      if (way === OTHER_STYLE) ({ style, length } = this.changes[kept]);
      else length -= way - SAME;
    }
    return out.reverse();
  }

  /** Adds up the evidence for beats of all lengths that begin at an index of it. */
  private hear(at: number): void {
    const { heard, offsets, evidence, table } = this;
    for (let u = 0; u < heard.length; u++) {
      const { columns } = table.templates[u];
      heard[u].set(LEANS);
      for (let c = 0; c < columns.length; c++)
        addAt(heard[u], evidence.columns[columns[c]], at, offsets[u][c]);
    }
  }
}

const LENGTHS_STEPS = Array.from({ length: LENGTHS }, (_none, i) => SHORTEST + i);
const LEANS = Float32Array.from(LENGTHS_STEPS, (length) => {
  const octaves = Math.log2((60 * FRAME_RATE_HZ) / (length * STEP_FRAMES) / LIKELY_BPM);
  return -0.5 * (octaves / SPREAD_OCTAVES) ** 2;
});
/** Cost of each further step of a change. */
const STEPS = Float32Array.from(LENGTHS_STEPS, (length) => STEADINESS / length);

/** Frames from the start of a beat of so many steps to a place in it. */
const placeFrame = (length: number, place: number) =>
  Math.round((length * STEP_FRAMES * place) / PLACES_A_BEAT);

function addAt(sums: Float32Array, column: Float32Array, from: number, offset: Int32Array): void {
  for (let i = 0; i < sums.length; i++) sums[i] += column[from + offset[i]];
}

/** The cheapest way to a beat of each length. */
function cheapest(
  now: Float32Array,
  from: number,
  mayBegin: boolean,
  best: Float32Array,
  via: Uint8Array,
): void {
  for (let i = 0; i < LENGTHS; i++) {
    let most = now[from + i];
    let way = SAME;
    if (i > 0 && now[from + i - 1] - UNEVEN > most) {
      most = now[from + i - 1] - UNEVEN;
      way = SAME + 1;
    }
    if (i < LENGTHS - 1 && now[from + i + 1] - UNEVEN > most) {
      most = now[from + i + 1] - UNEVEN;
      way = SAME - 1;
    }
    if (mayBegin && most < 0) {
      most = 0;
      way = BEGINS;
    }
    best[i] = most;
    via[i] = way;
  }
  for (let i = 1; i < LENGTHS; i++) {
    const value = best[i - 1] - STEPS[i];
    if (value <= best[i] || via[i - 1] >= SAME + MOST_CHANGE) continue;
    best[i] = value;
    via[i] = via[i - 1] + 1;
  }
  for (let i = LENGTHS - 2; i >= 0; i--) {
    const value = best[i + 1] - STEPS[i];
    if (value <= best[i] || via[i + 1] <= SAME - MOST_CHANGE || via[i + 1] === BEGINS) continue;
    best[i] = value;
    via[i] = via[i + 1] - 1;
  }
}
