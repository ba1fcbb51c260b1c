import { DEFAULT_FFT_SIZE, frameCount, HOP_SAMPLES } from "@bumbrel/core/constants";
import { levelToDb } from "@bumbrel/core/dsp/level/decibel";
import { type Samples, windowAround } from "@bumbrel/core/dsp/maths/samples";
import { bandLevel, bandShares } from "@bumbrel/core/dsp/spectrum/bands";
import { PowerSpectrum } from "@bumbrel/core/dsp/spectrum/spectrum";
import { DEFAULT_WINDOW } from "@bumbrel/core/dsp/spectrum/window";
import type { AverageSpectrum } from "./messages";

/** Third octaves from 25 Hz to 20 kHz, by their exact mid-band frequencies. */
const CENTRES_HZ = Array.from({ length: 30 }, (_, i) => 1000 * 10 ** ((i - 16) / 10));
/** Every so many frames are enough for a mean over a whole sound. */
const EVERY = 4;

/** Mean power of each third octave over a whole sound, in dBFS; a full-scale sine in a band reads 0. */
export function averageSpectrum(samples: Samples): AverageSpectrum {
  const bands = CENTRES_HZ.map((hz) => bandShares(hz * 10 ** -0.05, hz * 10 ** 0.05, DEFAULT_FFT_SIZE));
  const spectrum = new PowerSpectrum(DEFAULT_FFT_SIZE, DEFAULT_WINDOW);
  const powers = new Float32Array(spectrum.binCount);
  const sums = CENTRES_HZ.map(() => 0);
  let frames = 0;
  for (let frame = 0; frame < frameCount(samples.length); frame += EVERY, frames++) {
    const window = windowAround(samples, frame * HOP_SAMPLES);
    spectrum.at(window.samples, frame * HOP_SAMPLES - window.first, powers);
    for (const [i, band] of bands.entries()) sums[i] += bandLevel(powers, 0, band) ** 2;
  }
  return {
    centresHz: CENTRES_HZ,
    levelsDb: sums.map((sum) => levelToDb(Math.sqrt(sum / Math.max(1, frames)))),
  };
}
