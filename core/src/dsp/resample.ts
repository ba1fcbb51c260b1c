import { SAMPLE_RATE_HZ } from "../constants";

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

/** {@link resample} for a sound that arrives in blocks: the same samples, whatever the blocks. */
export class Resampler {
  private readonly up: number;
  private readonly down: number;
  private readonly reach: number;
  private readonly cutoff: number;
  private readonly rows: (Float32Array | undefined)[];
  private readonly rateRatio: number;
  /** What later outputs still need of the input, and the index of its first sample. */
  private kept = new Float32Array(0);
  private keptFrom = 0;
  private received = 0;
  private given = 0;
  /** The input sample at or before the next output, and the share of a sample after it, in `up`ths. */
  private whole = 0;
  private phase = 0;

  /** @throws RangeError when a rate is not a positive whole number */
  constructor(fromHz: number, toHz: number = SAMPLE_RATE_HZ) {
    for (const rate of [fromHz, toHz]) {
      if (!Number.isInteger(rate) || rate <= 0) {
        throw new RangeError(`a sample rate must be a positive whole number of Hz, not ${rate}`);
      }
    }
    const divisor = greatestCommonDivisor(fromHz, toHz);
    this.up = toHz / divisor;
    this.down = fromHz / divisor;
    this.rateRatio = toHz / fromHz;
    const narrower = Math.min(1, this.rateRatio);
    this.cutoff = CUTOFF * narrower;
    this.reach = Math.ceil(ZERO_CROSSINGS / narrower);
    this.rows = new Array(this.up);
  }

  /** Takes a block and gives the output that it completes. */
  push(block: Float32Array): Float32Array {
    if (this.up === this.down) return block;
    const joined = new Float32Array(this.kept.length + block.length);
    joined.set(this.kept);
    joined.set(block, this.kept.length);
    this.kept = joined;
    this.received += block.length;
    // Outputs whose last tap lies before the end of what has arrived.
    const ready = Math.ceil(((this.received - this.reach) * this.up) / this.down);
    return this.give(Math.max(0, ready - this.given));
  }

  /** Gives the remaining samples, with silence after the end. */
  end(): Float32Array {
    if (this.up === this.down) return new Float32Array(0);
    return this.give(Math.ceil(this.received * this.rateRatio - 1e-9) - this.given);
  }

  private give(count: number): Float32Array {
    const { kept, reach, rows, up, down } = this;
    const taps = 2 * reach;
    const out = new Float32Array(count);
    for (let i = 0; i < count; i++) {
      rows[this.phase] ??= this.makeRow(this.phase);
      const row = rows[this.phase]!;
      const first = this.whole - (reach - 1) - this.keptFrom;
      const from = Math.max(0, -first);
      const to = Math.min(taps, kept.length - first);
      let sum = 0;
      for (let tap = from; tap < to; tap++) sum += row[tap] * kept[first + tap];
      out[i] = sum;
      this.phase += down;
      const step = Math.floor(this.phase / up);
      this.whole += step;
      this.phase -= step * up;
    }
    this.given += count;
    const unneeded = Math.max(0, Math.min(kept.length, this.whole - (reach - 1) - this.keptFrom));
    this.kept = kept.slice(unneeded);
    this.keptFrom += unneeded;
    return out;
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
