import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";

const TURN = 2 * Math.PI;

/** Target of a voice: samples are added from `start` on, and those past the end are dropped. */
export interface Target {
  samples: Float32Array;
  start: number;
}

function add(target: Target, length: number, sampleAt: (i: number, timeS: number) => number): void {
  const end = Math.min(length, target.samples.length - target.start);
  for (let i = 0; i < end; i++) target.samples[target.start + i] += sampleAt(i, i / SAMPLE_RATE_HZ);
}

/** Straight fade over the last `fadeS` of a note, so that none ends in a click. */
const fadeOut = (timeS: number, lengthS: number, fadeS: number) =>
  Math.min(1, Math.max(0, (lengthS - timeS) / fadeS));

/** A drum skin whose pitch falls from 130 Hz to 48 Hz, with a short knock in front. */
export function kick(target: Target, velocity: number): void {
  const lengthS = 0.34;
  let phase = 0;
  add(target, lengthS * SAMPLE_RATE_HZ, (_, t) => {
    const hz = 48 + 82 * Math.exp(-t / 0.028);
    phase += (TURN * hz) / SAMPLE_RATE_HZ;
    const knock = 0.25 * Math.sin(TURN * 1900 * t) * Math.exp(-t / 0.004);
    return velocity * (Math.sin(phase) * Math.exp(-t / 0.11) + knock) * fadeOut(t, lengthS, 0.05);
  });
}

/** A tom: a drum skin whose pitch falls by a fifth. */
export function tom(target: Target, hz: number, velocity: number): void {
  const lengthS = 0.4;
  let phase = 0;
  add(target, lengthS * SAMPLE_RATE_HZ, (_, t) => {
    phase += (TURN * hz * (1 + 0.5 * Math.exp(-t / 0.03))) / SAMPLE_RATE_HZ;
    return (
      velocity * Math.sin(phase) * Math.exp(-t / 0.13) * Math.min(1, t / 0.001) * fadeOut(t, lengthS, 0.05)
    );
  });
}

/** Two short drum modes under a burst of bright noise. */
export function snare(target: Target, velocity: number, random: () => number): void {
  const lengthS = 0.24;
  let low = 0;
  add(target, lengthS * SAMPLE_RATE_HZ, (_, t) => {
    const white = random() * 2 - 1;
    low += 0.22 * (white - low);
    const wires = (white - low) * Math.exp(-t / 0.07) * 0.62;
    const skin = (Math.sin(TURN * 191 * t) + 0.6 * Math.sin(TURN * 337 * t)) * Math.exp(-t / 0.035);
    return velocity * (wires + 0.36 * skin) * fadeOut(t, lengthS, 0.04);
  });
}

/** High noise that swells for a few milliseconds and is gone. */
export function shaker(target: Target, velocity: number, random: () => number): void {
  const lengthS = 0.09;
  let low = 0;
  add(target, lengthS * SAMPLE_RATE_HZ, (_, t) => {
    const white = random() * 2 - 1;
    low += 0.6 * (white - low);
    return (
      velocity *
      0.42 *
      (white - low) *
      Math.min(1, t / 0.004) *
      Math.exp(-t / 0.022) *
      fadeOut(t, lengthS, 0.02)
    );
  });
}

/** A round bass: the fundamental, two harmonics and a slow start. */
export function bass(target: Target, hz: number, lengthS: number, velocity: number): void {
  add(target, lengthS * SAMPLE_RATE_HZ, (_, t) => {
    const w = TURN * hz * t;
    const tone =
      Math.sin(w) + 0.42 * Math.sin(2 * w) * Math.exp(-t / 0.4) + 0.16 * Math.sin(3 * w) * Math.exp(-t / 0.2);
    return velocity * Math.tanh(tone) * Math.min(1, t / 0.012) * fadeOut(t, lengthS, 0.06);
  });
}

/** A bass string that is struck: it begins as suddenly as a drum, with harmonics that fade. */
export function pluckedBass(target: Target, hz: number, lengthS: number, velocity: number): void {
  add(target, lengthS * SAMPLE_RATE_HZ, (_, t) => {
    let sum = 0;
    for (let harmonic = 1; harmonic <= 6; harmonic++) {
      sum += (Math.sin(TURN * harmonic * hz * t) / harmonic) * Math.exp((-t * harmonic) / 0.5);
    }
    return velocity * sum * Math.min(1, t / 0.003) * fadeOut(t, lengthS, 0.03);
  });
}

/** A plucked string: noise going round a delay line that loses its brightness (Karplus & Strong 1983). */
export function pluck(target: Target, hz: number, velocity: number, random: () => number): void {
  const period = SAMPLE_RATE_HZ / hz;
  const whole = Math.floor(period - 0.5);
  // A first-order allpass makes up the fraction of a sample that a whole delay line cannot hold.
  const fraction = period - 0.5 - whole;
  const allpass = (1 - fraction) / (1 + fraction);
  const line = Float64Array.from({ length: whole }, () => random() * 2 - 1);
  const lengthS = 1.5;
  let previous = 0;
  let allpassIn = 0;
  let allpassOut = 0;
  add(target, lengthS * SAMPLE_RATE_HZ, (i, t) => {
    const at = i % whole;
    const out = line[at];
    const smooth = 0.5 * (out + previous) * 0.9965;
    previous = out;
    allpassOut = allpass * (smooth - allpassOut) + allpassIn;
    allpassIn = smooth;
    line[at] = allpassOut;
    return velocity * out * fadeOut(t, lengthS, 0.4);
  });
}

const PAD_PARTIALS = 5;
const PAD_TABLE_SIZE = 4096;
/** One cycle of a soft saw of few partials, so that nothing folds back at any pitch the pad plays. */
const PAD_TABLE = Float64Array.from({ length: PAD_TABLE_SIZE + 1 }, (_, i) => {
  let sum = 0;
  for (let partial = 1; partial <= PAD_PARTIALS; partial++) {
    sum += Math.sin((TURN * partial * i) / PAD_TABLE_SIZE + partial) / (partial * partial);
  }
  return sum;
});

/** A slow chord of detuned soft saws. */
export function pad(target: Target, chordHz: number[], lengthS: number, velocity: number): void {
  const steps = chordHz
    .flatMap((hz, i) => [hz * 0.9975, hz * (1.002 + i * 0.0004)])
    .map((hz) => (hz * PAD_TABLE_SIZE) / SAMPLE_RATE_HZ);
  const phases = new Float64Array(steps.length);
  add(target, lengthS * SAMPLE_RATE_HZ, (_, t) => {
    let sum = 0;
    for (let v = 0; v < steps.length; v++) {
      const at = Math.floor(phases[v]);
      sum += PAD_TABLE[at] + (PAD_TABLE[at + 1] - PAD_TABLE[at]) * (phases[v] - at);
      phases[v] += steps[v];
      if (phases[v] >= PAD_TABLE_SIZE) phases[v] -= PAD_TABLE_SIZE;
    }
    const breath = 1 + 0.15 * Math.sin(TURN * 0.31 * t);
    return (velocity * sum * breath * Math.min(1, t / 0.5) * fadeOut(t, lengthS, 0.5)) / steps.length;
  });
}

/** Partials of a bell: ratio to its strike note, strength, and how long it rings in seconds. */
const BELL_PARTIALS = [
  [0.5, 0.5, 1.6],
  [1, 1, 1.1],
  [1.19, 0.6, 0.9],
  [1.5, 0.35, 0.7],
  [2, 0.5, 0.5],
  [2.74, 0.25, 0.3],
  [4.1, 0.15, 0.15],
];

/** A fog bell on a buoy. */
export function bell(target: Target, hz: number, velocity: number): void {
  const lengthS = 4.4;
  add(target, lengthS * SAMPLE_RATE_HZ, (_, t) => {
    let sum = 0;
    for (const [ratio, strength, ringS] of BELL_PARTIALS)
      sum += strength * Math.exp(-t / ringS) * Math.sin(TURN * hz * ratio * t);
    return 0.28 * velocity * sum * Math.min(1, t / 0.002) * fadeOut(t, lengthS, 0.3);
  });
}
