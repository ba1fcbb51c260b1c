import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { SoundFacts } from "@bumbrel/core/format/sound";
import type { PrepareAnswer, PrepareRequest } from "./prepare.worker";

export interface PreparedFile {
  facts: SoundFacts;
  wav: Blob;
}

/**
 * Brings a file into a project's form, away from the page's own thread: WAV through Bumbrel's own reader, all
 * other formats decoded by the browser.
 *
 * @throws Error saying what is wrong with the file
 */
export async function prepareFile(file: File, signal: AbortSignal): Promise<PreparedFile> {
  if (file.size === 0) throw new Error(`${file.name}: the file is empty. Choose another one`);
  const bytes = await file.arrayBuffer();
  const isWav = new TextDecoder("latin1").decode(bytes.slice(0, 4)) === "RIFF" || /\.wave?$/i.test(file.name);
  const request: PrepareRequest = isWav
    ? { kind: "wav", name: file.name, bytes }
    : { kind: "decoded", name: file.name, ...(await decode(bytes, file.name)) };
  signal.throwIfAborted();
  const worker = new Worker(new URL("./prepare.worker.ts", import.meta.url), { type: "module" });
  try {
    const answer = await new Promise<PrepareAnswer>((resolve, reject) => {
      signal.addEventListener("abort", () => reject(signal.reason));
      worker.addEventListener("message", ({ data }: MessageEvent<PrepareAnswer>) => resolve(data));
      worker.addEventListener("error", ({ message }) => reject(new Error(`${file.name}: ${message}`)));
      worker.postMessage(
        request,
        request.kind === "wav" ? [bytes] : request.channels.map(({ buffer }) => buffer),
      );
    });
    if (answer.kind === "failed") throw new Error(answer.message);
    return { facts: answer.facts, wav: new Blob([answer.wav], { type: "audio/wav" }) };
  } finally {
    worker.terminate();
  }
}

async function decode(bytes: ArrayBuffer, name: string) {
  const context = new OfflineAudioContext(1, 1, SAMPLE_RATE_HZ);
  const buffer = await context.decodeAudioData(bytes).catch(() => {
    throw new Error(
      `${name}: this browser cannot read it as sound. Use WAV, MP3, OGG, FLAC or M4A, or export it again`,
    );
  });
  return {
    channels: Array.from({ length: buffer.numberOfChannels }, (_, i) => buffer.getChannelData(i).slice()),
    sampleRateHz: buffer.sampleRate,
  };
}
