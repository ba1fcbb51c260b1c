import { frameCount } from "@bumbrel/core/constants";
import { loudnessOfHops, MOMENTARY_S, SHORT_TERM_S, WeightedEnergy } from "@bumbrel/core/dsp/loudness";
import { spectrogram } from "@bumbrel/core/dsp/spectrogram";
import { hear } from "@bumbrel/core/scene/listening";
import { signalOf } from "@bumbrel/core/scene/soundSource";
import type { Signal } from "@bumbrel/core/strand/signal";
import { CachedSpectra } from "@bumbrel/core/strand/spectrumSource";
import { loadSound, sharedNumbers } from "./loadSound";
import { type FromWorker, SPECTROGRAM_ROWS, type StrandSource, type ToWorker } from "./messages";
import { StrandWork } from "./strandWork";

/** Frames of a spectrogram computed between looks at the queue: about 20 ms of work. */
const BLOCK_FRAMES = 256;
/** Mixes of buses that are kept, so that their spectra are found again while a range is dragged. */
const KEPT_MIXES = 4;
/** The server keeps no larger results. */
const MOST_KEPT_BYTES = 16 * 1024 * 1024;

type Heard = Extract<StrandSource, { kind: "sounds" }>;
type SpectrogramRequest = Extract<ToWorker, { kind: "spectrogram" }> & { nextFrame: number };
interface Kept {
  signal: Signal;
  channels: Float32Array[];
  content: string;
}

const sounds = new Map<string, Kept>();
const mixes = new Map<string, Signal>();
const strands = new StrandWork({
  spectra: new CachedSpectra(),
  makeNumbers: sharedNumbers,
  send: (message) => send(message),
  signalOf: ({ listening, tapeS }) =>
    listening.sounds.every(({ soundId }) => sounds.has(soundId)) ? heardSignal(listening, tapeS) : undefined,
  contentOf: ({ listening }) => {
    const heard = listening.sounds.map((sound) => ({
      ...sound,
      soundId: sounds.get(sound.soundId)?.content,
    }));
    return heard.every(({ soundId }) => soundId !== undefined) ? JSON.stringify(heard) : undefined;
  },
  results: {
    get: async (key) => {
      const response = await fetch(`/api/analyses/${key}`);
      return response.status === 200 ? new Float32Array(await response.arrayBuffer()) : undefined;
    },
    put: async (key, raw) => {
      if (raw.byteLength > MOST_KEPT_BYTES) return;
      // Shared memory cannot be sent.
      await fetch(`/api/analyses/${key}`, { method: "PUT", body: raw.slice() as Float32Array<ArrayBuffer> });
    },
  },
});
strands.onWake = () => void work();
const pictures = new Map<string, SpectrogramRequest>();
const curves = new Set<string>();
let working = false;

function send(message: FromWorker, transfer: ArrayBufferLike[] = []): void {
  postMessage(message, { transfer: transfer as ArrayBuffer[] });
}

addEventListener("message", ({ data }: MessageEvent<ToWorker>) => {
  switch (data.kind) {
    case "load":
      void load(data);
      break;
    case "forget":
      sounds.delete(data.key);
      break;
    case "strand":
      strands.take(data);
      break;
    case "forgetStrand":
      strands.forget(data.strandId);
      break;
    case "spectrogram":
      pictures.set(data.viewer, { ...data, nextFrame: 0 });
      break;
    case "stopSpectrogram":
      pictures.delete(data.viewer);
      break;
    case "loudness":
      curves.add(data.key);
      break;
  }
  void work();
});

async function load({ key, name, from }: Extract<ToWorker, { kind: "load" }>): Promise<void> {
  try {
    const { channels, mono, badSampleCount, notes, table, content } = await loadSound(
      from,
      name,
      (share, firstHop, hops, pairs) =>
        send({ kind: "loading", key, share, firstHop, hops, pairs }, [pairs.buffer]),
    );
    const origin = notes ?? table ?? (from.kind === "clock" ? from : undefined);
    const signal = { ...signalOf(mono, origin), channels };
    // A made sound's key says all there is to it.
    sounds.set(key, { signal, channels, content: content ?? key });
    mixes.clear();
    // Shared memory is held by both; other memory is copied.
    send({ kind: "loaded", key, channels, mono, badSampleCount, notes, table });
    void work();
  } catch (error) {
    send({ kind: "failed", key, message: (error as Error).message });
  }
}

/** Works until nothing is left, strands before curves before pictures, looking at the queue between pieces. */
async function work(): Promise<void> {
  if (working) return;
  working = true;
  while (strands.work() || workOnCurve() || workOnPicture()) {
    await new Promise((resolve) => setTimeout(resolve));
  }
  working = false;
}

function heardSignal(listening: Heard["listening"], tapeS: number): Signal {
  const key = JSON.stringify([listening, tapeS]);
  let signal = mixes.get(key);
  mixes.delete(key);
  signal ??= hear(listening, (soundKey) => sounds.get(soundKey)?.signal, tapeS)!;
  mixes.set(key, signal);
  for (const old of mixes.keys()) {
    if (mixes.size <= KEPT_MIXES) break;
    mixes.delete(old);
  }
  return signal;
}

function workOnCurve(): boolean {
  for (const key of curves) {
    const sound = sounds.get(key);
    if (!sound) continue;
    curves.delete(key);
    const energy = new WeightedEnergy(sound.channels.length);
    energy.push(sound.channels);
    energy.end();
    const momentary = loudnessOfHops(energy.hops, MOMENTARY_S);
    const shortTerm = loudnessOfHops(energy.hops, SHORT_TERM_S);
    send({ kind: "loudness", key, momentary, shortTerm }, [momentary.buffer, shortTerm.buffer]);
    return true;
  }
  return false;
}

function workOnPicture(): boolean {
  for (const [viewer, picture] of pictures) {
    const samples = sounds.get(picture.key)?.signal.samples;
    if (!samples) continue;
    const { nextFrame: firstFrame, request, axis, fftSize } = picture;
    const frames = Math.min(BLOCK_FRAMES, frameCount(samples.length) - firstFrame);
    if (frames <= 0) {
      pictures.delete(viewer);
      continue;
    }
    const levels = spectrogram(samples, firstFrame, frames, SPECTROGRAM_ROWS, axis, fftSize);
    picture.nextFrame += frames;
    send({ kind: "spectrogram", viewer, request, firstFrame, levels }, [levels.buffer]);
    return true;
  }
  return false;
}
