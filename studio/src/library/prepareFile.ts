import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { SoundFormatError } from "@bumbrel/core/errors";
import { askWorker } from "./askWorker";
import type { PreparedFile, PreparedPart, PrepareRequest } from "./prepareMessages";

/** How far it has come, and the waveform of the newest part. */
export type OnPart = (share: number, pairs: Float32Array) => void;

/** Files above this are decoded in a worker or not at all: the page would have to hold all of their samples. */
const PAGE_DECODES_UP_TO = 64 * 1024 * 1024;

/**
 * Brings a file into a project's form, away from the page's own thread: WAV and MIDI through Bumbrel's own readers,
 * all other formats decoded by the browser.
 *
 * @throws SoundFormatError saying what is wrong with the file
 */
export async function prepareFile(file: File, signal: AbortSignal, onPart: OnPart): Promise<PreparedFile> {
  if (file.size === 0) throw unreadable(file.name, "the file is empty");
  const answer = await ask({ kind: "file", file }, file.name, signal, onPart);
  if (answer) return answer;
  const decoded = await decode(file);
  signal.throwIfAborted();
  const second = await ask(decoded, file.name, signal, onPart);
  if (!second) throw unreadable(file.name);
  return second;
}

/** Has a worker prepare it; gives nothing when the worker has no decoder. */
async function ask(
  request: PrepareRequest,
  name: string,
  signal: AbortSignal,
  onPart: OnPart,
): Promise<PreparedFile | undefined> {
  const worker = new Worker(new URL("./prepare.worker.ts", import.meta.url), { type: "module" });
  return askWorker<PreparedFile | undefined, PreparedPart>(worker, request, {
    name,
    signal,
    transfer: request.kind === "decoded" ? request.channels.map(({ buffer }) => buffer as ArrayBuffer) : [],
    onPart: ({ share, pairs }) => onPart(share, pairs),
  });
}

function unreadable(where: string, what = "this browser cannot read it as sound"): SoundFormatError {
  const remedy = "Use WAV, MP3, OGG, FLAC, M4A or MIDI, or export it again";
  return new SoundFormatError({ code: "sound-unreadable", what, where, remedy });
}

async function decode(file: File): Promise<PrepareRequest> {
  if (file.size > PAGE_DECODES_UP_TO) throw unreadable(file.name);
  const context = new OfflineAudioContext(1, 1, SAMPLE_RATE_HZ);
  const buffer = await context.decodeAudioData(await file.arrayBuffer()).catch(() => {
    throw unreadable(file.name);
  });
  return {
    kind: "decoded",
    name: file.name,
    channels: Array.from({ length: buffer.numberOfChannels }, (_, i) => buffer.getChannelData(i).slice()),
    sampleRateHz: buffer.sampleRate,
  };
}
