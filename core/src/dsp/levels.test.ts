import { describe, expect, it } from "@jest/globals";
import { SAMPLE_RATE_HZ } from "../constants";
import { dbToLevel, FADER_OFF_DB, faderGain } from "./level/decibel";
import { mixToMono } from "./level/mix";
import { BAND_PRINT_COLUMNS, bandPrint, waveformPairs } from "./level/overview";
import {
  axisToHz,
  type FrequencyAxis,
  hzToAxis,
  SPECTROGRAM_FLOOR_DB,
  spectrogram,
} from "./spectrum/spectrogram";

describe("faderGain", () => {
  it("follows dB down to −60 and falls straight to true zero", () => {
    expect(faderGain(0)).toBe(1);
    expect(faderGain(6)).toBeCloseTo(1.9953, 4);
    expect(faderGain(-60)).toBeCloseTo(0.001, 12);
    expect(faderGain(-63)).toBeCloseTo(0.0005, 12);
    expect(faderGain(FADER_OFF_DB)).toBe(0);
    expect(faderGain(Number.NaN)).toBe(0);
  });
});

describe("mixToMono", () => {
  it("takes the mean and counts bad samples as 0", () => {
    const mix = mixToMono([
      Float32Array.of(1, Number.NaN, 0.5),
      Float32Array.of(0, 0.5, Number.POSITIVE_INFINITY),
    ]);
    expect([...mix.samples]).toEqual([0.5, 0.25, 0.25]);
    expect(mix.badSampleCount).toBe(2);
  });

  it("refuses channels of different length", () => {
    expect(() => mixToMono([new Float32Array(2), new Float32Array(3)])).toThrow(/equally long/);
    expect(() => mixToMono([])).toThrow(/at least one/);
  });
});

describe("drawings", () => {
  const sine = (hz: number) =>
    Float32Array.from(
      { length: SAMPLE_RATE_HZ },
      (_, i) => 0.5 * Math.sin((2 * Math.PI * hz * i) / SAMPLE_RATE_HZ),
    );
  const axes: FrequencyAxis[] = [
    { kind: "log", lowHz: 30, highHz: 16_000 },
    { kind: "linear", lowHz: 0, highHz: 16_000 },
  ];

  it("keeps the extremes of each stretch of a waveform", () => {
    const samples = new Float32Array(1000);
    samples[10] = 0.9;
    samples[990] = -0.4;
    const overview = waveformPairs(samples);
    expect([...overview]).toEqual([0, Math.fround(0.9), 0, 0, Math.fround(-0.4), 0]);
    expect(waveformPairs(new Float32Array(0))).toHaveLength(0);
  });

  it.each(axes)("puts a tone on its own row of a $kind spectrogram at its own level", (axis) => {
    const rows = 64;
    const bytes = spectrogram(sine(2000), 40, 2, rows, axis);
    const column = [...bytes.subarray(rows, 2 * rows)];
    const loudest = column.indexOf(Math.max(...column));
    const share = hzToAxis(axis, 2000) * rows;
    expect(Math.abs(loudest + 0.5 - share)).toBeLessThan(1.01);
    const db = (1 - column[loudest] / 255) * SPECTROGRAM_FLOOR_DB;
    expect(Math.abs(db - 20 * Math.log10(0.5))).toBeLessThan(3);
    expect(Math.abs(axisToHz(axis, hzToAxis(axis, 777)) - 777)).toBeLessThan(1e-6);
  });

  it("prints a tone as one tall column and silence as nothing", () => {
    const print = bandPrint(sine(1000));
    const expected = Math.floor((Math.log(1000 / 30) / Math.log(16_000 / 30)) * BAND_PRINT_COLUMNS);
    expect(print.indexOf(1)).toBe(expected);
    expect(print.filter((height) => height > 0.5).length).toBeLessThan(5);
    expect(bandPrint(new Float32Array(4800))).toEqual(new Array(BAND_PRINT_COLUMNS).fill(0));
    expect(dbToLevel(-20)).toBeCloseTo(0.1, 12);
  });
});
