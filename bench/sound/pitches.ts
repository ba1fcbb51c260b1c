import { HOP_SAMPLES, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { PitchFinder } from "@bumbrel/core/dsp/tone/pitch";
import { PitchPath } from "@bumbrel/core/dsp/tone/pitchPath";
import { makePitchPiece, type PitchPiece, scorePitches } from "@bumbrel/demo/pieces/pitchPieces";

/** Pitches of synthesised voices: frame by frame, by what was heard so far, and by the whole sound. */
const RANGES = [
  { notes: [28, 52], lowHz: 30, highHz: 400 },
  { notes: [45, 76], lowHz: 60, highHz: 1500 },
  { notes: [69, 101], lowHz: 200, highHz: 3000 },
] as const;

function pitchesOf({ samples }: PitchPiece, lowHz: number, highHz: number) {
  const finder = new PitchFinder(lowHz, highHz);
  const frames = Math.floor(samples.length / HOP_SAMPLES);
  const [path, soFar] = [new PitchPath(frames), new PitchPath(1)];
  const [alone, live] = [new Float64Array(frames), new Float64Array(frames)];
  for (let frame = 0; frame < frames; frame++) {
    finder.moveTo(samples, frame * HOP_SAMPLES);
    const found = finder.candidates();
    let best = 0;
    for (let i = 1; i < found.count; i++) if (found.probabilities[i] > found.probabilities[best]) best = i;
    alone[frame] = finder.refinedHz(found.lags[best]);
    path.push(found);
    soFar.push(found);
    live[frame] = finder.refinedHz(soFar.newest().lag);
  }
  const whole = Float64Array.from(path.whole(), ({ lag }, frame) => {
    finder.moveTo(samples, frame * HOP_SAMPLES);
    return finder.refinedHz(lag);
  });
  return { "frame by frame": alone, live, "whole sound": whole };
}

const percent = (share: number) => `${(100 * share).toFixed(2)} %`;
for (const [noiseDb, hasDrums] of [
  [20, false],
  [10, false],
  [3, false],
  [20, true],
] as const) {
  for (const { notes, lowHz, highHz } of RANGES) {
    const piece = makePitchPiece({ notes, seconds: 30, seed: notes[0], noiseDb, hasDrums });
    const beganMs = performance.now();
    const all = pitchesOf(piece, lowHz, highHz);
    const perSecondMs = (performance.now() - beganMs) / (piece.samples.length / SAMPLE_RATE_HZ);
    const figures = Object.entries(all).map(([way, hz]) => {
      const { octavesOff, farOff, middleCents, mostCents } = scorePitches(piece, hz);
      return `${way} ${percent(octavesOff)} an octave off, ${percent(farOff)} more than 50 cents, others ${middleCents.toFixed(1)} cents, 95 % below ${mostCents.toFixed(1)}`;
    });
    console.log(
      `pitches of ${lowHz} to ${highHz} Hz, ${noiseDb} dB over noise${hasDrums ? ", with drums" : ""} (${perSecondMs.toFixed(1)} ms a second): ${figures.join("; ")}`,
    );
  }
}
