import type { AnalysedScene } from "@bumbrel/core/analyse/sceneAnalysis";
import { analyseStrand } from "@bumbrel/core/analyse/strandAnalysis";
import { FRAME_RATE_HZ, frameCount, SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { hzToAxis, SPECTROGRAM_ROWS } from "@bumbrel/core/dsp/spectrum/spectrogram";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { newScene } from "@bumbrel/core/kinds/create";
import { newSoundBasics, type Sound } from "@bumbrel/core/sound/kinds";
import { DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { sameNumbers } from "@bumbrel/core/testing/sameNumbers";
import { beforeAll, beforeEach, describe, expect, it } from "@jest/globals";
import type { FromWorker, ToWorker } from "./messages";

/** Surroundings of the worker in a browser: messages, a server with one sound, and kept results. */
let said: FromWorker[] = [];
let hear: (event: { data: ToWorker }) => void;
let served: Record<string, Uint8Array> = {};
const asked: string[] = [];

beforeAll(async () => {
  Object.assign(globalThis, {
    crossOriginIsolated: false,
    addEventListener: (_: string, listener: typeof hear) => {
      hear = listener;
    },
    postMessage: (message: FromWorker) => said.push(message),
    fetch: async (url: string, { method = "GET" }: RequestInit = {}) => {
      asked.push(`${method} ${url}`);
      const bytes = served[url];
      if (!bytes) return new Response(null, { status: url.startsWith("/api/analyses") ? 204 : 404 });
      const headers = { "Content-Range": `bytes 0-${bytes.length - 1}/${bytes.length}`, ETag: '"song"' };
      return new Response(bytes as BodyInit, { status: 206, headers });
    },
  });
  await import("./analysis.worker");
});
beforeEach(() => {
  said = [];
  served = {};
});

type Said<K extends FromWorker["kind"]> = Extract<FromWorker, { kind: K }>;

/** Sends messages, and waits for an answer that fulfils a condition. */
async function ask<K extends FromWorker["kind"]>(
  messages: ToWorker[],
  kind: K,
  isIt: (message: Said<K>) => boolean = () => true,
): Promise<Said<K>> {
  for (const data of messages) hear({ data });
  for (;;) {
    const answer = said.find((one): one is Said<K> => one.kind === kind && isIt(one as Said<K>));
    if (answer) return answer;
    await new Promise((resolve) => setTimeout(resolve));
  }
}

const HZ = 997;
const sine = (seconds: number, level: number) =>
  Float32Array.from(
    { length: seconds * SAMPLE_RATE_HZ },
    (_, i) => level * Math.sin((2 * Math.PI * HZ * i) / SAMPLE_RATE_HZ),
  );
const song: Sound = { ...newSoundBasics("song", "Song"), kind: "file", storedId: "s1" };
const LEVEL = 0.25;

function loadSong(samples = sine(4, LEVEL)): ToWorker {
  served["/song"] = writeWav([samples], SAMPLE_RATE_HZ, "float32");
  return { kind: "load", key: "s1", sound: song, url: "/song" };
}

function listening(): AnalysedScene {
  const scene = newScene("Quay");
  scene.sounds = [song];
  scene.strands = [newStrand(scene, "a", "A", { kind: "sound", id: "song", tap: "before" })];
  return scene;
}

describe("the analysis worker", () => {
  it("loads a sound part by part and gives its samples as they were", async () => {
    const samples = sine(50, LEVEL);
    const { data } = await ask([loadSong(samples)], "loaded");
    expect(sameNumbers(data.mono as Float32Array, samples)).toBe(true);
    expect(data.badSampleCount).toBe(0);
    const parts = said.filter((one): one is Said<"loading"> => one.kind === "loading");
    expect(parts.map(({ share }) => share)).toEqual([...parts.map(({ share }) => share)].sort());
    expect(parts.at(-1)?.share).toBe(1);
    expect(parts.reduce((sum, { pairs }) => sum + pairs.length / 2, 0)).toBe(50 * FRAME_RATE_HZ);
  });

  it("reports the problem of a sound that cannot be fetched or read", async () => {
    const missing = await ask([{ kind: "load", key: "gone", sound: song, url: "/gone" }], "soundFailed");
    expect(missing).toMatchObject({ key: "gone", message: expect.stringContaining("not stored any more") });
    said = [];
    served["/broken"] = new TextEncoder().encode("RIFF and then nothing of use, and so on and on");
    const broken = await ask([{ kind: "load", key: "b", sound: song, url: "/broken" }], "soundFailed");
    expect(broken.message).toMatch(/Song/);
  });

  it("computes strands as the core does alone, and then says that it has settled", async () => {
    const scene = listening();
    hear({ data: { kind: "forget", key: "s1" } });
    const { numbers } = await ask(
      [loadSong(), { kind: "scene", scene }],
      "strand",
      (one) => one.numbers.cues !== undefined,
    );
    const expected = analyseStrand({ samples: sine(4, LEVEL) }, scene.strands[0], new DirectSpectra());
    expect(numbers.raw).toEqual(expected.raw);
    expect(numbers.shaped).toEqual(expected.shaped.values);
    await ask([], "settled");
    const { health } = await ask([], "health");
    expect(health.atFloor + health.atCeiling).toBeLessThanOrEqual(1);
    expect(asked.some((one) => one.startsWith("GET /api/analyses/"))).toBe(true);
  });

  it("draws a spectrogram whose loudest row is the sound's own frequency", async () => {
    const axis = { kind: "log", lowHz: 20, highHz: 20_000 } as const;
    const request = { viewer: "spine", request: 1, key: "s1", axis, fftSize: 4096 };
    const first = await ask([loadSong(), { kind: "spectrogram", ...request }], "spectrogram");
    expect(first).toMatchObject({ viewer: "spine", request: 1, firstFrame: 0 });
    const middle = first.levels.subarray(100 * SPECTROGRAM_ROWS, 101 * SPECTROGRAM_ROWS);
    const loudest = middle.indexOf(Math.max(...middle));
    expect(Math.abs((loudest + 0.5) / SPECTROGRAM_ROWS - hzToAxis(axis, HZ))).toBeLessThan(
      2 / SPECTROGRAM_ROWS,
    );
    const isLast = ({ firstFrame, levels }: Said<"spectrogram">) =>
      firstFrame + levels.length / SPECTROGRAM_ROWS === frameCount(4 * SAMPLE_RATE_HZ);
    await ask([], "spectrogram", isLast);
  });

  it("measures loudness as ITU-R BS.1770 does: a 997 Hz sine on one channel reads its level less 3.01 LU", async () => {
    const { momentary, shortTerm } = await ask([loadSong(), { kind: "loudness", key: "s1" }], "loudness");
    const expected = 20 * Math.log10(LEVEL) - 3.01;
    expect(momentary[200]).toBeCloseTo(expected, 1);
    expect(shortTerm[200]).toBeCloseTo(expected, 1);
  });

  it("averages the spectrum: only the third octave of the sine stands out", async () => {
    const answer = await ask([loadSong(), { kind: "averageSpectrum", key: "s1" }], "averageSpectrum");
    const { centresHz, levelsDb } = answer.bands;
    const loudest = levelsDb.indexOf(Math.max(...levelsDb));
    expect(centresHz[loudest]).toBeCloseTo(1000, -1);
    expect(levelsDb[loudest]).toBeCloseTo(20 * Math.log10(LEVEL), 0);
    expect(levelsDb[loudest] - levelsDb[loudest + 3]).toBeGreaterThan(30);
  });

  it("finds sections, tells how far it is, and stops when it is told to", async () => {
    const loud = sine(24, LEVEL);
    // Quiet in the first half.
    for (let i = 0; i < loud.length / 2; i++) loud[i] *= 0.05;
    const { found } = await ask(
      [loadSong(loud), { kind: "sections", key: "s1" }],
      "sections",
      (one) => !!one.found,
    );
    expect(found?.map(({ letter }) => letter)).toEqual(["A", "B"]);
    expect(Math.abs((found?.[1].startS ?? 0) - 12)).toBeLessThanOrEqual(0.5);
    const shares = said
      .filter((one): one is Said<"sections"> => one.kind === "sections")
      .map(({ share }) => share);
    expect(shares.length).toBeGreaterThan(3);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
    said = [];
    await ask([{ kind: "sections", key: "s1" }], "sections");
    await ask([{ kind: "stopSections" }, { kind: "averageSpectrum", key: "s1" }], "averageSpectrum");
    expect(said.some((one) => one.kind === "sections" && one.found)).toBe(false);
  });
});
