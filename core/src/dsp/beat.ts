import { FRAME_RATE_HZ } from "../constants";
import { finish, type Sliced } from "./slices";

/** Lags and comb filters in a slice: some milliseconds for a song. */
const LAGS_A_SLICE = 32;
const COMBS_A_SLICE = 4;
/** Number of tempos. */
const SLOWEST_BPM = 50;
const FASTEST_BPM = 200;
/** The tempo people lean to when two fit, and how strongly: octaves. */
const LIKELY_BPM = 115;
const SPREAD_OCTAVES = 1.1;
const LOW_SHARE = 0.5;
/** How dearly beats pay for leaving the tempo (Ellis 2007). */
const TIGHTNESS = 400;

/** Beats found in a sound. */
export interface FoundBeats {
  /** 0 when there are none. */
  bpm: number;
  /** Seconds, rising. */
  timesS: number[];
}

/** Onset strength with its slow part taken away, and of even size. */
function evened(onsets: Float32Array): Float64Array {
  const out = new Float64Array(onsets.length);
  const reach = FRAME_RATE_HZ / 2;
  let sum = 0;
  for (let i = -reach; i < onsets.length; i++) {
    if (i + reach < onsets.length) sum += onsets[i + reach];
    if (i - reach - 1 >= 0) sum -= onsets[i - reach - 1];
    if (i < 0) continue;
    const count = Math.min(onsets.length, i + reach + 1) - Math.max(0, i - reach);
    out[i] = Math.max(0, onsets[i] - sum / count);
  }
  let square = 0;
  for (const value of out) square += value * value;
  const size = Math.sqrt(square / Math.max(1, out.length));
  if (size > 0) for (let i = 0; i < out.length; i++) out[i] /= size;
  return out;
}

/** A bell three frames wide over each onset, so that a beat a frame off still meets it. */
function softened(onsets: Float64Array): Float64Array {
  const out = new Float64Array(onsets.length);
  const bell = [0.01, 0.14, 0.61, 1, 0.61, 0.14, 0.01];
  for (let i = 0; i < out.length; i++) {
    let sum = 0;
    for (let k = -3; k <= 3; k++) sum += bell[k + 3] * (onsets[i + k] ?? 0);
    out[i] = sum;
  }
  return out;
}

/** What beats are looked for in: everything that begins, and the low end once more, so that a kick weighs what a snare does. */
function strengthOf(onsets: Float32Array, lowOnsets: Float32Array): Float64Array {
  const low = evened(lowOnsets);
  return softened(evened(onsets).map((value, i) => value + LOW_SHARE * low[i]));
}

/**
 * Tempo by autocorrelation of onset strength, weighted towards tempos people lean to (Ellis 2007), and refined over
 * as many beats as the sound has: beats a minute, 50 to 200; 0 when nothing repeats.
 */
function* tempoOf(strength: Float64Array): Sliced<number> {
  const longest = Math.min(Math.ceil((60 * FRAME_RATE_HZ) / SLOWEST_BPM) * 4, strength.length - 1);
  const similarity = new Float64Array(longest + 1);
  for (let lag = 0; lag <= longest; lag++) {
    let sum = 0;
    for (let i = lag; i < strength.length; i++) sum += strength[i] * strength[i - lag];
    similarity[lag] = sum / (strength.length - lag);
    if (lag % LAGS_A_SLICE === 0) yield;
  }
  let floor = 0;
  for (const value of similarity) floor += value / similarity.length;
  const at = (lag: number) => {
    const below = Math.floor(lag);
    if (below >= longest) return 0;
    const value = similarity[below] + (lag - below) * (similarity[below + 1] - similarity[below]);
    return Math.max(0, value - floor);
  };
  let best = 0;
  let bestScore = 0;
  for (let bpm = SLOWEST_BPM; bpm <= FASTEST_BPM; bpm += 0.25) {
    const lag = (60 * FRAME_RATE_HZ) / bpm;
    // A beat repeats over two and four of its kind as well.
    const repeats = at(lag) + 0.5 * at(2 * lag) + 0.25 * at(4 * lag);
    const lean = Math.log2(bpm / LIKELY_BPM) / SPREAD_OCTAVES;
    const score = repeats * Math.exp(-0.5 * lean * lean);
    if (score > bestScore) {
      bestScore = score;
      best = bpm;
    }
  }
  return best === 0 ? 0 : yield* atBeatLevel(strength, best);
}

/** Every other beat weaker than this against its neighbours is none, by squares. */
const WEAK = 0.43;

/**
 * What repeats may be every other beat, or half of one: the fastest of these tempos at which beats do not take turns in
 * being strong.
 */
function* atBeatLevel(strength: Float64Array, bpm: number): Sliced<number> {
  for (const times of [4, 2, 1]) {
    if (bpm * times > FASTEST_BPM) continue;
    const candidate = yield* refined(strength, bpm * times);
    yield;
    if (evenness(strength, candidate) >= WEAK) return candidate;
  }
  return yield* refined(strength, bpm / 2 >= SLOWEST_BPM ? bpm / 2 : bpm);
}

/** How strong the weaker of every other beat are against the stronger, at the phase that meets the most strength. */
function evenness(strength: Float64Array, bpm: number): number {
  const period = (60 * FRAME_RATE_HZ) / bpm;
  const meanFrom = (start: number, step: number) => {
    let [sum, count] = [0, 0];
    for (let at = start; at < strength.length; at += step) {
      const frame = Math.round(at);
      const most = Math.max(strength[frame - 1] ?? 0, strength[frame] ?? 0, strength[frame + 1] ?? 0);
      sum += most * most;
      count++;
    }
    return count > 0 ? sum / count : 0;
  };
  let phase = 0;
  let most = -1;
  for (let at = 0; at < period; at++) {
    const mean = meanFrom(at, period);
    if (mean > most) {
      most = mean;
      phase = at;
    }
  }
  const turns = [meanFrom(phase, 2 * period), meanFrom(phase + period, 2 * period)];
  return Math.min(...turns) / Math.max(...turns, 1e-12);
}

/** The tempo near `bpm` whose comb meets the most strength over the whole sound. */
function* refined(strength: Float64Array, bpm: number): Sliced<number> {
  let best = bpm;
  let bestScore = 0;
  let combs = 0;
  for (let candidate = bpm * 0.97; candidate <= bpm * 1.03; candidate += bpm * 0.0005) {
    const period = (60 * FRAME_RATE_HZ) / candidate;
    // Strength at the comb's pitch, whatever its phase: the size of one Fourier term.
    let re = 0;
    let im = 0;
    for (let i = 0; i < strength.length; i++) {
      if (strength[i] === 0) continue;
      const angle = (2 * Math.PI * i) / period;
      re += strength[i] * Math.cos(angle);
      im += strength[i] * Math.sin(angle);
    }
    if (++combs % COMBS_A_SLICE === 0) yield;
    const score = Math.hypot(re, im);
    if (score > bestScore) {
      bestScore = score;
      best = candidate;
    }
  }
  return best;
}

/**
 * Beats by dynamic programming: the row of instants that meets the most onset strength while its steps stay near the
 * tempo (Ellis 2007).
 *
 * @param onsets  onset strength, 100 frames a second
 * @param lowOnsets  that of the low end alone
 */
export function findBeats(onsets: Float32Array, lowOnsets: Float32Array): FoundBeats {
  return finish(findBeatsSliced(onsets, lowOnsets));
}

/** {@link findBeats} in slices. */
export function* findBeatsSliced(onsets: Float32Array, lowOnsets: Float32Array): Sliced<FoundBeats> {
  const strength = strengthOf(onsets, lowOnsets);
  yield;
  const bpm = yield* tempoOf(strength);
  if (bpm === 0) return { bpm: 0, timesS: [] };
  const period = (60 * FRAME_RATE_HZ) / bpm;
  const score = new Float64Array(strength.length);
  const previous = new Int32Array(strength.length).fill(-1);
  for (let i = 0; i < strength.length; i++) {
    let best = 0;
    for (let before = Math.max(0, Math.round(i - 2 * period)); before <= i - period / 2; before++) {
      const off = Math.log((i - before) / period);
      const value = score[before] - TIGHTNESS * off * off;
      if (value > best) {
        best = value;
        previous[i] = before;
      }
    }
    score[i] = strength[i] + best;
    if (i % 1000 === 0) yield;
  }
  let last = -1;
  for (let i = Math.max(0, Math.round(strength.length - period)); i < strength.length; i++) {
    if (last < 0 || score[i] > score[last]) last = i;
  }
  const frames: number[] = [];
  for (let i = last; i >= 0; i = previous[i]) frames.push(i);
  return { bpm, timesS: frames.reverse().map((frame) => frame / FRAME_RATE_HZ) };
}
