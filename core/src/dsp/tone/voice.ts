import { SAMPLE_RATE_HZ } from "../../constants";
import { seededRandom } from "../maths/random";

/** Resonances of five vowels, Hz: the first three of a voice. */
const VOWELS = [
  [730, 1090, 2440],
  [530, 1840, 2480],
  [270, 2290, 3010],
  [570, 840, 2410],
  [300, 870, 2240],
];

/**
 * Somebody calling boats in across the water: syllables of a synthesised voice with breaths between them.
 *
 * @param seconds  length; the last breath reaches its end, so that it can be repeated
 * @param seed  the same seed gives the same samples
 * @returns one channel at 48 kHz
 */
export function makeVoice(seconds: number, seed: number): Float32Array {
  const random = seededRandom(seed);
  const out = new Float32Array(Math.round(seconds * SAMPLE_RATE_HZ));
  let at = 0.3;
  while (at < seconds - 0.9) {
    const syllables = 2 + Math.floor(random() * 3);
    for (let s = 0; s < syllables && at < seconds - 0.6; s++) {
      const lengthS = 0.16 + 0.2 * random();
      speak(out, at, lengthS, 105 + 40 * random(), VOWELS[Math.floor(random() * VOWELS.length)]);
      at += lengthS + 0.03;
    }
    at += 0.35 + 0.4 * random();
  }
  return out;
}

/** One vowel: harmonics of a falling pitch, each as loud as the resonances near it. */
function speak(out: Float32Array, startS: number, lengthS: number, pitchHz: number, vowel: number[]): void {
  const start = Math.round(startS * SAMPLE_RATE_HZ);
  const length = Math.round(lengthS * SAMPLE_RATE_HZ);
  for (let harmonic = 1; harmonic * pitchHz < 4000; harmonic++) {
    const hz = harmonic * pitchHz;
    const loudness = vowel.reduce(
      (sum, centre, i) => sum + Math.exp(-(((hz - centre) / 130) ** 2)) / (i + 1),
      0.02,
    );
    let phase = 0;
    for (let i = 0; i < length && start + i < out.length; i++) {
      const share = i / length;
      phase += (2 * Math.PI * hz * (1.04 - 0.1 * share)) / SAMPLE_RATE_HZ;
      out[start + i] += 0.16 * loudness * Math.sin(phase) * Math.sin(Math.PI * share) ** 0.6;
    }
  }
}
