import { describe, expect, it } from "@jest/globals";
import { analyseStrand } from "../../analyse/strandAnalysis";
import { frameCount, HOP_SAMPLES, SAMPLE_RATE_HZ } from "../../constants";
import { makeNoise } from "../../dsp/tone/tone";
import { LiveListening, LiveStrand } from "../hearing/live";
import { DirectSpectra } from "../hearing/spectra";
import { hitTuning } from "./catch";

const HITS_S = Array.from({ length: 12 }, (_none, i) => 0.4371 + i * 0.5173);

/** Drums that begin at 150 Hz and ring at 50 Hz, over a bass note that goes on and some noise. */
function drums(): Float32Array {
  const samples = makeNoise("pink", 7 * SAMPLE_RATE_HZ, 4, 0.02);
  for (let i = 0; i < samples.length; i++)
    samples[i] += 0.08 * Math.sin((2 * Math.PI * 110 * i) / SAMPLE_RATE_HZ);
  for (const hitS of HITS_S) {
    let phase = 0;
    const first = Math.ceil(hitS * SAMPLE_RATE_HZ);
    for (let i = first; i < first + 0.35 * SAMPLE_RATE_HZ && i < samples.length; i++) {
      const t = i / SAMPLE_RATE_HZ - hitS;
      phase += (2 * Math.PI * (50 + 100 * Math.exp(-t / 0.03))) / SAMPLE_RATE_HZ;
      samples[i] += 0.7 * Math.sin(phase) * Math.exp(-t / 0.1);
    }
  }
  return samples;
}

/** A strand on the range that the drums ring in, which they reach late. */
const tuning = hitTuning(31.5, 63, -25, -6);

describe("cues of peaks", () => {
  it("come when the hit begins, not when its ringing is loudest in a long window", () => {
    const { cues } = analyseStrand({ samples: drums() }, tuning, new DirectSpectra());
    expect(cues).toHaveLength(HITS_S.length);
    const off = cues.map(({ timeS }, i) => Math.abs(timeS - HITS_S[i])).sort((a, b) => a - b);
    expect(off[6]).toBeLessThan(0.003);
    expect(off[11]).toBeLessThan(0.01);
  });

  it("come at the same times live, a constant time later", () => {
    const samples = drums();
    const whole = analyseStrand({ samples }, tuning, new DirectSpectra()).cues;
    const strand = new LiveStrand(tuning);
    const listening = new LiveListening();
    const heard: number[] = [];
    let count = 0;
    for (let at = 0; at < samples.length; at += HOP_SAMPLES) {
      listening.take(samples.subarray(at, at + HOP_SAMPLES), [strand]);
      if (strand.cueCount === count) continue;
      count = strand.cueCount;
      heard.push(strand.lastCue!.timeS);
    }
    expect(heard).toHaveLength(whole.length);
    const later = heard.map((timeS, i) => timeS - whole[i].timeS);
    // Live frames begin between those of a whole sound.
    expect(Math.max(...later) - Math.min(...later)).toBeLessThan(1e-4);
    expect(frameCount(samples.length)).toBeGreaterThan(600);
  });

  it("in silence there are none, and the first sample may be a hit", () => {
    expect(analyseStrand({ samples: new Float32Array(48_000) }, tuning, new DirectSpectra()).cues).toEqual(
      [],
    );
    const samples = drums().subarray(Math.ceil(HITS_S[0] * SAMPLE_RATE_HZ));
    const [first] = analyseStrand({ samples }, tuning, new DirectSpectra()).cues;
    expect(first.timeS).toBeLessThan(0.01);
  });
});
