import { frameCount } from "@bumbrel/core/constants";
import { loudnessOfHops, MOMENTARY_S, SHORT_TERM_S, WeightedEnergy } from "@bumbrel/core/dsp/loudness";
import { spectrogram } from "@bumbrel/core/dsp/spectrogram";
import { hear } from "@bumbrel/core/scene/listening";
import { signalOf } from "@bumbrel/core/scene/soundSource";
import { analyseStrand } from "@bumbrel/core/strand/analyse";
import type { Signal } from "@bumbrel/core/strand/signal";
import { CachedSpectra } from "@bumbrel/core/strand/spectrumSource";
import { loadSound } from "./loadSound";
import { type FromWorker, SPECTROGRAM_ROWS, type ToWorker } from "./messages";

/** Frames of a spectrogram computed between looks at the queue: about 20 ms of work. */
const BLOCK_FRAMES = 256;
/** Mixes of buses that are kept, so that their spectra are found again while a range is dragged. */
const KEPT_MIXES = 4;

type StrandRequest = Extract<ToWorker, { kind: "strand" }>;
type SpectrogramRequest = Extract<ToWorker, { kind: "spectrogram" }> & { nextFrame: number };
interface Kept {
  signal: Signal;
  channels: Float32Array[];
}

const sounds = new Map<string, Kept>();
const mixes = new Map<string, Signal>();
const spectra = new CachedSpectra();
const strands = new Map<string, StrandRequest>();
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
      strands.set(data.strandId, data);
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
    const { channels, mono, badSampleCount, notes } = await loadSound(
      from,
      name,
      (share, firstHop, hops, pairs) =>
        send({ kind: "loading", key, share, firstHop, hops, pairs }, [pairs.buffer]),
    );
    const origin = notes ?? (from.kind === "clock" ? from : undefined);
    sounds.set(key, { signal: signalOf(mono, origin), channels });
    mixes.clear();
    // Shared memory is held by both; other memory is copied.
    send({ kind: "loaded", key, channels, mono, badSampleCount, notes });
    void work();
  } catch (error) {
    send({ kind: "failed", key, message: (error as Error).message });
  }
}

/** Works until nothing is left, strands before curves before pictures, looking at the queue between pieces. */
async function work(): Promise<void> {
  if (working) return;
  working = true;
  while (workOnStrand() || workOnCurve() || workOnPicture()) {
    await new Promise((resolve) => setTimeout(resolve));
  }
  working = false;
}

function workOnStrand(): boolean {
  for (const [strandId, request] of strands) {
    const { listening, tapeS } = request;
    if (!listening.sounds.every(({ soundId }) => sounds.has(soundId))) continue;
    strands.delete(strandId);
    try {
      const signal = heardSignal(listening, tapeS);
      const { raw, shaped } = analyseStrand(signal, request, spectra);
      send({ kind: "strand", strandId, request: request.request, raw, shaped: shaped.values }, [
        raw.buffer,
        shaped.values.buffer,
      ]);
    } catch (error) {
      send({ kind: "failed", strandId, message: (error as Error).message });
    }
    return true;
  }
  return false;
}

function heardSignal(listening: StrandRequest["listening"], tapeS: number): Signal {
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
