import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { SoundFacts } from "@bumbrel/core/format/sound";
import type { StoredSound } from "@bumbrel/core/sound/kinds";
import type { PrepareAnswer, PrepareRequest } from "./prepare.worker";

export interface PreparedFile {
  /** What kind of sound it becomes. */
  is: StoredSound["kind"];
  facts: SoundFacts;
  bytes: Blob;
}

/** How far it has come, and the waveform of the newest part. */
export type OnPart = (share: number, pairs: Float32Array) => void;

/** Files above this are decoded in a worker or not at all: the page would have to hold all of their samples. */
const PAGE_DECODES_UP_TO = 64 * 1024 * 1024;

/**
 * Brings a file into a project's form, away from the page's own thread: WAV and MIDI through Bumbrel's own readers,
 * all other formats decoded by the browser.
 *
 * @throws Error saying what is wrong with the file
 */
export async function prepareFile(file: File, signal: AbortSignal, onPart: OnPart): Promise<PreparedFile> {
  if (file.size === 0) throw new Error(`${file.name}: the file is empty. Choose another one`);
  const answer = await ask({ kind: "file", file }, file.name, signal, onPart);
  if (answer) return answer;
  const decoded = await decode(file);
  signal.throwIfAborted();
  const second = await ask(decoded, file.name, signal, onPart);
  if (!second) throw new Error(`${file.name}: it cannot be read`);
  return second;
}

/** Has a worker prepare it; gives nothing when the worker has no decoder. */
async function ask(
  request: PrepareRequest,
  name: string,
  signal: AbortSignal,
  onPart: OnPart,
): Promise<PreparedFile | undefined> {
  signal.throwIfAborted();
  const worker = new Worker(new URL("./prepare.worker.ts", import.meta.url), { type: "module" });
  try {
    return await new Promise<PreparedFile | undefined>((resolve, reject) => {
      signal.addEventListener("abort", () => reject(signal.reason));
      worker.addEventListener("message", ({ data }: MessageEvent<PrepareAnswer>) => {
        if (data.kind === "part") onPart(data.share, data.pairs);
        else if (data.kind === "failed") reject(new Error(data.message));
        else resolve(data.kind === "ready" ? data : undefined);
      });
      worker.addEventListener("error", ({ message }) => reject(new Error(`${name}: ${message}`)));
      const transfer = request.kind === "decoded" ? request.channels.map(({ buffer }) => buffer) : [];
      worker.postMessage(request, { transfer: transfer as ArrayBuffer[] });
    });
  } finally {
    worker.terminate();
  }
}

async function decode(file: File): Promise<PrepareRequest> {
  const unreadable = `${file.name}: this browser cannot read it as sound. Use WAV, MP3, OGG, FLAC, M4A or MIDI, or export it again`;
  if (file.size > PAGE_DECODES_UP_TO) throw new Error(unreadable);
  const context = new OfflineAudioContext(1, 1, SAMPLE_RATE_HZ);
  const buffer = await context.decodeAudioData(await file.arrayBuffer()).catch(() => {
    throw new Error(unreadable);
  });
  return {
    kind: "decoded",
    channels: Array.from({ length: buffer.numberOfChannels }, (_, i) => buffer.getChannelData(i).slice()),
    sampleRateHz: buffer.sampleRate,
  };
}
