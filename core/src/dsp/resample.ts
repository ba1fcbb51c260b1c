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
  for (const rate of [fromHz, toHz]) {
    if (!Number.isInteger(rate) || rate <= 0) {
      throw new RangeError(`a sample rate must be a positive whole number of Hz, not ${rate}`);
    }
  }
  if (fromHz === toHz) return input;
  const divisor = greatestCommonDivisor(fromHz, toHz);
  const up = toHz / divisor;
  const down = fromHz / divisor;
  const cutoff = CUTOFF * Math.min(1, toHz / fromHz);
  const reach = Math.ceil(ZERO_CROSSINGS / Math.min(1, toHz / fromHz));
  const taps = 2 * reach;
  const windowScale = 1 / bessel0(KAISER_BETA);
  const rows = new Array<Float32Array | undefined>(up);

  const makeRow = (phase: number): Float32Array => {
    const row = new Float32Array(taps);
    let sum = 0;
    for (let tap = 0; tap < taps; tap++) {
      const distance = tap - (reach - 1) - phase / up;
      const edge = distance / reach;
      const x = Math.PI * cutoff * distance;
      const sinc = x === 0 ? 1 : Math.sin(x) / x;
      const window = Math.abs(edge) < 1 ? bessel0(KAISER_BETA * Math.sqrt(1 - edge * edge)) * windowScale : 0;
      row[tap] = cutoff * sinc * window;
      sum += row[tap];
    }
    // Equal gain at DC for every phase: without it a constant would ripple at the phase rate.
    for (let tap = 0; tap < taps; tap++) row[tap] /= sum;
    return row;
  };

  const outLength = Math.ceil((input.length * toHz) / fromHz);
  const out = new Float32Array(outLength);
  let whole = 0;
  let phase = 0;
  for (let i = 0; i < outLength; i++) {
    rows[phase] ??= makeRow(phase);
    const row = rows[phase]!;
    const first = whole - (reach - 1);
    const from = Math.max(0, -first);
    const to = Math.min(taps, input.length - first);
    let sum = 0;
    for (let tap = from; tap < to; tap++) sum += row[tap] * input[first + tap];
    out[i] = sum;
    phase += down;
    const step = Math.floor(phase / up);
    whole += step;
    phase -= step * up;
  }
  return out;
}
