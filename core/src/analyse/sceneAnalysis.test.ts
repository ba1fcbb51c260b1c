import { beforeEach, describe, expect, it } from "@jest/globals";
import type { ListensTo, Scene } from "../document/scene";
import { newStrand } from "../document/strands/newStrand";
import { makeNoise } from "../dsp/tone/tone";
import { newScene } from "../kinds/create";
import { newSoundBasics, type Sound } from "../sound/kinds";
import type { Advice, Health } from "../strand/health";
import type { Signal } from "../strand/hearing/signal";
import { DirectSpectra } from "../strand/hearing/spectra";
import { MEASURES, type Measure, measureSound } from "../strand/measures/table";
import type { Measurers, ReadElsewhere } from "./measurers";
import { type NoNumbers, SceneAnalysis, type StrandNumbers } from "./sceneAnalysis";
import { analyseStrand } from "./strandAnalysis";

const samples = makeNoise("pink", 48_000 * 4, 4, 0.5);
const data = { channels: [samples], mono: samples };
const sound = (id: string, change: object = {}): Sound => ({
  ...newSoundBasics(id, id),
  kind: "file",
  storedId: id,
  ...change,
});
const own = (id: string): ListensTo => ({ kind: "sound", id, tap: "before" });

let numbers: StrandNumbers[];
let none: { strandId: string; why: NoNumbers }[];
let health: { strandId: string; health: Health; advice: Advice[] }[];
let kept: Map<string, Float32Array>;
let scene: Scene;

beforeEach(() => {
  numbers = [];
  none = [];
  health = [];
  kept = new Map();
  scene = newScene("Quay");
  scene.sounds.push(sound("song"));
});

/** Reads measures in between, as other threads do; keeps what was asked of it. */
class OtherThreads implements Measurers {
  readonly asked: string[] = [];
  cancelled = 0;
  private busy = 0;

  constructor(private readonly threads: number) {}

  read(signal: Signal, measure: Measure): ReadElsewhere | undefined {
    if (this.busy >= this.threads) return undefined;
    this.busy++;
    this.asked.push(measure.kind);
    const numbers = new Promise<Float32Array>((resolve) => setTimeout(resolve))
      .then(() => measureSound(signal, measure, new DirectSpectra()))
      .finally(() => this.busy--);
    return { numbers, cancel: () => this.cancelled++ };
  }
}

function start(hasStore = false, measurers?: Measurers): SceneAnalysis {
  let now = 0;
  return new SceneAnalysis({
    onNumbers: (one) => numbers.push({ ...one, shaped: one.shaped.slice() }),
    onNone: (strandId, _request, why) => none.push({ strandId, why }),
    onHealth: (strandId, _request, one, advice) => health.push({ strandId, health: one, advice }),
    // Every look at the clock is 8 ms later: slices are short.
    now: () => {
      now += 8;
      return now;
    },
    measurers,
    ...(hasStore && {
      results: {
        get: async (key: string) => kept.get(key),
        put: async (key: string, raw: Float32Array) => void kept.set(key, raw),
        digest: async (text: string) => text,
      },
    }),
  });
}
/** Works until nothing is left, letting what was fetched come in between. */
async function finish(analysis: SceneAnalysis): Promise<void> {
  do {
    while (analysis.work());
    for (let i = 0; i < 10; i++) await new Promise((resolve) => setTimeout(resolve));
  } while (analysis.work());
}
const strand = (
  id: string,
  listensTo: ListensTo = own("song"),
  measure: Measure = MEASURES.band.defaults,
) => {
  const made = newStrand(scene, id, id, listensTo, measure);
  scene.strands.push(made);
  return made;
};
/** The scene after a change, as an edit makes it: what did not change is the same object. */
const edited = (change: (scene: Scene) => void): Scene => {
  scene = structuredClone(scene);
  change(scene);
  return scene;
};
const finished = (id: string) => numbers.filter(({ strandId, cues }) => strandId === id && cues);

describe("the analysis of a scene", () => {
  it("gives each strand the numbers of its own analysis, in parts that grow, and its health at the end", async () => {
    const made = strand("a");
    const analysis = start();
    analysis.setSound(scene.sounds[0], data);
    analysis.setScene(scene);
    await finish(analysis);
    const expected = analyseStrand({ samples }, made, new DirectSpectra());
    expect(finished("a")[0].shaped).toEqual(expected.shaped.values);
    expect(finished("a")[0].cues).toEqual(expected.cues);
    const ready = numbers.map(({ framesReady }) => framesReady);
    expect(ready.length).toBeGreaterThan(2);
    expect(ready).toEqual([...ready].sort((a, b) => a - b));
    expect(ready.at(-1)).toBe(400);
    expect(health.map(({ strandId }) => strandId)).toEqual(["a"]);
    expect(analysis.isDone).toBe(true);
  });

  it("recomputes only the changed strands, and no raw numbers for a change of shaping", async () => {
    strand("a");
    strand("b", own("song"), { kind: "rms" });
    const analysis = start();
    analysis.setSound(scene.sounds[0], data);
    analysis.setScene(scene);
    await finish(analysis);
    const [before] = finished("a");
    numbers = [];
    analysis.setScene(edited(({ strands }) => Object.assign(strands[0].shaping.gain, { on: true, db: 6 })));
    await finish(analysis);
    expect(new Set(numbers.map(({ strandId }) => strandId))).toEqual(new Set(["a"]));
    expect(finished("a")[0].raw).toBe(before.raw);
    expect(finished("a")[0].shaped).not.toEqual(before.shaped);
    numbers = [];
    analysis.setScene(edited(({ objects }) => objects.pop()));
    await finish(analysis);
    expect(numbers).toEqual([]);
  });

  it("abandons its computation when a newer document comes", async () => {
    strand("a");
    const analysis = start();
    analysis.setSound(scene.sounds[0], data);
    analysis.setScene(scene);
    analysis.work();
    const newer = edited(({ strands }) => Object.assign(strands[0].measure, { lowHz: 500, highHz: 900 }));
    analysis.setScene(newer);
    await finish(analysis);
    expect(finished("a")).toHaveLength(1);
    const expected = analyseStrand({ samples }, newer.strands[0], new DirectSpectra());
    expect(finished("a")[0].shaped).toEqual(expected.shaped.values);
  });

  it("waits for sounds and for the strands that one is made of", async () => {
    strand("a");
    strand("sum", { kind: "strands", ids: ["a"] }, { kind: "sum" });
    const analysis = start();
    analysis.setScene(scene);
    await finish(analysis);
    expect(numbers).toEqual([]);
    expect(none.map(({ why }) => why.kind)).toEqual(["waiting", "waiting"]);
    expect(analysis.isDone).toBe(false);
    analysis.setSound(scene.sounds[0], data);
    await finish(analysis);
    expect(finished("sum")[0].raw).toEqual(finished("a")[0].shaped);
    numbers = [];
    analysis.setScene(
      edited(({ strands }) => Object.assign(strands[0].measure, { lowHz: 900, highHz: 1900 })),
    );
    await finish(analysis);
    expect(finished("sum")[0].raw).toEqual(finished("a")[0].shaped);
  });

  it("never waits without end: a sound that failed, a source that is gone, a strand made of itself, a range upside down", async () => {
    scene.sounds.push(sound("lost"));
    strand("on-lost", own("lost"));
    strand("of-lost", { kind: "strands", ids: ["on-lost"] }, { kind: "sum" });
    strand("of-gone", { kind: "strands", ids: ["was-removed"] }, { kind: "sum" });
    strand("of-itself", { kind: "strands", ids: ["of-itself"] }, { kind: "sum" });
    strand("upside-down", own("song"), { ...MEASURES.band.defaults, lowHz: 900, highHz: 100 });
    strand("of-upside-down", { kind: "strands", ids: ["upside-down"] }, { kind: "sum" });
    strand("good");
    const analysis = start();
    analysis.setScene(scene);
    analysis.setSound(scene.sounds[0], data);
    analysis.setSoundFailed("lost", "It is broken.");
    await finish(analysis);
    const last = new Map(
      none.map(({ strandId, why }) => [strandId, why.kind === "failed" ? why.message : why.kind]),
    );
    expect(last.get("on-lost")).toMatch(/cannot be loaded. It is broken/);
    expect(last.get("of-lost")).toMatch(/"on-lost", which it is made of, has no numbers/);
    expect(last.get("of-gone")).toMatch(/are gone/);
    expect(last.get("of-itself")).toMatch(/made of itself/);
    expect(last.get("upside-down")).toMatch(/band|range/);
    expect(last.get("of-upside-down")).toMatch(/has no numbers/);
    expect(finished("good")).toHaveLength(1);
    expect(analysis.isDone).toBe(true);
  });

  it("takes results of an earlier visit instead of computing, and not those of another length", async () => {
    strand("a");
    const first = start(true);
    first.setSound(scene.sounds[0], data, "content");
    first.setScene(scene);
    await finish(first);
    expect(kept.size).toBe(1);
    const [[key, raw]] = kept;
    const doubled = raw.map((x) => 2 * x);
    kept.set(key, doubled);
    numbers = [];
    const second = start(true);
    second.setSound(scene.sounds[0], data, "content");
    second.setScene(scene);
    await finish(second);
    expect(finished("a")[0].raw).toEqual(doubled);
    kept.set(key, raw.slice(1));
    numbers = [];
    const third = start(true);
    third.setSound(scene.sounds[0], data, "content");
    third.setScene(scene);
    await finish(third);
    expect(finished("a")[0].raw).toEqual(raw);
  });

  it("has other threads read strands that share nothing, while it reads the rest", async () => {
    const kinds = [
      MEASURES.band,
      MEASURES.onset,
      MEASURES.pitch,
      MEASURES.certainty,
      MEASURES.momentary,
      MEASURES.rms,
    ];
    kinds.forEach(({ defaults }) => {
      strand(defaults.kind, own("song"), defaults);
    });
    const threads = new OtherThreads(1);
    const analysis = start(false, threads);
    analysis.setSound(scene.sounds[0], data);
    analysis.setScene(scene);
    await finish(analysis);
    // Pitch and its certainty share their work, spectra are shared as well.
    expect(threads.asked.length).toBeGreaterThan(0);
    for (const kind of threads.asked) expect(["momentary", "rms"]).toContain(kind);
    for (const { id, ...tuning } of scene.strands) {
      const expected = analyseStrand({ samples, channels: [samples] }, tuning, new DirectSpectra());
      expect(finished(id)[0].raw).toEqual(expected.raw);
      expect(finished(id)[0].cues).toEqual(expected.cues);
    }
    expect(analysis.isDone).toBe(true);
  });

  it("reads strands itself that another thread cannot", async () => {
    const made = strand("a", own("song"), MEASURES.momentary.defaults);
    strand("b", own("song"), { kind: "rms" });
    let asked = 0;
    const broken: Measurers = {
      read: () => {
        asked++;
        return { numbers: Promise.reject(new Error("it is broken")), cancel: () => undefined };
      },
    };
    const analysis = start(false, broken);
    analysis.setSound(scene.sounds[0], data);
    analysis.setScene(scene);
    await finish(analysis);
    expect(asked).toBeGreaterThan(0);
    const expected = analyseStrand({ samples, channels: [samples] }, made, new DirectSpectra());
    expect(finished("a")[0].raw).toEqual(expected.raw);
    expect(finished("b")).toHaveLength(1);
    expect(none).toEqual([]);
  });

  it("stops other threads when their strands are not wanted any more, and reads shared strands itself", async () => {
    strand("a");
    strand("b", own("song"), { kind: "rms" });
    const threads = new OtherThreads(4);
    const analysis = start(false, threads);
    analysis.setSound(scene.sounds[0], data);
    analysis.setScene(scene);
    while (threads.asked.length === 0) analysis.work();
    analysis.setScene(edited(({ strands }) => strands.splice(0, 2)));
    expect(threads.cancelled).toBe(threads.asked.length);
    await finish(analysis);
    expect(numbers.filter(({ cues }) => cues)).toEqual([]);
    expect(analysis.isDone).toBe(true);
  });

  it("knows the length of the tape once its sounds are there or have failed", () => {
    scene.sounds.push(sound("long"), sound("alone", { runs: "alone" }));
    const analysis = start();
    analysis.setScene(scene);
    analysis.setSound(scene.sounds[0], data);
    expect(analysis.tapeS()).toBeUndefined();
    analysis.setSoundFailed("long", "It is broken.");
    expect(analysis.tapeS()).toBe(4);
  });
});
