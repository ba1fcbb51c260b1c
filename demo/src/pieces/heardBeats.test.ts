import { HOP_SAMPLES } from "@bumbrel/core/constants";
import { seededRandom } from "@bumbrel/core/dsp/maths/random";
import { makeNoise, makeTone } from "@bumbrel/core/dsp/tone/tone";
import { LiveListening, LiveStrand } from "@bumbrel/core/strand/hearing/live";
import { DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { MEASURES, measureSound } from "@bumbrel/core/strand/measures/table";
import { defaultShaping } from "@bumbrel/core/strand/shape/shaping";
import { casesOf, itInFull } from "@bumbrel/core/testing/full";
import { describe, expect, it } from "@jest/globals";
import { kick, pad, pluck, snare } from "../music/voices";
import { BEAT_STYLES, type BeatStyle, makeBeatPiece } from "./beatPieces";
import { makeDrumPiece } from "./drumPiece";
import { beatsOf, scoreBeats } from "./heardBeats";

const STYLES = Object.keys(BEAT_STYLES) as BeatStyle[];
const seconds = (count: number) => count * 48_000;

describe("beats that are heard", () => {
  it.each(
    casesOf(
      STYLES.map((style, i) => [style, [75, 100, 124][i % 3], i] as const),
      2,
    ),
  )("are those of %s at %d beats a minute, within a few milliseconds", (style, bpm, seed) => {
    const piece = makeBeatPiece({ style, bpm, seed: 40 + seed, lengthS: 14 });
    const beats = beatsOf(piece.samples);
    const { f, offMs } = scoreBeats(piece, beats);
    expect(f).toBeGreaterThan(0.95);
    offMs.sort((a, b) => a - b);
    expect(Math.abs(offMs[offMs.length >> 1])).toBeLessThan(3);
    expect(Math.max(...offMs.map(Math.abs))).toBeLessThan(15);
    expect(Math.min(...beats.map(({ certainty }) => certainty))).toBeGreaterThan(0.4);
  });

  it.each([
    ["backbeat", 100, 4],
    ["syncopated", 124, 4],
    ["waltz", 87, 3],
    ["jig", 124, 6],
  ] as const)("of a %s at %d are in bars of %d", (style, bpm, beatsPerBar) => {
    const piece = makeBeatPiece({ style, bpm, seed: 5, lengthS: 14 });
    const { f, barsF } = scoreBeats(piece, beatsOf(piece.samples, beatsPerBar));
    expect(f).toBeGreaterThan(0.95);
    expect(barsF).toBeGreaterThan(0.85);
  });

  it.each(casesOf([96, 60, 156, 180], 1))("of drums with a tune are found at %d BPM", (bpm) => {
    const { samples } = makeDrumPiece({ seed: bpm, bpm, gainDb: -12, bars: 6 });
    const beats = beatsOf(samples);
    expect(Math.abs(beats.length - 24)).toBeLessThanOrEqual(2);
    for (const { at } of beats) {
      const beat = (at / 100) * (bpm / 60);
      expect((Math.abs(beat - Math.round(beat)) * 60) / bpm).toBeLessThan(0.02);
    }
  });

  it("are the same at any loudness", () => {
    const { samples } = makeBeatPiece({ style: "backbeat", bpm: 100, seed: 3, lengthS: 12 });
    const quiet = samples.map((value) => value / 30);
    const offFrames = (a: readonly { at: number }[], b: readonly { at: number }[]) =>
      Math.max(...a.map(({ at }, i) => Math.abs(at - b[i].at)));
    const [loud, low] = [beatsOf(samples), beatsOf(quiet)];
    expect(low).toHaveLength(loud.length);
    expect(offFrames(loud, low)).toBeLessThan(1);
  });

  itInFull(
    "are not certain in noise, in tones and chords, in hits at random, and there are none in silence",
    () => {
      const random = seededRandom(5);
      const hits = makeNoise("pink", seconds(12), 3, 0.01);
      for (let timeS = 0; timeS < 11; timeS += 0.1 + 0.8 * random()) {
        const target = { samples: hits, start: Math.round(seconds(timeS)) };
        const which = random();
        if (which < 0.3) kick(target, 0.7);
        else if (which < 0.6) snare(target, 0.5, random);
        else pluck(target, 200 + 600 * random(), 0.4, random);
      }
      const chords = new Float32Array(seconds(12));
      for (let timeS = 0; timeS < 11; timeS += 2.1) {
        pad({ samples: chords, start: Math.round(seconds(timeS)) }, [220, 277, 330], 2.5, 0.4);
      }
      const sounds = {
        white: makeNoise("white", seconds(12), 1, 0.3),
        pink: makeNoise("pink", seconds(12), 1, 0.3),
        brown: makeNoise("brown", seconds(12), 1, 0.3),
        sine: makeTone("sine", 440, seconds(12), 0.5),
        sawtooth: makeTone("sawtooth", 110, seconds(12), 0.5),
        hits,
        chords,
        silence: new Float32Array(seconds(12)),
      };
      for (const [name, samples] of Object.entries(sounds)) {
        const sure = beatsOf(samples).map(({ certainty }) => certainty);
        const mean = sure.reduce((sum, one) => sum + one, 0) / Math.max(1, sure.length);
        expect([name, mean < 0.2, mean]).toEqual([name, true, mean]);
      }
      const phase = measureSound({ samples: sounds.white }, MEASURES.beatPhase.defaults, new DirectSpectra());
      expect(phase.filter((value) => value > 0).length / phase.length).toBeLessThan(0.2);
      expect(
        [...measureSound({ samples: sounds.silence }, MEASURES.barPhase.defaults, new DirectSpectra())].every(
          (value) => value === 0,
        ),
      ).toBe(true);
    },
  );

  it.each(
    casesOf(
      [
        ["backbeat", 100],
        ["four on the floor", 124],
        ["accelerando", 87],
      ] as const,
      1,
    ),
  )("live are those of %s at %d, from a quarter of a minute on", (style, bpm) => {
    const piece = makeBeatPiece({ style, bpm, seed: 7, lengthS: 24 });
    const strand = new LiveStrand({ measure: MEASURES.beatPhase.defaults, shaping: defaultShaping("share") });
    const listening = new LiveListening();
    const phase: number[] = [];
    for (let at = 0; at + HOP_SAMPLES <= piece.samples.length; at += HOP_SAMPLES) {
      listening.take(piece.samples.subarray(at, at + HOP_SAMPLES), [strand]);
      phase.push(strand.raw[0]);
    }
    const heardS = phase.flatMap((value, i) => (i > 0 && value < phase[i - 1] - 0.5 ? [i / 100] : []));
    const late = piece.beatsS.filter((timeS) => timeS > 14);
    const met = late.filter((timeS) => heardS.some((one) => Math.abs(one - timeS) < 0.04));
    expect(met.length / late.length).toBeGreaterThan(0.9);
    expect(heardS.filter((timeS) => timeS > 14).length).toBeLessThan(1.1 * late.length + 1);
  });
});
