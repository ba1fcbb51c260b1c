import { analyseStrand } from "@bumbrel/core/analyse/strandAnalysis";
import { DEFAULT_FFT_SIZE, frameCount, HOP_SAMPLES, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { RealFft } from "@bumbrel/core/dsp/spectrum/fft";
import { PowerSpectrum } from "@bumbrel/core/dsp/spectrum/spectrum";
import { PROGRAM_EXAMPLES } from "@bumbrel/core/program/examples";
import { loadScripts } from "@bumbrel/core/program/scripts/loadScripts";
import { WholeCursor } from "@bumbrel/core/strand/hearing/cursor";
import { LiveListening, LiveStrand } from "@bumbrel/core/strand/hearing/live";
import type { Signal } from "@bumbrel/core/strand/hearing/signal";
import { CachedSpectra, DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { MEASURES, type Measure, measureSound, startMeasure } from "@bumbrel/core/strand/measures/table";
import { defaultShaping } from "@bumbrel/core/strand/shape/shaping";
import { makeRegattaNight } from "@bumbrel/demo/scenes/regattaNight";
import FFT from "fft.js";

/** Median time of a call in ms, over `rounds` rounds of `calls` calls each, after one round to warm up. */
function timeOf(calls: number, rounds: number, call: () => void): number {
  const times: number[] = [];
  for (let round = 0; round <= rounds; round++) {
    const before = performance.now();
    for (let i = 0; i < calls; i++) call();
    times.push((performance.now() - before) / calls);
  }
  return times.slice(1).sort((a, b) => a - b)[Math.floor(rounds / 2)];
}

const micro = (ms: number) => `${(ms * 1000).toFixed(1)} µs`;

const size = DEFAULT_FFT_SIZE;
const piece = makeRegattaNight(1);
const samples = piece.mix[0];
const frame = samples.subarray(SAMPLE_RATE_HZ * 25, SAMPLE_RATE_HZ * 25 + size);

const ours = new RealFft(size);
const re = new Float64Array(ours.binCount);
const im = new Float64Array(ours.binCount);
const theirs = new FFT(size);
const input = Array.from(frame);
const output = theirs.createComplexArray();
const spectrum = new PowerSpectrum(size, "hann");
const powers = new Float32Array(spectrum.binCount);

const rows: [string, string][] = [];
const oursMs = timeOf(2000, 15, () => ours.forward(frame, re, im));
const theirsMs = timeOf(2000, 15, () => theirs.realTransform(output, input));
rows.push([
  `real FFT of ${size}`,
  `${micro(oursMs)}; fft.js ${micro(theirsMs)}; ${(theirsMs / oursMs).toFixed(2)} times as fast`,
]);
const powerMs = timeOf(2000, 15, () => spectrum.at(samples, SAMPLE_RATE_HZ * 25, powers));
rows.push([`windowed power spectrum of ${size}`, micro(powerMs)]);

const durationMs = (1000 * samples.length) / SAMPLE_RATE_HZ;
const strand = { measure: MEASURES.band.defaults, shaping: defaultShaping() };
const analyseMs = timeOf(1, 5, () => analyseStrand({ samples }, strand, new DirectSpectra()));
rows.push([
  "a band strand over a whole sound, one core",
  `${(durationMs / analyseMs).toFixed(0)} × real time`,
]);
const cached = new CachedSpectra();
analyseStrand({ samples }, strand, cached);
const againMs = timeOf(1, 9, () => analyseStrand({ samples }, strand, cached));
rows.push(["the same again while its range is dragged", `${(durationMs / againMs).toFixed(0)} × real time`]);

/** Three minutes of the piece, and five. */
const minutes = (count: number) => {
  const out = new Float32Array(count * 60 * SAMPLE_RATE_HZ);
  for (let at = 0; at < out.length; at += samples.length) {
    out.set(samples.subarray(0, Math.min(samples.length, out.length - at)), at);
  }
  return out;
};
const three = minutes(3);
const fan: Measure = { ...MEASURES.fan.defaults, layout: "mel", bands: 64 };
const together: Measure[] = [fan, MEASURES.onset.defaults, MEASURES.momentary.defaults];
const togetherMs = timeOf(1, 5, () => {
  // One pass over the sound, as spectra are shared between strands.
  const cursor = new WholeCursor({ samples: three }, new DirectSpectra());
  const readings = together.map((measure) => startMeasure(measure, { samples: three }));
  const out = readings.map(({ width }) => new Float32Array(width));
  for (let frame = 0; frame < frameCount(three.length); frame++) {
    cursor.moveTo(frame);
    readings.forEach((reading, i) => {
      reading.read(cursor, out[i], 0);
    });
  }
});
rows.push([
  "64-band fan, onset, loudness over 3 minutes",
  `${(180_000 / togetherMs).toFixed(0)} × real time, one core`,
]);

const five = minutes(5);
const kept = new CachedSpectra();
analyseStrand({ samples: five }, strand, kept);
let lowHz = 80;
const dragMs = timeOf(1, 9, () => {
  lowHz += 10;
  const measure = { ...MEASURES.band.defaults, lowHz, highHz: lowHz + 400 };
  analyseStrand({ samples: five }, { ...strand, measure }, kept);
});
rows.push(["dragging a range, whole trace of 5 minutes", `${dragMs.toFixed(0)} ms an update`]);

const live = Array.from(
  { length: 64 },
  (_, i) =>
    new LiveStrand({
      measure: { ...MEASURES.band.defaults, lowHz: 50 + 100 * i, highHz: 250 + 110 * i },
      shaping: defaultShaping(),
    }),
);
const listening = new LiveListening();
let at = 0;
const liveMs = timeOf(300, 7, () => {
  at = (at + HOP_SAMPLES) % (samples.length - HOP_SAMPLES);
  listening.take(samples.subarray(at, at + HOP_SAMPLES), live);
});
rows.push(["64 strands live, a frame", `${liveMs.toFixed(3)} ms`]);

await loadScripts();
const byCode = (code: string, bands: number, signal: Partial<Signal>) => {
  const measure: Measure = { ...MEASURES.program.defaults, programId: "p", bands };
  return timeOf(1, 3, () =>
    measureSound({ samples: new Float32Array(0), ...signal, code }, measure, new DirectSpectra()),
  );
};
const beats = { width: 1, values: Float32Array.from({ length: 30_000 }, (_, i) => ((i % 50) / 50) ** 2) };
const { barCounter, pitchClasses } = PROGRAM_EXAMPLES;
const ofStrandsMs = byCode(barCounter.code, 1, { strands: [beats], frames: 30_000 });
const ofSoundMs = byCode("function next({ sound }) { return sound.level(440) + sound.level(880); }", 1, {
  samples: five,
});
const ofNotesMs = byCode(pitchClasses.code, 12, { samples: five });
for (const [what, ms] of [
  ["a program that counts bars, 5 minutes", ofStrandsMs],
  ["a program that reads two levels, 5 minutes", ofSoundMs],
  ["twelve pitch classes by a program, 5 minutes", ofNotesMs],
] as const) {
  rows.push([what, `${(300_000 / ms).toFixed(0)} × real time`]);
}

for (const [what, figure] of rows) console.log(`${what.padEnd(46)} ${figure}`);
