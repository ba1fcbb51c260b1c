import { HOP_SAMPLES } from "../../constants";
import { bandLevel, bandShares } from "../../dsp/spectrum/bands";
import { HOP_AHEAD, halfWindow, type MeasureReader, measure, range, SPECTRUM, single } from "./declaration";

/** A number of the samples of the hop around the instant. */
function overHop(take: (samples: Float32Array, from: number, to: number) => number): MeasureReader {
  return single(({ samples, centre }) =>
    take(samples, Math.max(0, centre - HOP_AHEAD), Math.min(samples.length, centre + HOP_AHEAD)),
  );
}

/** Levels, full scale = 1. */
export const LEVELS = {
  band: measure({
    label: "Band",
    help: "The level of a range of frequencies: a full-scale sine inside it reads 0 dBFS.",
    group: "levels",
    unit: "level",
    reads: ["samples"],
    settings: { ...range(80, 160), ...SPECTRUM },
    ahead: halfWindow,
    start({ lowHz, highHz, fftSize, window }) {
      const band = bandShares(lowHz, highHz, fftSize);
      return single((cursor) => {
        cursor.loadSpectrum(fftSize, window);
        return bandLevel(cursor.powers, cursor.offset, band);
      });
    },
  }),
  peak: measure({
    label: "Peak",
    help: "The largest sample of each 10 ms of the sound, full scale = 1.",
    group: "levels",
    unit: "level",
    reads: ["samples"],
    settings: {},
    ahead: () => HOP_AHEAD,
    start: () =>
      overHop((samples, from, to) => {
        let most = 0;
        for (let i = from; i < to; i++) most = Math.max(most, Math.abs(samples[i]));
        return most;
      }),
  }),
  rms: measure({
    label: "RMS",
    help: "The root of the mean square of each 10 ms, full scale = 1: a full-scale sine reads −3 dBFS.",
    group: "levels",
    unit: "level",
    reads: ["samples"],
    settings: {},
    ahead: () => HOP_AHEAD,
    start: () =>
      overHop((samples, from, to) => {
        let sum = 0;
        for (let i = from; i < to; i++) sum += samples[i] * samples[i];
        return Math.sqrt(sum / HOP_SAMPLES);
      }),
  }),
  meanAbsolute: measure({
    label: "Mean absolute",
    help: "The mean of the samples' sizes over each 10 ms, full scale = 1.",
    group: "levels",
    unit: "level",
    reads: ["samples"],
    settings: {},
    ahead: () => HOP_AHEAD,
    start: () =>
      overHop((samples, from, to) => {
        let sum = 0;
        for (let i = from; i < to; i++) sum += Math.abs(samples[i]);
        return sum / HOP_SAMPLES;
      }),
  }),
};
