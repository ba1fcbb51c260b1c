import { describe, expect, it } from "@jest/globals";
import { PITCH_CLASS_RANGE, PITCH_CLASSES, readBands } from "../../dsp/spectrum/fanBands";
import { noteHz } from "../../dsp/tone/note";
import { makeNoise } from "../../dsp/tone/tone";
import { DirectSpectra } from "../hearing/spectra";
import { columnNames } from "../tables";
import { MEASURES, type MeasureOf, measureSound, windowLatencyS } from "./table";

const CLASSES: MeasureOf<"fan"> = { ...MEASURES.fan.defaults, layout: "pitchClasses", ...PITCH_CLASS_RANGE };

/** Sines of notes, each of a level. */
const notes = (all: readonly [note: number, level: number][], seconds = 1) =>
  Float32Array.from({ length: seconds * 48_000 }, (_none, i) =>
    all.reduce((sum, [note, level]) => sum + level * Math.sin((2 * Math.PI * noteHz(note) * i) / 48_000), 0),
  );
/** The numbers in the middle of a sound of a second. */
const classesOf = (samples: Float32Array, measure = CLASSES) =>
  measureSound({ samples }, measure, new DirectSpectra()).subarray(50 * 12, 51 * 12);
const db = (level: number) => 20 * Math.log10(level);

describe("a fan of pitch classes", () => {
  it.each([48, 55, 61, 69, 74, 82, 88, 95])(
    "hears note %d in its class, at its level, and little in the others",
    (note) => {
      const classes = classesOf(notes([[note, 0.5]]));
      expect(Math.abs(db(classes[note % 12] / 0.5))).toBeLessThan(1);
      // Below C4 a semitone is narrower than what a spectrum of a sine covers.
      const far = note < 60 ? [2, 3, 4, 5, 6] : [1, 2, 3, 4, 5, 6];
      for (const apart of far)
        for (const other of [note + apart, note - apart])
          expect(db(classes[((other % 12) + 12) % 12] / 0.5)).toBeLessThan(apart === 1 ? -12 : -30);
    },
  );

  it("adds up the powers of all octaves, takes their mean, or the strongest", () => {
    const samples = notes([
      [57, 0.1],
      [69, 0.2],
      [81, 0.2],
    ]);
    expect(classesOf(samples)[9]).toBeCloseTo(0.3, 2);
    const strongest = classesOf(samples, { ...CLASSES, combine: "max" })[9];
    expect(strongest).toBeGreaterThan(0.15);
    expect(strongest).toBeLessThan(0.2);
    const mean = classesOf(samples, { ...CLASSES, combine: "mean" });
    expect(mean.indexOf(Math.max(...mean))).toBe(9);
  });

  it("tells a chord: its three classes are the strongest, whatever octaves they are in", () => {
    const classes = classesOf(
      notes([
        [50, 0.1],
        [66, 0.1],
        [81, 0.1],
      ]),
    );
    const order = [...classes.keys()].sort((a, b) => classes[b] - classes[a]).map((i) => PITCH_CLASSES[i]);
    expect(new Set(order.slice(0, 3))).toEqual(new Set(["D", "F#", "A"]));
    expect(
      db(classes[PITCH_CLASSES.indexOf(order[2])] / classes[PITCH_CLASSES.indexOf(order[3])]),
    ).toBeGreaterThan(9);
  });

  it("holds all the power of its range", () => {
    const samples = makeNoise("white", 48_000, 2, 0.5);
    const classes = classesOf(samples);
    const bands = readBands(CLASSES);
    // Its range in one band of white noise: the power follows the width.
    const share = (bands[bands.length - 1].highHz - bands[0].lowHz) / 24_000;
    const power = samples.reduce((sum, x) => sum + x * x, 0) / samples.length;
    const heard = classes.reduce((sum, level) => sum + level * level, 0);
    expect(Math.abs(10 * Math.log10(heard / (2 * power * share)))).toBeLessThan(1.5);
  });

  it("names its columns by their notes", () => {
    expect(columnNames("band", CLASSES, 12)).toEqual(PITCH_CLASSES.map((name) => `band ${name}`));
  });

  it("is silent where no semitone lies, and comes half its longest FFT late", () => {
    const samples = notes([[69, 0.5]]);
    expect([...classesOf(samples, { ...CLASSES, lowHz: 450, highHz: 455 })]).toEqual(Array(12).fill(0));
    expect(windowLatencyS(CLASSES)).toBeCloseTo(8192 / 48_000, 6);
    expect(() => classesOf(samples, { ...CLASSES, lowHz: 500, highHz: 400 })).toThrow(RangeError);
  });
});
