import { frameCount } from "@bumbrel/core/constants";
import { mixToMono } from "@bumbrel/core/dsp/mix";
import { spectrogram } from "@bumbrel/core/dsp/spectrogram";
import { readProjectSound } from "@bumbrel/core/format/sound";
import { makeSound } from "@bumbrel/core/scene/soundSource";
import { analyseStrand } from "@bumbrel/core/strand/analyse";
import { CachedSpectra } from "@bumbrel/core/strand/spectrumSource";
import { type FromWorker, SPECTROGRAM_ROWS, type ToWorker } from "./messages";

/** Frames of a spectrogram computed between looks at the queue: about 20 ms of work. */
const BLOCK_FRAMES = 256;

type StrandRequest = Extract<ToWorker, { kind: "strand" }>;
type SpectrogramRequest = Extract<ToWorker, { kind: "spectrogram" }> & { nextFrame: number };

const sounds = new Map<string, Float32Array>();
const spectra = new CachedSpectra();
const strands = new Map<string, StrandRequest>();
let picture: SpectrogramRequest | undefined;
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
      void work();
      break;
    case "spectrogram":
      picture = { ...data, nextFrame: 0 };
      void work();
      break;
  }
});

async function load({ key, name, from }: Extract<ToWorker, { kind: "load" }>): Promise<void> {
  try {
    const channels =
      typeof from === "string"
        ? readProjectSound(await fetchBytes(from, (share) => send({ kind: "loading", key, share })), name)
            .channels
        : [makeSound(from)];
    const { samples, badSampleCount } = mixToMono(channels);
    sounds.set(key, samples);
    const mono = samples.slice();
    send({ kind: "loaded", key, channels, mono, badSampleCount }, [
      mono.buffer,
      ...channels.map((channel) => channel.buffer),
    ]);
    void work();
  } catch (error) {
    send({ kind: "failed", key, message: (error as Error).message });
  }
}

async function fetchBytes(url: string, onShare: (share: number) => void): Promise<Uint8Array> {
  const response = await fetch(url);
  if (!response.ok || !response.body)
    throw new Error(`the server answered ${response.status} for this sound`);
  const bytes = new Uint8Array(Number(response.headers.get("Content-Length")));
  let filled = 0;
  for (const reader = response.body.getReader(); ; ) {
    const { done, value } = await reader.read();
    if (done) return bytes.subarray(0, filled);
    bytes.set(value, filled);
    filled += value.length;
    onShare(filled / bytes.length);
  }
}

/** Works until nothing is left, strands before pictures, looking at the queue between pieces. */
async function work(): Promise<void> {
  if (working) return;
  working = true;
  while (workOnStrand() || workOnPicture()) await new Promise((resolve) => setTimeout(resolve));
  working = false;
}

function workOnStrand(): boolean {
  for (const [strandId, request] of strands) {
    const samples = sounds.get(request.key);
    if (!samples) continue;
    strands.delete(strandId);
    try {
      const { raw, shaped } = analyseStrand(samples, request, spectra);
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

function workOnPicture(): boolean {
  const samples = picture && sounds.get(picture.key);
  if (!picture || !samples) return false;
  const { nextFrame: firstFrame, request, axis, fftSize } = picture;
  const frames = Math.min(BLOCK_FRAMES, frameCount(samples.length) - firstFrame);
  if (frames <= 0) {
    picture = undefined;
    return false;
  }
  const levels = spectrogram(samples, firstFrame, frames, SPECTROGRAM_ROWS, axis, fftSize);
  picture.nextFrame += frames;
  send({ kind: "spectrogram", request, firstFrame, levels }, [levels.buffer]);
  return true;
}
