import { HOP_SAMPLES } from "@bumbrel/core/constants";
import { LIVE_HISTORY, LiveCursor, LiveStrand } from "@bumbrel/core/strand/hearing/live";
import { DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { MEASURES, measureSound } from "@bumbrel/core/strand/measures/table";
import { defaultShaping } from "@bumbrel/core/strand/shape/shaping";
import { casesOf } from "@bumbrel/core/testing/full";
import { describe, expect, it } from "@jest/globals";
import { makePitchPiece, scorePitches } from "./pitchPieces";

const surest = (lowHz: number, highHz: number) => ({
  ...MEASURES.pitch.defaults,
  lowHz,
  highHz,
  leastCertainty: 0,
});

describe("pitches of voices with vibrato, glides and any balance of harmonics", () => {
  it.each(
    casesOf(
      [
        [45, 76, 60, 1500],
        [28, 52, 30, 400],
        [69, 101, 200, 3000],
      ],
      1,
    ),
  )("notes %d to %d keep their octave, 20 and 10 dB over noise", (lowest, highest, lowHz, highHz) => {
    for (const [noiseDb, most] of [
      [20, 5],
      [10, 6],
    ]) {
      const piece = makePitchPiece({ notes: [lowest, highest], seconds: 8, seed: 7, noiseDb });
      const found = measureSound({ samples: piece.samples }, surest(lowHz, highHz), new DirectSpectra());
      const { octavesOff, farOff, mostCents } = scorePitches(piece, found);
      expect(octavesOff).toBe(0);
      expect(farOff).toBeLessThan(0.005);
      expect(mostCents).toBeLessThan(most);
    }
  });

  it("keep it more often than frame by frame where noise is nearly as loud, live too", () => {
    const piece = makePitchPiece({ notes: [69, 101], seconds: 12, seed: 69, noiseDb: 3 });
    const measure = surest(200, 3000);
    const whole = measureSound({ samples: piece.samples }, measure, new DirectSpectra());
    const strand = new LiveStrand({ measure, shaping: defaultShaping("hz") });
    const cursor = new LiveCursor();
    const ahead = MEASURES.pitch.ahead(measure);
    const live = new Float32Array(whole.length);
    for (let end = LIVE_HISTORY; end <= piece.samples.length; end += HOP_SAMPLES) {
      cursor.push(piece.samples.subarray(end - LIVE_HISTORY, end));
      strand.readSamples(cursor);
      live[Math.round((end - ahead) / HOP_SAMPLES)] = strand.raw[0];
    }
    const heard = piece.pitchHz.map((hz, frame) => (live[frame] > 0 ? hz : 0));
    expect(heard.filter((hz) => hz > 0).length).toBeGreaterThan(500);
    expect(scorePitches(piece, whole).octavesOff).toBeLessThan(0.02);
    expect(scorePitches({ ...piece, pitchHz: heard }, live).octavesOff).toBeLessThan(0.03);
  });
});
