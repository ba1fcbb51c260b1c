import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { parseMidi } from "midi-file";
import { writeCueMidi } from "../format/samples/cueMidi";
import { readMidi } from "../format/samples/midi";
import { readTable } from "../format/table";
import type { Cue } from "../sound/cue";
import { CuePicker, type CueSettings, defaultCues, pickCues } from "./cues";
import { MEASURES } from "./measures/table";
import { columnNames, cueLabels, cueTable, strandTable } from "./tables";

const settings = (change: Partial<CueSettings>): CueSettings => ({
  ...defaultCues(),
  on: true,
  gapMs: 0,
  ...change,
});
const times = (values: number[], change: Partial<CueSettings>, width = 1) =>
  pickCues(Float32Array.from(values), width, settings(change)).map(
    ({ timeS }) => Math.round(timeS * 1e4) / 1e4,
  );

describe("cues", () => {
  it("come where the number crosses the mark, and again only after it has fallen below by the slack", () => {
    const values = [0, 0.4, 0.6, 0.45, 0.7, 0.3, 0.5, 0.9];
    expect(times(values, { rule: "rise", mark: 0.5, slack: 0.1 })).toEqual([0.015, 0.06]);
    expect(times(values, { rule: "rise", mark: 0.5, slack: 0 })).toEqual([0.015, 0.032, 0.06]);
    expect(times([0.8, 0.9], { rule: "rise", mark: 0.5 })).toEqual([0]);
  });

  it("come at sudden rises", () => {
    expect(times([0, 0.1, 0.5, 0.6, 0.2, 0.55], { rule: "jump", rise: 0.3 })).toEqual([0.02, 0.05]);
  });

  it("come at peaks above an adaptive threshold", () => {
    const values = Array.from({ length: 300 }, (_, i) => 0.1 + 0.02 * Math.sin(i * 2.3));
    for (const at of [60, 150, 240]) values[at] = 0.5;
    values[100] = 0.16;
    expect(times(values, { rule: "peak", mark: 0.05, sensitivity: 6 })).toEqual([0.6, 1.5, 2.4]);
    expect(times(values, { rule: "peak", mark: 0.3, sensitivity: 0 })).toEqual([0.6, 1.5, 2.4]);
    // Louder all through, the same peaks do not stand out.
    expect(
      times(
        values.map((x, i) => x + (i % 2 === 0 ? 0.5 : 0)),
        { rule: "peak", mark: 0.05, sensitivity: 20 },
      ),
    ).toEqual([]);
  });

  it("keep the minimum gap, and are as strong as the peak within 50 ms", () => {
    const values = [0, 1, 0, 1, 0, 0, 0, 1];
    expect(times(values, { rule: "jump", rise: 0.5, gapMs: 30 })).toEqual([0.01, 0.07]);
    const [cue] = pickCues(
      Float32Array.of(0, 0.55, 0.7, 0.8, 0.6, 0.1, 0.1, 0.9),
      1,
      settings({ mark: 0.5 }),
    );
    expect(cue.strength).toBeCloseTo(0.8, 6);
  });

  it("are taken from a fan's largest band, and are none while switched off", () => {
    expect(times([0, 0, 0, 0.9, 0.1, 0], { mark: 0.5 }, 2)).toEqual([0.0056]);
    expect(pickCues(Float32Array.of(0, 1), 1, defaultCues())).toEqual([]);
  });

  it("are the same one frame at a time, late by the stated latency", () => {
    const value = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(
        fc.array(value, { maxLength: 200 }),
        fc.constantFrom("rise", "jump", "peak"),
        (values, rule) => {
          const all = pickCues(Float32Array.from(values), 1, settings({ rule, mark: 0.4 }));
          const picker = new CuePicker(settings({ rule, mark: 0.4 }));
          const live: Cue[] = [];
          values.forEach((x, frame) => {
            const cue = picker.push(Math.fround(x));
            if (!cue) return;
            live.push(cue);
            const lateS = frame / 100 - cue.timeS;
            expect(lateS).toBeGreaterThanOrEqual(picker.latencyFrames / 100 - 1e-9);
            expect(lateS).toBeLessThanOrEqual((picker.latencyFrames + 1) / 100 + 1e-9);
          });
          expect(all.slice(0, live.length)).toEqual(live);
          expect(all.every(({ timeS }, i) => i === 0 || timeS >= all[i - 1].timeS)).toBe(true);
        },
      ),
    );
  });
});

describe("tables", () => {
  const cues = [
    { timeS: 0.5, strength: 1 },
    { timeS: 1.25, strength: 0.25 },
    { timeS: 1.2601, strength: 0.5 },
  ];

  it("goes out as a Standard MIDI File that reads back to within a millisecond", () => {
    const { notes } = readMidi(
      writeCueMidi([
        { name: "Snare", note: 38, cues },
        { name: "None", note: 40, cues: [] },
      ]),
    );
    expect(notes.map(({ note }) => note)).toEqual([38, 38, 38]);
    notes.forEach(({ timeS, velocity }, i) => {
      expect(Math.abs(timeS - cues[i].timeS)).toBeLessThan(0.001);
      expect(velocity).toBeCloseTo(cues[i].strength, 2);
    });
    expect(notes[1].endS).toBeLessThanOrEqual(notes[2].timeS + 1e-9);
  });

  it("goes out beside the numbers of its strand, as controllers that are told when they change", () => {
    const values = Float32Array.of(0, 1, 0.5, 1, 0.5, 1, 2, 0);
    const bytes = writeCueMidi([{ name: "Row", note: 36, cues, numbers: { width: 2, values } }]);
    const [, track] = parseMidi(bytes).tracks;
    let at = 0;
    const told = track.flatMap((event) => {
      at += event.deltaTime;
      return event.type === "controller" ? [[at, event.controllerType, event.value, event.channel]] : [];
    });
    // 1920 ticks a second: a frame is 19.2 of them.
    expect(told).toEqual([
      [0, 20, 0, 0],
      [0, 21, 127, 0],
      [19, 20, 64, 0],
      [58, 20, 127, 0],
      [58, 21, 0, 0],
    ]);
    expect(readMidi(bytes).notes).toHaveLength(3);
  });

  it("goes out as CSV and as labels", () => {
    expect(cueTable(cues)).toBe("time_s,strength\n0.5000,1\n1.2500,0.25\n1.2601,0.5\n");
    expect(cueLabels("Snare\thit", cues.slice(0, 1))).toBe("0.5000\t0.5000\tSnare hit\n");
  });

  it("writes strands as they are, loudness in LUFS, fans a column a band, and reads them back", () => {
    const fan = { ...MEASURES.fan.defaults, layout: "equal" as const, bands: 2, lowHz: 0, highHz: 8000 };
    const csv = strandTable([
      {
        name: 'The "big", one',
        measure: MEASURES.momentary.defaults,
        raw: Float32Array.of(0, 0.1),
        shaped: Float32Array.of(0, 0.5),
        width: 1,
      },
      {
        name: "Row",
        measure: fan,
        raw: Float32Array.of(0.1, 0.2, 0.3, 0.4),
        shaped: Float32Array.of(0, 0, 0.5, 1),
        width: 2,
      },
    ]);
    const [head, first, second] = csv.split("\n");
    expect(head).toBe(
      'time_s,"The ""big"", one raw","The ""big"", one shaped",Row raw 1 2000 Hz,Row raw 2 6000 Hz,Row shaped 1 2000 Hz,Row shaped 2 6000 Hz',
    );
    expect(first).toBe("0.00,-200,0,0.100000001,0.200000003,0,0");
    expect(second.split(",").map((x) => Number(Number(x).toFixed(5)))).toEqual([
      0.01, -20, 0.5, 0.3, 0.4, 0.5, 1,
    ]);
    const table = readTable(new TextEncoder().encode(csv), "numbers.csv");
    expect(table.columns.map(({ name }) => name)).toEqual([
      'The "big", one raw',
      'The "big", one shaped',
      ...columnNames("Row raw", fan, 2),
      ...columnNames("Row shaped", fan, 2),
    ]);
    expect([...table.columns[4].values]).toEqual([0, 0.5]);
    expect(table.durationS).toBeCloseTo(0.02, 9);
  });

  it("reads any rising times, linear between them", () => {
    const table = readTable(
      new TextEncoder().encode("\uFEFFa,time_s\r\n0,0\r\n1,0.1\r\n0.5,0.2\r\n"),
      "t.csv",
    );
    expect(
      [...table.columns[0].values].map((x) => Math.round(x * 1000) / 1000).filter((_, i) => i % 5 === 0),
    ).toEqual([0, 0.5, 1, 0.75, 0.5]);
  });

  it.each([
    ["time,a\n0,1", /line 1: there is no column "time_s"/],
    ["time_s\n0", /no column beside/],
    ["time_s,a\n", /no rows/],
    ["time_s,a\n0,1\n0,2", /line 3: its time does not come after/],
    ["time_s,a\n0,x", /line 2, a: "x" is not a number/],
    ["time_s,a\n0", /line 2: it has 1 fields/],
    ["time_s,a\n90000,1", /beyond 6 hours/],
  ])("says what is wrong in %j", (text, words) => {
    expect(() => readTable(new TextEncoder().encode(text), "t.csv")).toThrow(words);
  });
});
