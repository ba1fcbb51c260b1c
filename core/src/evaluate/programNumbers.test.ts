import { describe, expect, it } from "@jest/globals";
import type { Scene } from "../document/scene";
import { newStrand } from "../document/strands/newStrand";
import { newObject, newScene } from "../kinds/create";
import { giveProgram } from "../kinds/programs";
import { MEMORY_COLUMNS, MEMORY_ROWS, WAVE_SAMPLES } from "../program/offers/memory";

import { type Track, trackValueAt } from "../strand/track";
import { type NumberSource, ProgramNumbers } from "./programNumbers";

const CODE = "uniform Strand beat;\nuniform Fan bands;\nuniform Sound music;\nvoid paint(inout Surface s) {}";
const FRAMES = 3000;
const beat: Track = {
  width: 1,
  values: Float32Array.from({ length: FRAMES }, (_, i) => Math.sin(i / 7) ** 2),
};
const bands: Track = { width: 8, values: Float32Array.from({ length: FRAMES * 8 }, (_, i) => (i % 97) / 97) };
/** 1 kHz at half of full scale. */
const samples = Float32Array.from({ length: 48_000 * 30 }, (_, i) => 0.5 * Math.sin((2 * Math.PI * i) / 48));

function scene(): Scene {
  const made = newScene("Quay");
  for (const id of ["s", "f"]) made.strands.push(newStrand(made, id, id, { kind: "nothing" }));
  made.strands[1].measure = { ...made.strands[1].measure, kind: "fan" } as never;
  made.programs.push({ id: "p", name: "P", kind: "surface", code: CODE, draft: null });
  const object = newObject("o", "box", "O");
  giveProgram(object, made.programs[0]);
  object.links = { "program:beat": "s", "program:bands": "f", "program:music": "m" };
  made.objects.push(object);
  return made;
}
const source = (timeS: number): NumberSource => ({
  timeS,
  trackOf: (id) => ({ s: beat, f: bands })[id],
  waves: new Map([["m", { samples, indexAt: (atS) => atS * 48_000 }]]),
});

function laidOut(): ProgramNumbers {
  const numbers = new ProgramNumbers();
  const one = scene();
  one.strands[1].measure = newStrand(one, "x", "x", { kind: "nothing" }).measure;
  expect(numbers.layOut(one, (id) => (id === "s" ? 1 : 8))).toBe(true);
  return numbers;
}
const at = ({ numbers }: ProgramNumbers, frame: number, column: number) =>
  numbers[(frame % MEMORY_ROWS) * MEMORY_COLUMNS + column];

describe("numbers that programs read", () => {
  it("are those of the tracks, now and for ten seconds back", () => {
    const numbers = laidOut();
    numbers.fill(source(20));
    for (const frame of [1000, 1001, 1500, 1999, 2000, 2001]) {
      expect(at(numbers, frame, numbers.columnsOf("s")!.first)).toBe(
        Math.fround(trackValueAt(beat, frame / 100)),
      );
      for (const band of [0, 3, 7]) {
        expect(at(numbers, frame, numbers.columnsOf("f")!.first + band)).toBe(
          Math.fround(trackValueAt(bands, frame / 100, band)),
        );
      }
    }
  });

  it("are the same after playing as after a seek, and playing changes few rows", () => {
    const played = laidOut();
    played.fill(source(15));
    for (let frame = 1; frame <= 60; frame++) {
      const changed = played.fill(source(15 + frame / 60));
      const rows = changed.reduce((sum, [from, to]) => sum + to - from, 0);
      expect(rows).toBeLessThanOrEqual(5);
    }
    const sought = laidOut();
    sought.fill(source(16));
    for (let frame = 610; frame <= 1601; frame++) {
      for (let column = 0; column < 9; column++) {
        expect(at(played, frame, column)).toBe(at(sought, frame, column));
      }
    }
    expect(played.spectra[0].subarray(0, 4096)).toEqual(sought.spectra[0].subarray(0, 4096));
  });

  it("have the level of a sine at its frequency, and its waveform around now", () => {
    const numbers = laidOut();
    numbers.fill(source(12));
    const row = numbers.spectra[0].subarray(
      (1200 % MEMORY_ROWS) * MEMORY_COLUMNS,
      ((1200 % MEMORY_ROWS) + 1) * MEMORY_COLUMNS,
    );
    const peak = row.indexOf(row.reduce((a, b) => Math.max(a, b)));
    // Bands lie evenly between 20 and 20 000 Hz; a bin is 23 Hz wide.
    expect(20 * 1000 ** (peak / (MEMORY_COLUMNS - 1))).toBeGreaterThan(960);
    expect(20 * 1000 ** (peak / (MEMORY_COLUMNS - 1))).toBeLessThan(1040);
    expect(row[peak]).toBeGreaterThan(0.42);
    expect(row[peak]).toBeLessThan(0.51);
    expect(row[40]).toBeLessThan(0.01);
    for (const k of [0, 100, 511]) {
      expect(numbers.waves[WAVE_SAMPLES / 2 + k]).toBeCloseTo(0.5 * Math.sin((2 * Math.PI * k) / 48), 4);
    }
  });

  it("are 0 where there is nothing to read", () => {
    const numbers = laidOut();
    numbers.fill({ timeS: 3, trackOf: () => undefined, waves: new Map() });
    expect(numbers.numbers.every((one) => one === 0)).toBe(true);
    expect(numbers.spectra[0].every((one) => one === 0)).toBe(true);
    expect(numbers.columnsOf("nobody")).toBeUndefined();
    expect(numbers.soundOf("nobody")).toBe(-1);
  });
});
