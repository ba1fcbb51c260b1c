import { beforeAll, describe, expect, test } from "@jest/globals";
import { analyseScene } from "../../analyse/tracks";
import { newStrand } from "../../document/strands/newStrand";
import { newScene } from "../../kinds/create";
import { loadScripts } from "../../program/scripts/loadScripts";
import { newSound } from "../../sound/create";
import { runScriptsInline } from "../../testing/inlineScripts";
import { CombinedLive, LIVE_HISTORY, LiveCursor, LiveStrand } from "../hearing/live";
import type { Signal } from "../hearing/signal";
import { DirectSpectra } from "../hearing/spectra";
import { defaultShaping } from "../shape/shaping";
import { MEASURES, type Measure, measureSound } from "./table";

beforeAll(async () => {
  await loadScripts();
  runScriptsInline();
});

const measureOf = (more: Partial<Extract<Measure, { kind: "program" }>> = {}): Measure => ({
  ...MEASURES.program.defaults,
  programId: "p",
  ...more,
});
const next = (body: string) => `function next(moment: Moment, set: Exposed) { ${body} }`;
const SECOND = 48_000;
const sine = (hz: number, level = 0.5): Float32Array =>
  Float32Array.from({ length: SECOND }, (_, i) => level * Math.sin((2 * Math.PI * hz * i) / SECOND));
const read = (code: string, signal: Partial<Signal>, more = {}) =>
  measureSound(
    { samples: new Float32Array(0), ...signal, code } as Signal,
    measureOf(more),
    new DirectSpectra(),
  );

describe("numbers of a program", () => {
  test("follow the level of a sound at a frequency", () => {
    const numbers = read(next("return moment.sound.level(1000);"), { samples: sine(1000) });
    expect(numbers.length).toBe(100);
    // A sine of half the full scale reads 0.5, but for what lies between two bins.
    expect(numbers[50]).toBeGreaterThan(0.42);
    expect(numbers[50]).toBeLessThan(0.51);
    expect(read(next("return moment.sound.level(4000);"), { samples: sine(1000) })[50]).toBeLessThan(0.001);
  });

  test("follow the wave itself", () => {
    const samples = sine(100);
    const numbers = read(next("return moment.sound.wave(2.5);"), { samples });
    // 2.5 ms are 120 samples, a quarter of the wave.
    for (const frame of [10, 37, 80]) expect(numbers[frame]).toBeCloseTo(samples[frame * 480 + 120], 5);
  });

  test("are made of other strands, as they are and were", () => {
    const track = { width: 1, values: Float32Array.from({ length: 100 }, (_, i) => i / 100) };
    const fan = { width: 2, values: Float32Array.from({ length: 200 }, (_, i) => (i % 2 === 0 ? 0.2 : 0.6)) };
    const code = next(
      "const [one, row] = moment.strands; return one.value - one.before(0.2) + 10 * row.at(0.5) + 100 * row.length;",
    );
    const numbers = read(code, { strands: [track, fan], frames: 100 });
    expect(numbers[60]).toBeCloseTo(0.2 + 4 + 200, 4);
  });

  test("a row of them is a fan", () => {
    const numbers = read(
      `const bands = 3;\n${next("return [0.1, 0.2, moment.time];")}`,
      { samples: sine(50) },
      { bands: 3 },
    );
    expect(numbers.length).toBe(300);
    expect([...numbers.subarray(150, 153)].map((one) => Math.round(one * 100) / 100)).toEqual([
      0.1, 0.2, 0.5,
    ]);
  });

  test("settings reach the code, within their limits", () => {
    const code = `interface Exposed {\n  beats: Whole; // 2 to 8, default 4: Beats in a bar.\n}\n${next("return set.beats;")}`;
    expect(read(code, { samples: sine(50) })[3]).toBe(4);
    expect(read(code, { samples: sine(50) }, { values: { beats: 3 } })[3]).toBe(3);
    expect(read(code, { samples: sine(50) }, { values: { beats: 99 } })[3]).toBe(8);
  });

  test("live they are the same as over the whole sound, half a spectrum later", () => {
    const samples = sine(440);
    const code = next(
      "moment.memory.n = (moment.memory.n ?? 0) + 1; return moment.memory.n + moment.sound.level(440);",
    );
    const whole = read(code, { samples });
    const live = new LiveStrand({
      measure: measureOf(),
      shaping: { ...newStrand(newScene("S"), "s", "S", { kind: "nothing" }).shaping },
      code,
    });
    const cursor = new LiveCursor();
    const padded = new Float32Array(LIVE_HISTORY + SECOND);
    padded.set(samples, LIVE_HISTORY);
    const given: number[] = [];
    for (let end = LIVE_HISTORY; end <= padded.length; end += 480) {
      cursor.push(padded.subarray(end - LIVE_HISTORY, end));
      live.readSamples(cursor);
      given.push(live.raw[0]);
    }
    expect(given[60] - 61).toBeCloseTo(whole[50] - 51, 2);
  });

  test("live they are made of other strands as they come, and give 0 once they fail", () => {
    const { shaping } = newStrand(newScene("S"), "s", "S", { kind: "nothing" });
    const live = new CombinedLive({
      measure: measureOf(),
      shaping,
      code: next("if (moment.strands[0].value > 0.6) throw new Error('x'); return moment.strands[0].value;"),
    });
    const source = { width: 1, values: Float32Array.of(0.4) };
    live.readStrands([source], 1);
    expect(live.raw[0]).toBeCloseTo(0.4);
    source.values[0] = 0.9;
    live.readStrands([source], 1.01);
    expect(live.raw[0]).toBe(0);
  });

  test("of a scene are shaped, and strands made of them follow; a program that fails says so", async () => {
    const scene = newScene("S");
    scene.sounds = [newSound("tone", "t", "Tone")];
    const strand = newStrand(scene, "a", "A", { kind: "sound", id: "t", tap: "before" });
    strand.measure = measureOf();
    strand.shaping = defaultShaping("share");
    const made = newStrand(scene, "b", "B", { kind: "strands", ids: ["a"] });
    made.measure = { ...MEASURES.maximum.defaults };
    made.shaping = defaultShaping("share");
    scene.strands = [strand, made];
    scene.programs = [{ id: "p", name: "P", kind: "number", code: next("return 0.25;"), draft: null }];
    const analyse = () => analyseScene(scene, () => undefined, scene.strands);
    const { numbers } = await analyse();
    expect(numbers.get("a")!.raw[20]).toBe(0.25);
    expect(numbers.get("b")!.shaped[20]).toBeCloseTo(0.25, 5);
    scene.programs[0].code = next("if (moment.step === 30) throw new Error('Fog'); return 1;");
    expect((await analyse()).failures.get("a")).toBe("Fog.");
    strand.measure = measureOf({ programId: "gone" });
    expect((await analyse()).failures.get("a")).toContain("no program");
  });
});
