import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { HOP_SAMPLES } from "../constants";
import { makeNoise } from "../dsp/tone";
import { analyseStrand } from "./analyse";
import { LiveStrand, windowLatencyS } from "./live";
import { MEASURES, type Measure } from "./measures";
import { defaultShaping } from "./shaping";
import { DirectSpectra } from "./spectrumSource";

const LONGEST = 16_384;
/** The sound up to a sample, silence before its start. */
function upTo(samples: Float32Array, end: number): Float32Array {
  const latest = new Float32Array(LONGEST);
  const from = Math.max(0, end - LONGEST);
  latest.set(samples.subarray(from, end), LONGEST - (end - from));
  return latest;
}

describe("a live strand", () => {
  const samples = makeNoise("pink", 48_000, 9, 0.8);
  const shaping = defaultShaping();

  it.each<[string, Measure]>([
    ["a band", { ...MEASURES.band.defaults, lowHz: 300, highHz: 3000 }],
    ["a band of a long spectrum", { ...MEASURES.band.defaults, lowHz: 40, highHz: 90, fftSize: 8192 }],
    ["the peak", MEASURES.peak.defaults],
  ])("gives the whole-sound numbers of %s, late by half its window", (_name, measure) => {
    const whole = analyseStrand({ samples }, { measure, shaping }, new DirectSpectra());
    const live = new LiveStrand({ measure, shaping });
    const late = windowLatencyS(measure) * 48_000;
    // Frames whose windows begin before the sound are there for the live strand too: it begins in silence.
    for (let frame = 0; frame * HOP_SAMPLES + late <= samples.length; frame++) {
      live.hearSamples(upTo(samples, Math.round(frame * HOP_SAMPLES + late)));
      expect(Math.abs(live.raw - whole.raw[frame])).toBeLessThan(1e-5);
      expect(Math.abs(live.track.values[0] - whole.shaped.values[frame])).toBeLessThan(1e-5);
    }
  });

  it("reads what is played", () => {
    const plain = defaultShaping("share");
    const now = {
      held: [
        { note: 40, velocity: 0.9 },
        { note: 70, velocity: 0.4 },
      ],
      last: 70,
      struck: 0.4,
      controls: new Map([[7, 0.25]]),
    };
    const read = (measure: Measure) => {
      const strand = new LiveStrand({ measure, shaping: plain });
      strand.hearNotes(now);
      strand.hearSamples(new Float32Array(LONGEST));
      return Math.round(strand.track.values[0] * 1e6) / 1e6;
    };
    expect(read({ kind: "velocity", lowNote: 0, highNote: 127 })).toBe(0.4);
    expect(read({ kind: "velocity", lowNote: 0, highNote: 60 })).toBe(0.9);
    expect(read({ kind: "note", lowNote: 60, highNote: 80 })).toBe(0.5);
    expect(read({ kind: "control", controller: 7 })).toBe(0.25);
    expect(read({ kind: "control", controller: 8 })).toBe(0);
    expect(read({ kind: "ticks" })).toBe(0.4);
    expect(read({ kind: "curve" })).toBe(0);
  });

  it("stays within 0..1 whatever comes in", () => {
    const hostile = fc.oneof(
      fc.float({ min: -2, max: 2, noNaN: true }),
      fc.constantFrom(Number.NaN, Number.POSITIVE_INFINITY, 1e-310, 3e38),
    );
    fc.assert(
      fc.property(
        fc.array(hostile, { minLength: 1, maxLength: 300 }),
        fc.constantFrom<Measure>(MEASURES.peak.defaults, MEASURES.band.defaults),
        (input, measure) => {
          const latest = new Float32Array(LONGEST);
          latest.set(input, LONGEST - input.length);
          const strand = new LiveStrand({ measure, shaping });
          strand.hearSamples(latest);
          expect(strand.track.values[0] >= 0 && strand.track.values[0] <= 1).toBe(true);
        },
      ),
    );
  });
});
