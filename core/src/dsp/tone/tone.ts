import { SAMPLE_RATE_HZ } from "../../constants";
import { seededRandom } from "../maths/random";

export const TONE_KINDS = ["sine", "triangle", "square", "sawtooth"] as const;
export type ToneKind = (typeof TONE_KINDS)[number];
export const NOISE_KINDS = ["white", "pink", "brown"] as const;
export type NoiseKind = (typeof NOISE_KINDS)[number];
export const SWEEP_KINDS = ["logarithmic", "linear"] as const;
export type SweepKind = (typeof SWEEP_KINDS)[number];

/** A frequency that stays, or goes from one to another over the whole length. */
export interface Sweep {
  fromHz: number;
  toHz: number;
  sweep: SweepKind;
}

const NYQUIST_HZ = SAMPLE_RATE_HZ / 2;
const TABLE_SIZE = 8192;
/** Tables a third of an octave apart: a tone loses at most that much of its highest harmonics. */
const TABLES_PER_OCTAVE = 3;
const LOWEST_HZ = 16;

/** Fourier coefficient of a waveform's `harmonic`-th sine, for a peak of 1. */
function harmonicLevel(kind: ToneKind, harmonic: number): number {
  const isOdd = harmonic % 2 === 1;
  switch (kind) {
    case "sine":
      return harmonic === 1 ? 1 : 0;
    case "triangle":
      return isOdd ? ((harmonic % 4 === 1 ? 1 : -1) * 8) / (Math.PI * harmonic) ** 2 : 0;
    case "square":
      return isOdd ? 4 / (Math.PI * harmonic) : 0;
    case "sawtooth":
      return ((isOdd ? 1 : -1) * 2) / (Math.PI * harmonic);
  }
}

const tables = new Map<string, Float64Array>();

/** Thirds of an octave above the lowest table, not below it. */
const stepOf = (hz: number) => Math.max(0, TABLES_PER_OCTAVE * Math.log2(hz / LOWEST_HZ) - 1e-9);

/** One cycle, its peak 1, holding every harmonic that stays below Nyquist up to the top of a third of an octave. */
function tableFor(kind: ToneKind, step: number): Float64Array {
  const topHz = LOWEST_HZ * 2 ** (step / TABLES_PER_OCTAVE);
  const key = `${kind} ${kind === "sine" ? 0 : step}`;
  let table = tables.get(key);
  if (!table) {
    table = new Float64Array(TABLE_SIZE + 1);
    const harmonics = kind === "sine" ? 1 : Math.max(1, Math.floor((NYQUIST_HZ * 0.999) / topHz));
    for (let harmonic = 1; harmonic <= harmonics; harmonic++) {
      const level = harmonicLevel(kind, harmonic);
      if (level === 0) continue;
      for (let i = 0; i <= TABLE_SIZE; i++) {
        table[i] += level * Math.sin((2 * Math.PI * ((harmonic * i) % TABLE_SIZE)) / TABLE_SIZE);
      }
    }
    const peak = table.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
    for (let i = 0; i <= TABLE_SIZE; i++) table[i] /= peak;
    tables.set(key, table);
  }
  return table;
}

/** The frequency of a sweep at a share of its length. */
export function sweepHz({ fromHz, toHz, sweep }: Sweep, share: number): number {
  return sweep === "linear" ? fromHz + (toHz - fromHz) * share : fromHz * (toHz / fromHz) ** share;
}

/**
 * A band-limited tone at 48 kHz, begun at phase 0.
 *
 * @param frequency  Hz that stays, or a sweep; above 0 and below 24 000
 * @param count  number of samples
 * @param level  its peak, full scale = 1
 * @throws RangeError for a frequency that cannot be sounded
 */
export function makeTone(kind: ToneKind, frequency: number | Sweep, count: number, level = 1): Float32Array {
  const sweep: Sweep =
    typeof frequency === "number" ? { fromHz: frequency, toHz: frequency, sweep: "linear" } : frequency;
  for (const hz of [sweep.fromHz, sweep.toHz]) {
    if (!(hz > 0 && hz < NYQUIST_HZ)) {
      throw new RangeError(`a tone must lie above 0 and below ${NYQUIST_HZ} Hz, not at ${hz}`);
    }
  }
  const out = new Float32Array(count);
  const stays = sweep.fromHz === sweep.toHz;
  let step = Math.ceil(stepOf(sweep.fromHz));
  let table = tableFor(kind, step);
  let above = table;
  let share = 0;
  let phase = 0;
  for (let i = 0; i < count; i++) {
    const hz = stays ? sweep.fromHz : sweepHz(sweep, i / count);
    if (!stays) {
      // Between tables a sweep fades: a harmonic that switched off would click.
      const wanted = stepOf(hz);
      if (i === 0 || Math.ceil(wanted) !== step) {
        step = Math.ceil(wanted);
        table = tableFor(kind, step);
        above = tableFor(kind, step + 1);
      }
      share = wanted + 1 - step;
    }
    const at = phase * TABLE_SIZE;
    const whole = Math.floor(at);
    const low = table[whole] + (table[whole + 1] - table[whole]) * (at - whole);
    const high = above[whole] + (above[whole + 1] - above[whole]) * (at - whole);
    out[i] = level * (low + (high - low) * share);
    phase += hz / SAMPLE_RATE_HZ;
    phase -= Math.floor(phase);
  }
  return out;
}

/** Poles and gains of the sum that turns white into pink noise, within 0.05 dB above 10 Hz (Kellet 1999). */
const PINK_POLES = [0.99886, 0.99332, 0.969, 0.8665, 0.55, -0.7616];
const PINK_GAINS = [0.0555179, 0.0750759, 0.153852, 0.3104856, 0.5329522, -0.016898];
const PINK_DIRECT = 0.5362;
const PINK_DELAYED = 0.115926;
/** Below this corner brown noise stays level, so that it does not wander off. */
const BROWN_CORNER_HZ = 5;
/** A zero that keeps the slope at −6 dB an octave where a plain running sum would flatten out. */
const BROWN_ZERO = 0.14;
/** RMS of each kind, full scale = 1, so that their peaks stay inside full scale at level 1. */
const NOISE_RMS: Record<NoiseKind, number> = { white: 1 / Math.sqrt(3), pink: 0.2, brown: 0.2 };

/**
 * Noise at 48 kHz: white, pink (−3 dB an octave) or brown (−6 dB an octave).
 *
 * @param seed  the same seed gives the same samples
 * @param level  1 gives the loudest that keeps inside full scale
 */
export function makeNoise(kind: NoiseKind, count: number, seed: number, level = 1): Float32Array {
  const uniform = seededRandom(seed);
  const random = () => uniform() * 2 - 1;
  const out = new Float32Array(count);
  if (kind === "white") {
    for (let i = 0; i < count; i++) out[i] = level * random();
    return out;
  }
  const next = kind === "pink" ? pinkFilter(random) : brownFilter(random);
  // The slow parts need a while to reach their strength.
  for (let i = 0; i < SAMPLE_RATE_HZ; i++) next();
  let energy = 0;
  for (let i = 0; i < count; i++) {
    out[i] = next();
    energy += out[i] * out[i];
  }
  let peak = 0;
  for (let i = 0; i < count; i++) peak = Math.max(peak, Math.abs(out[i]));
  if (energy === 0) return out;
  const gain = level * Math.min(NOISE_RMS[kind] / Math.sqrt(energy / count), 1 / peak);
  for (let i = 0; i < count; i++) out[i] *= gain;
  return out;
}

function pinkFilter(random: () => number): () => number {
  const state = new Float64Array(PINK_POLES.length);
  let delayed = 0;
  return () => {
    const white = random();
    let sum = delayed + white * PINK_DIRECT;
    for (let k = 0; k < state.length; k++) {
      state[k] = PINK_POLES[k] * state[k] + PINK_GAINS[k] * white;
      sum += state[k];
    }
    delayed = white * PINK_DELAYED;
    return sum;
  };
}

function brownFilter(random: () => number): () => number {
  const leak = Math.exp((-2 * Math.PI * BROWN_CORNER_HZ) / SAMPLE_RATE_HZ);
  let sum = 0;
  let before = 0;
  return () => {
    const white = random();
    sum = leak * sum + white + BROWN_ZERO * before;
    before = white;
    return sum;
  };
}
