import { SAMPLE_RATE_HZ } from "../../constants";

/** Zero crossings of the interpolating sinc on either side; with the Kaiser window below: about −110 dB aliases. */
const ZERO_CROSSINGS = 64;
/** Kaiser shape for about 110 dB of stop-band attenuation: 0.1102·(A − 8.7). */
const KAISER_BETA = 0.1102 * (110 - 8.7);
/** Half-amplitude point as a share of the lower Nyquist frequency, so that the stop-band starts at Nyquist. */
const CUTOFF = 1 - (110 - 7.95) / (14.36 * 2 * ZERO_CROSSINGS);

/** Modified Bessel function of order 0, by its power series. */
function bessel0(x: number): number {
  let term = 1;
  let sum = 1;
  for (let k = 1; term > sum * 1e-17; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

function greatestCommonDivisor(a: number, b: number): number {
  return b === 0 ? a : greatestCommonDivisor(b, a % b);
}

/**
 * Band-limited change of sample rate: a polyphase Kaiser-windowed sinc (Crochiere & Rabiner 1983).
 * Sample 0 stays at time 0; the pass-band reaches 0.89 of the lower of the two Nyquist frequencies.
 *
 * @param input  samples at `fromHz`, finite
 * @param fromHz  whole number of samples a second
 * @param toHz  whole number, 48 000 unless said
 * @returns `ceil(input.length · toHz / fromHz)` samples; `input` itself when the rates are equal
 * @throws RangeError when a rate is not a positive whole number
 */
export function resample(input: Float32Array, fromHz: number, toHz: number = SAMPLE_RATE_HZ): Float32Array {
  const resampler = new Resampler(fromHz, toHz);
  if (fromHz === toHz) return input;
  const head = resampler.push(input);
  const tail = resampler.end();
  const out = new Float32Array(head.length + tail.length);
  out.set(head);
  out.set(tail, head.length);
  return out;
}

/** Samples that {@link resample} gives of so many. */
export const resampledLength = (length: number, fromHz: number, toHz: number = SAMPLE_RATE_HZ): number =>
  Math.ceil((length * toHz) / fromHz - 1e-9);

/** The interpolating filter between two rates: for each phase between two input samples its taps. */
class Filter {
  readonly up: number;
  readonly down: number;
  /** Taps on either side. */
  readonly reach: number;
  private readonly cutoff: number;
  private readonly rows: (Float32Array | undefined)[];

  /** @throws RangeError when a rate is not a positive whole number */
  constructor(fromHz: number, toHz: number) {
    for (const rate of [fromHz, toHz]) {
      if (!Number.isInteger(rate) || rate <= 0) {
        throw new RangeError(`a sample rate must be a positive whole number of Hz, not ${rate}`);
      }
    }
    const divisor = greatestCommonDivisor(fromHz, toHz);
    this.up = toHz / divisor;
    this.down = fromHz / divisor;
    const narrower = Math.min(1, toHz / fromHz);
    this.cutoff = CUTOFF * narrower;
    this.reach = Math.ceil(ZERO_CROSSINGS / narrower);
    this.rows = new Array(this.up);
  }

  /**
   * Computes outputs from the `first`.
   *
   * @param input  the input from sample `inputFirst` on; outside of it there is silence
   */
  give(input: Float32Array, inputFirst: number, first: number, out: Float32Array): void {
    const { reach, rows, up, down } = this;
    const taps = 2 * reach;
    let whole = Math.floor((first * down) / up);
    let phase = first * down - whole * up;
    for (let i = 0; i < out.length; i++) {
      rows[phase] ??= this.makeRow(phase);
      const row = rows[phase]!;
      const start = whole - (reach - 1) - inputFirst;
      const from = Math.max(0, -start);
      const to = Math.min(taps, input.length - start);
      let sum = 0;
      for (let tap = from; tap < to; tap++) sum += row[tap] * input[start + tap];
      out[i] = sum;
      phase += down;
      const step = Math.floor(phase / up);
      whole += step;
      phase -= step * up;
    }
  }

  private makeRow(phase: number): Float32Array {
    const { reach, cutoff, up } = this;
    const windowScale = 1 / bessel0(KAISER_BETA);
    const row = new Float32Array(2 * reach);
    let sum = 0;
    for (let tap = 0; tap < row.length; tap++) {
      const distance = tap - (reach - 1) - phase / up;
      const edge = distance / reach;
      const x = Math.PI * cutoff * distance;
      const sinc = x === 0 ? 1 : Math.sin(x) / x;
      const window = Math.abs(edge) < 1 ? bessel0(KAISER_BETA * Math.sqrt(1 - edge * edge)) * windowScale : 0;
      row[tap] = cutoff * sinc * window;
      sum += row[tap];
    }
    // Equal gain at DC for every phase: without it a constant would ripple at the phase rate.
    for (let tap = 0; tap < row.length; tap++) row[tap] /= sum;
    return row;
  }
}

/** Filters that were made, by their rates: each takes a while to fill. */
const filters = new Map<string, Filter>();

function filterBetween(fromHz: number, toHz: number): Filter {
  const key = `${fromHz} ${toHz}`;
  const filter = filters.get(key) ?? new Filter(fromHz, toHz);
  filters.set(key, filter);
  return filter;
}

/**
 * A stretch of what {@link resample} gives, computed from the input around it alone.
 *
 * @param inputLength  samples of the whole input
 * @param first  the first output; outputs before 0 and after the end are 0
 * @param out  is filled
 * @param readInput  fills its array with input from a sample on; what is asked for lies within the input
 */
export function resampleStretch(
  fromHz: number,
  inputLength: number,
  first: number,
  out: Float32Array,
  readInput: (first: number, input: Float32Array) => void,
): void {
  out.fill(0);
  const from = Math.max(0, first);
  const to = Math.min(resampledLength(inputLength, fromHz), first + out.length);
  if (to <= from) return;
  const own = out.subarray(from - first, to - first);
  if (fromHz === SAMPLE_RATE_HZ) {
    readInput(from, own);
    return;
  }
  const filter = filterBetween(fromHz, SAMPLE_RATE_HZ);
  const perOutput = filter.down / filter.up;
  const inputFrom = Math.max(0, Math.floor(from * perOutput) - filter.reach);
  const inputTo = Math.min(inputLength, Math.ceil(to * perOutput) + filter.reach + 1);
  const input = new Float32Array(inputTo - inputFrom);
  readInput(inputFrom, input);
  filter.give(input, inputFrom, from, own);
}

/** {@link resample} for a sound that arrives in blocks: the same samples, whatever the blocks. */
export class Resampler {
  private readonly filter: Filter;
  private readonly fromHz: number;
  private readonly toHz: number;
  /** The last part of the input, which later outputs still need, and the index of its first sample. */
  private kept = new Float32Array(0);
  private keptFrom = 0;
  private received = 0;
  private given = 0;

  /** @throws RangeError when a rate is not a positive whole number */
  constructor(fromHz: number, toHz: number = SAMPLE_RATE_HZ) {
    this.filter = filterBetween(fromHz, toHz);
    this.fromHz = fromHz;
    this.toHz = toHz;
  }

  /** Takes a block and gives the output that it completes. */
  push(block: Float32Array): Float32Array {
    const { up, down, reach } = this.filter;
    if (up === down) return block;
    const joined = new Float32Array(this.kept.length + block.length);
    joined.set(this.kept);
    joined.set(block, this.kept.length);
    this.kept = joined;
    this.received += block.length;
    // Outputs whose last tap lies before the end of what has arrived.
    const ready = Math.ceil(((this.received - reach) * up) / down);
    return this.give(Math.max(0, ready - this.given));
  }

  /** Gives the remaining samples, with silence after the end. */
  end(): Float32Array {
    if (this.filter.up === this.filter.down) return new Float32Array(0);
    return this.give(resampledLength(this.received, this.fromHz, this.toHz) - this.given);
  }

  private give(count: number): Float32Array {
    const { kept, keptFrom, filter } = this;
    const out = new Float32Array(count);
    filter.give(kept, keptFrom, this.given, out);
    this.given += count;
    const whole = Math.floor((this.given * filter.down) / filter.up);
    const unneeded = Math.max(0, Math.min(kept.length, whole - (filter.reach - 1) - keptFrom));
    this.kept = kept.slice(unneeded);
    this.keptFrom += unneeded;
    return out;
  }
}
