import { SAMPLE_RATE_HZ } from "../../constants";
import { rested, SlidingPower } from "../spectrum/slidingPower";

/** Poles of A-weighting in Hz: the first and the last are double (IEC 61672-1:2013, annex E). */
const [F1, F2, F3, F4] = [20.598997, 107.65265, 737.86223, 12194.217];

function response(hz: number): number {
  const f2 = hz * hz;
  return (F4 * F4 * f2 * f2) / ((f2 + F1 * F1) * Math.sqrt((f2 + F2 * F2) * (f2 + F3 * F3)) * (f2 + F4 * F4));
}

const AT_1000 = response(1000);

/** A-weighting as a factor on levels: 1 at 1 kHz, 0 at 0 Hz (IEC 61672-1:2013, annex E). */
export function aWeight(hz: number): number {
  return response(hz) / AT_1000;
}

/** Two poles and two zeros, `a0 = 1`. */
interface Section {
  b: readonly [number, number, number];
  a: readonly [number, number];
}

/** The bilinear transform of two poles with both zeros at 0 Hz. */
function highPass(pole1Hz: number, pole2Hz: number): Section {
  const [p, q] = [pole1Hz, pole2Hz].map((hz) => {
    const w = (2 * Math.PI * hz) / (2 * SAMPLE_RATE_HZ);
    return (1 - w) / (1 + w);
  });
  return { b: [1, -2, 1], a: [-(p + q), p * q] };
}

/**
 * The double pole at 12.2 kHz, which the bilinear transform would bend by more than a decibel: fitted to the weighting between
 * 10 Hz and 20 kHz at 48 kHz, 0.03 dB off at most.
 */
const TOP: Section = { b: [1, -0.2897684, -0.25149773], a: [-0.98292915, 0.21226718] };
const SECTIONS = [highPass(F1, F1), highPass(F2, F3), TOP];

/** Gain of the sections at a frequency, as a factor. */
function gainAt(hz: number): number {
  const w = (2 * Math.PI * hz) / SAMPLE_RATE_HZ;
  return SECTIONS.reduce((gain, { b, a }) => {
    const size = (c: readonly number[]) =>
      Math.hypot(
        c[0] + c[1] * Math.cos(w) + c[2] * Math.cos(2 * w),
        c[1] * Math.sin(w) + c[2] * Math.sin(2 * w),
      );
    return (gain * size(b)) / size([1, ...a]);
  }, 1);
}

const GAIN = 1 / gainAt(1000);
const MEMORY = 2 * (SECTIONS.length + 1);

/** Sum of squares of a stretch after A-weighting, whose memory is `memory`. */
function aWeightedEnergy(channel: Float32Array, from: number, to: number, memory: Float64Array): number {
  let sum = 0;
  for (let i = from; i < to; i++) {
    const sample = channel[i];
    let x = sample - sample === 0 ? sample * GAIN : 0;
    for (let s = 0; s < SECTIONS.length; s++) {
      const { b, a } = SECTIONS[s];
      const at = 2 * s;
      const y =
        b[0] * x + b[1] * memory[at] + b[2] * memory[at + 1] - a[0] * memory[at + 2] - a[1] * memory[at + 3];
      memory[at + 1] = memory[at];
      memory[at] = x;
      x = y;
    }
    const last = 2 * SECTIONS.length;
    memory[last + 1] = memory[last];
    memory[last] = x;
    sum += x * x;
  }
  for (let i = 2; i < memory.length; i++) memory[i] = rested(memory[i]);
  return sum;
}

/**
 * A-weighted level around one instant after another, filtered in the time domain: within the tolerances of class 1 of IEC
 * 61672-1:2013 from 10 Hz to 20 kHz.
 */
export class AWeightedMeter {
  private readonly power: SlidingPower;

  /** @param windowS  a whole number of twice 10 ms */
  constructor(windowS: number) {
    this.power = new SlidingPower(windowS, [1], { energy: aWeightedEnergy, memory: MEMORY });
  }

  /** A full-scale sine of 1 kHz reads 1; see {@link SlidingPower.at}. */
  levelAt(samples: Float32Array, centre: number, frame: number): number {
    return Math.sqrt(2 * this.power.at([samples], centre, frame));
  }
}
