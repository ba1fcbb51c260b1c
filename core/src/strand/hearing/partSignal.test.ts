import { describe, expect, it } from "@jest/globals";
import { analyseStrand, StrandAnalysis } from "../../analyse/strandAnalysis";
import { HOP_SAMPLES } from "../../constants";
import { newStrand } from "../../document/strands/newStrand";
import { tuningOf } from "../../document/strands/strands";
import { PART_DELAY } from "../../dsp/maths/measureWindows";
import { PcmSamples } from "../../dsp/maths/samples";
import { finish } from "../../dsp/maths/slices";
import { makeNoise } from "../../dsp/tone/tone";
import { newScene } from "../../kinds/create";
import { MEASURES, windowLatencyS } from "../measures/table";
import { defaultShaping } from "../shape/shaping";
import { LiveListening, LiveStrand } from "./live";
import { partSignalSliced } from "./partSignal";
import { DirectSpectra } from "./spectra";

const SECONDS = 3;
/** Bursts of noise over a tone. */
const samples = makeNoise("white", SECONDS * 48_000, 5, 0.5).map(
  (x, i) => (i % 24_000 < 480 ? x : 0) + 0.3 * Math.sin((2 * Math.PI * 700 * i) / 48_000),
);
const partOf = (part: "percussive" | "harmonic") =>
  finish(partSignalSliced({ samples }, part)).samples as Float32Array;
const level = { measure: MEASURES.rms.defaults, shaping: defaultShaping() };

describe("parts of a sound as signals", () => {
  it("lie where they do in the sound, and add up to it", () => {
    const [struck, lasting] = [partOf("percussive"), partOf("harmonic")];
    expect(struck.length).toBe(samples.length);
    for (let i = 0; i < samples.length; i += 11) expect(struck[i] + lasting[i]).toBeCloseTo(samples[i], 6);
    const powerAt = (timeS: number) =>
      struck.subarray(timeS * 48_000, timeS * 48_000 + 480).reduce((sum, x) => sum + x * x, 0);
    for (const timeS of [0.5, 1, 1.5, 2]) expect(powerAt(timeS)).toBeGreaterThan(20 * powerAt(timeS + 0.25));
    // The same ones for all who ask.
    expect(partOf("percussive")).toBe(struck);
  });

  it("are the same of a long sound, whose samples are made as they are read", () => {
    const pcm = Int16Array.from(samples, (x) => Math.round(x * 20_000));
    const long = new PcmSamples(pcm, 1, 0, 48_000);
    const whole = Float32Array.from(pcm, (x) => x / 32_768);
    for (const part of ["percussive", "harmonic"] as const)
      expect(finish(partSignalSliced({ samples: long }, part)).samples).toEqual(
        finish(partSignalSliced({ samples: whole }, part)).samples,
      );
  });

  it("are read by any measure, whole, in slices and with numbers that are known already", () => {
    for (const part of ["percussive", "harmonic"] as const) {
      const own = analyseStrand({ samples: partOf(part) }, level, new DirectSpectra());
      const heard = analyseStrand({ samples }, { ...level, part }, new DirectSpectra());
      expect(heard.raw).toEqual(own.raw);
      const known = { raw: own.raw, width: 1 };
      const again = new StrandAnalysis({ samples }, { ...level, part }, new DirectSpectra(), known);
      while (!again.isDone) again.advance(64);
      expect(again.shaped).toEqual(own.shaped.values);
    }
  });

  it("are the same live as in the whole sound, late by the stated latency", () => {
    const live = new LiveStrand({ ...level, part: "percussive" });
    const other = new LiveStrand({ ...level, part: "harmonic" });
    const listening = new LiveListening();
    const heard: number[] = [];
    const lasting: number[] = [];
    for (let at = 0; at + HOP_SAMPLES <= samples.length; at += HOP_SAMPLES)
      listening.take(samples.subarray(at, at + HOP_SAMPLES), [live, other], () => {
        heard.push(live.raw[0]);
        lasting.push(other.raw[0]);
      });
    const lateS = windowLatencyS(level.measure, "percussive");
    expect(lateS).toBeCloseTo(windowLatencyS(level.measure) + PART_DELAY / 48_000, 9);
    const whole = (part: "percussive" | "harmonic", instant: number) => {
      const stretch = partOf(part).subarray(instant - 240, instant + 240);
      return Math.sqrt(stretch.reduce((sum, x) => sum + x * x, 0) / 480);
    };
    for (let hop = 50; hop < heard.length; hop++) {
      const instant = Math.round((hop + 1) * HOP_SAMPLES - lateS * 48_000);
      expect(heard[hop]).toBeCloseTo(whole("percussive", instant), 5);
      expect(lasting[hop]).toBeCloseTo(whole("harmonic", instant), 5);
    }
  });

  it("are heard by strands whose measure reads samples", () => {
    const scene = newScene("Quay");
    const listensTo = { kind: "sound", id: "song", tap: "before", part: "harmonic" } as const;
    const tuning = tuningOf(scene, newStrand(scene, "a", "A", listensTo, level.measure));
    expect(tuning.part).toBe("harmonic");
    expect(analyseStrand({ samples }, tuning, new DirectSpectra()).raw[100]).toBeCloseTo(0.3 / Math.SQRT2, 1);
    const beats = { beatAt: (timeS: number) => timeS, barPhase: () => 0, ticks: () => [] };
    const ticking = { ...tuning, measure: MEASURES.ticks.defaults };
    expect(analyseStrand({ samples, beats }, ticking, new DirectSpectra()).raw[50]).toBe(0);
  });
});
