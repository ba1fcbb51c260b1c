import { makeNoise } from "@bumbrel/core/dsp/tone";
import { analyseStrand } from "@bumbrel/core/strand/analyse";
import { defaultCues } from "@bumbrel/core/strand/cue";
import { MEASURES, type Measure } from "@bumbrel/core/strand/measures";
import { defaultShaping } from "@bumbrel/core/strand/shaping";
import { CachedSpectra, DirectSpectra } from "@bumbrel/core/strand/spectrumSource";
import { beforeEach, describe, expect, it } from "@jest/globals";
import type { FromWorker, StrandSource } from "./messages";
import { StrandWork } from "./strandWork";

const samples = makeNoise("pink", 48_000 * 4, 4, 0.5);
let sent: FromWorker[];
let kept: Map<string, Float32Array>;
let loaded: boolean;
let work: StrandWork;

beforeEach(() => {
  sent = [];
  kept = new Map();
  loaded = true;
  work = start();
});
const start = () =>
  new StrandWork({
    spectra: new CachedSpectra(),
    signalOf: () => (loaded ? { samples } : undefined),
    contentOf: () => "noise",
    makeNumbers: (length) => new Float32Array(length),
    send: (message) => sent.push(message),
    results: {
      get: async (key) => kept.get(key),
      put: async (key, raw) => void kept.set(key, raw),
    },
  });
const song = {
  kind: "sounds",
  listening: { kind: "sound", sounds: [{ soundId: "song", gain: 1, loops: false }] },
  tapeS: 0,
} satisfies StrandSource;
const tuning = (measure: Measure = MEASURES.band.defaults) => ({
  measure,
  shaping: defaultShaping(),
  cues: defaultCues(),
});
let requests = 0;
const ask = (strandId: string, source: StrandSource = song, what = tuning()) => {
  const request = ++requests;
  work.take({ kind: "strand", strandId, source, tuning: what, request });
  return request;
};
/** Works until nothing is left, letting what was asked come in between. */
const finish = async () => {
  do {
    while (work.work());
    for (let i = 0; i < 20; i++) await new Promise((resolve) => setTimeout(resolve));
  } while (work.work());
};
const finished = (strandId: string) =>
  sent
    .filter((one) => one.kind === "strand")
    .filter((one) => one.strandId === strandId && one.cues) as Extract<FromWorker, { kind: "strand" }>[];

describe("strand work", () => {
  it("gives the numbers of a whole analysis, in parts that grow, and how they do at the end", async () => {
    const request = ask("a");
    await finish();
    const [done] = finished("a");
    const expected = analyseStrand({ samples }, tuning(), new DirectSpectra());
    expect(done.request).toBe(request);
    expect(done.shaped).toEqual(expected.shaped.values);
    const ready = sent.flatMap((one) => (one.kind === "strand" ? [one.framesReady] : []));
    expect(ready).toEqual([...ready].sort((a, b) => a - b));
    expect(ready.at(-1)).toBe(400);
    expect(sent.at(-1)).toMatchObject({ kind: "health", strandId: "a", request });
  });

  it("lets a newer request take an older one's place", async () => {
    ask("a");
    const newest = ask("a", song, tuning({ ...MEASURES.band.defaults, lowHz: 500, highHz: 900 }));
    await finish();
    expect(finished("a").map(({ request }) => request)).toEqual([newest]);
  });

  it("uses raw numbers again while only the shaping changes", async () => {
    ask("a");
    await finish();
    const louder = tuning();
    louder.shaping.gain.db = 6;
    ask("a", song, louder);
    await finish();
    const [first, second] = finished("a");
    expect(second.raw).toBe(first.raw);
    expect(second.shaped).not.toEqual(first.shaped);
  });

  it("takes results of an earlier visit instead of computing, and not those of another length", async () => {
    ask("a");
    await finish();
    const [{ raw }] = finished("a");
    const doubled = raw.map((x) => 2 * x);
    // Whatever is asked for, this is what an earlier visit left.
    kept = new Proxy(kept, { get: (map, name) => (name === "get" ? () => doubled : Reflect.get(map, name)) });
    sent = [];
    work = start();
    ask("a");
    await finish();
    expect(finished("a")[0].raw).toEqual(doubled);
    kept = new Proxy(new Map(), {
      get: (map, name) => (name === "get" ? () => raw.slice(1) : Reflect.get(map, name)),
    });
    sent = [];
    work = start();
    ask("a");
    await finish();
    expect(finished("a")[0].raw).toEqual(raw);
  });

  it("waits for sounds, and for the strands that one is made of", async () => {
    loaded = false;
    const first = ask("a");
    const made = {
      kind: "strands",
      sources: [{ strandId: "a", request: first }],
      tapeS: 4,
    } satisfies StrandSource;
    ask("b", made, tuning({ kind: "sum" }));
    await finish();
    expect(sent).toEqual([]);
    loaded = true;
    await finish();
    expect(finished("b")[0].raw).toEqual(finished("a")[0].shaped);
    // What it was made of is out of date: it waits for the newer one.
    sent = [];
    const second = ask("a", song, tuning({ ...MEASURES.band.defaults, lowHz: 900, highHz: 1900 }));
    ask("b", { ...made, sources: [{ strandId: "a", request: second }] }, tuning({ kind: "sum" }));
    await finish();
    expect(finished("b")[0].raw).toEqual(finished("a")[0].shaped);
  });

  it("says what cannot be read, and goes on with the rest", async () => {
    ask("bad", song, tuning({ ...MEASURES.band.defaults, lowHz: 900, highHz: 100 }));
    ask("good");
    ask("gone");
    work.forget("gone");
    await finish();
    expect(sent.find((one) => one.kind === "failed")).toMatchObject({
      strandId: "bad",
      message: expect.stringMatching(/band/),
    });
    expect(finished("good")).toHaveLength(1);
    expect(finished("gone")).toHaveLength(0);
  });
});
