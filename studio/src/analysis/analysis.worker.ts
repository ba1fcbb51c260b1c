import { SceneAnalysis } from "@bumbrel/core/analyse/sceneAnalysis";
import { runScriptsIn } from "@bumbrel/core/analyse/scripts/scriptThread";
import { frameCount } from "@bumbrel/core/constants";
import { loudnessOfHops, WeightedEnergy } from "@bumbrel/core/dsp/level/loudness";
import { MOMENTARY_S, SHORT_TERM_S } from "@bumbrel/core/dsp/maths/measureWindows";
import { packSamples, samplesFrom } from "@bumbrel/core/dsp/maths/samples";
import type { Sliced } from "@bumbrel/core/dsp/maths/slices";
import { SPECTROGRAM_ROWS, spectrogram } from "@bumbrel/core/dsp/spectrum/spectrogram";
import { ownError } from "@bumbrel/core/errors";
import { findSectionsSliced, type Section } from "@bumbrel/core/strand/sections";
import { averageSpectrum } from "./averageSpectrum";
import { loadSound, sharedNumbers } from "./loadSound";
import { MeasurerThreads, measurerThreads } from "./measurerThreads";
import type { FromWorker, ToWorker } from "./messages";

/** Frames of a spectrogram computed between looks at the queue: about 20 ms of work. */
const BLOCK_FRAMES = 256;
/** The server keeps no larger results. */
const MAX_KEPT_BYTES = 16 * 1024 * 1024;
/** While somebody drags, nothing is kept; only where they stay. */
const SETTLED_MS = 1500;

type SpectrogramRequest = Extract<ToWorker, { kind: "spectrogram" }> & { nextFrame: number };

const spectrograms = new Map<string, SpectrogramRequest>();
const curves = new Set<string>();
const averages = new Set<string>();
/** The search for sections that is under way. */
let sectionSearch: { key: string; share: number; told: number; work?: Sliced<Section[]> } | undefined;
const keeping = new Map<string, ReturnType<typeof setTimeout>>();
let working = false;
let scenes = 0;
let settledScenes = -1;

function send(message: FromWorker, transfer: ArrayBufferLike[] = []): void {
  postMessage(message, { transfer: transfer as ArrayBuffer[] });
}

// Without memory that threads share each would need a copy of all samples.
const spareThreads = crossOriginIsolated ? measurerThreads(navigator.hardwareConcurrency) : 0;
const startMeasurer = () => new Worker(new URL("./measure.worker.ts", import.meta.url), { type: "module" });
runScriptsIn(
  () =>
    new Worker(new URL("../../../player/src/scripts/scripts.worker.ts", import.meta.url), { type: "module" }),
);

const analysis = new SceneAnalysis({
  measurers: spareThreads > 0 ? new MeasurerThreads(spareThreads, startMeasurer) : undefined,
  makeNumbers: sharedNumbers,
  now: () => performance.now(),
  onNumbers: (numbers) => send({ kind: "strand", numbers }),
  onNone: (strandId, request, why) => send({ kind: "noStrand", strandId, request, why }),
  onHealth: (strandId, request, health, advice) =>
    send({ kind: "health", strandId, request, health, advice }),
  onWork: () => void work(),
  results: {
    get: async (key) => {
      const response = await fetch(`/api/analyses/${key}`);
      return response.status === 200 ? new Float32Array(await response.arrayBuffer()) : undefined;
    },
    put: async (key, raw) => {
      if (raw.byteLength > MAX_KEPT_BYTES) return;
      for (const timer of keeping.values()) clearTimeout(timer);
      const keep = () => {
        keeping.delete(key);
        // Shared memory cannot be sent.
        const body = raw.slice() as Float32Array<ArrayBuffer>;
        void fetch(`/api/analyses/${key}`, { method: "PUT", body }).catch(() => undefined);
      };
      keeping.set(key, setTimeout(keep, SETTLED_MS));
    },
    digest: async (text) => {
      const digest = await crypto.subtle.digest("SHA-256", new TextEncoder().encode(text));
      return Array.from(new Uint8Array(digest), (byte) => byte.toString(16).padStart(2, "0")).join("");
    },
  },
});

addEventListener("message", ({ data }: MessageEvent<ToWorker>) => {
  switch (data.kind) {
    case "load":
      void load(data);
      break;
    case "forget":
      analysis.forgetSound(data.key);
      break;
    case "scene":
      scenes++;
      analysis.setScene(data.scene);
      break;
    case "spectrogram":
      spectrograms.set(data.viewer, { ...data, nextFrame: 0 });
      break;
    case "stopSpectrogram":
      spectrograms.delete(data.viewer);
      break;
    case "loudness":
      curves.add(data.key);
      break;
    case "averageSpectrum":
      averages.add(data.key);
      break;
    case "sections":
      sectionSearch = { key: data.key, share: 0, told: 0 };
      break;
    case "stopSections":
      sectionSearch = undefined;
      break;
  }
  void work();
});

async function load({ key, sound, url }: Extract<ToWorker, { kind: "load" }>): Promise<void> {
  try {
    const { data, content } = await loadSound(sound, url, (share, firstHop, hops, pairs) =>
      send({ kind: "loading", key, share, firstHop, hops, pairs }, [pairs.buffer]),
    );
    // Shared memory is held by both; other memory is copied.
    const packed = { channels: data.channels.map(packSamples), mono: packSamples(data.mono) };
    send({ kind: "loaded", key, data: { ...data, ...packed } });
    settledScenes = -1;
    // A made sound's key says all there is to it.
    analysis.setSound(sound, data, content ?? key);
  } catch (error) {
    const inPlace = {
      code: "sound-unreadable",
      what: "it cannot be read",
      where: sound.name,
      remedy: "Replace it with its file, or reload the page",
    };
    const { message } = ownError(error, inPlace);
    send({ kind: "soundFailed", key, message });
    analysis.setSoundFailed(key, message);
  }
  void work();
}

/** Works until nothing is left, strands before curves before images, looking at the queue between pieces. */
async function work(): Promise<void> {
  if (working) return;
  working = true;
  while (workOnce()) await new Promise((resolve) => setTimeout(resolve));
  working = false;
}

function workOnce(): boolean {
  if (analysis.work()) return true;
  if (analysis.isDone && settledScenes !== scenes) {
    settledScenes = scenes;
    send({ kind: "settled", scenes });
  }
  return workOnCurve() || workOnAverage() || workOnSections() || workOnSpectrogram();
}

/** Samples that are weighted at a time. */
const CURVE_SAMPLES = 1 << 20;

function workOnCurve(): boolean {
  for (const key of curves) {
    const sound = analysis.dataOf(key);
    if (!sound) continue;
    curves.delete(key);
    const energy = new WeightedEnergy(sound.weights ?? sound.channels.map(() => 1));
    for (let from = 0; from < sound.mono.length; from += CURVE_SAMPLES) {
      const count = Math.min(CURVE_SAMPLES, sound.mono.length - from);
      energy.push(sound.channels.map((channel) => samplesFrom(channel, from, count)));
    }
    energy.end();
    const momentary = loudnessOfHops(energy.hops, MOMENTARY_S);
    const shortTerm = loudnessOfHops(energy.hops, SHORT_TERM_S);
    send({ kind: "loudness", key, momentary, shortTerm }, [momentary.buffer, shortTerm.buffer]);
    return true;
  }
  return false;
}

function workOnAverage(): boolean {
  for (const key of averages) {
    const sound = analysis.dataOf(key);
    if (!sound) continue;
    averages.delete(key);
    send({ kind: "averageSpectrum", key, bands: averageSpectrum(sound.mono) });
    return true;
  }
  return false;
}

/** Milliseconds of a search for sections between looks at the queue. */
const SEARCH_MS = 20;

function workOnSections(): boolean {
  const search = sectionSearch;
  const samples = search && analysis.dataOf(search.key)?.mono;
  if (!samples) return false;
  search.work ??= findSectionsSliced({ samples }, undefined, (share) => {
    search.share = share;
  });
  for (const before = performance.now(); performance.now() - before < SEARCH_MS; ) {
    const { done, value } = search.work.next();
    if (!done) continue;
    sectionSearch = undefined;
    send({ kind: "sections", key: search.key, share: 1, found: value });
    return true;
  }
  if (search.share - search.told >= 0.01) {
    search.told = search.share;
    send({ kind: "sections", key: search.key, share: search.share });
  }
  return true;
}

function workOnSpectrogram(): boolean {
  for (const [viewer, asked] of spectrograms) {
    const samples = analysis.dataOf(asked.key)?.mono;
    if (!samples) continue;
    const { nextFrame: firstFrame, request, axis, fftSize } = asked;
    const frames = Math.min(BLOCK_FRAMES, frameCount(samples.length) - firstFrame);
    if (frames <= 0) {
      spectrograms.delete(viewer);
      continue;
    }
    const levels = spectrogram(samples, firstFrame, frames, SPECTROGRAM_ROWS, axis, fftSize);
    asked.nextFrame += frames;
    send({ kind: "spectrogram", viewer, request, firstFrame, levels }, [levels.buffer]);
    return true;
  }
  return false;
}
