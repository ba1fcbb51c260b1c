import { HOP_SAMPLES } from "@bumbrel/core/constants";
import { mixToMono } from "@bumbrel/core/dsp/mix";
import { waveformPairs } from "@bumbrel/core/dsp/overview";
import { encodedFormatOf } from "@bumbrel/core/format/encoded";
import { openWav } from "@bumbrel/core/format/wav";
import { isMade, isStored, type Sound } from "@bumbrel/core/sound/kinds";
import { madeSoundData, readStoredSound } from "@bumbrel/core/sound/make";
import type { SoundData } from "@bumbrel/core/sound/signal";
import { BlockResampler, decodedBlocks, joinBlocks } from "@bumbrel/player/sound/decodeEncoded";
import { type StoredBytes, storedBytes } from "./storedBytes";

/** Samples read at a time, a whole number of hops: about 20 s. */
const BLOCK = HOP_SAMPLES * 2048;

export interface LoadedSamples {
  data: SoundData & { badSampleCount: number };
  /** Names the content, whatever it is stored as. */
  content: string | undefined;
}

/** Called with the share that has been read and the waveform of the newest part. */
export type OnPart = (share: number, firstHop: number, hops: number, pairs: Float32Array) => void;

/** Numbers in memory that page and worker can hold together, where the browser allows it. */
export function sharedNumbers(length: number): Float32Array {
  return new Float32Array(
    crossOriginIsolated ? new SharedArrayBuffer(length * 4) : new ArrayBuffer(length * 4),
  );
}

function shared(samples: Float32Array): Float32Array {
  const out = sharedNumbers(samples.length);
  out.set(samples);
  return out;
}

/**
 * Brings a sound's samples into memory, part by part.
 *
 * @param url  where a stored sound's bytes are
 */
export async function loadSound(
  sound: Sound,
  url: string | undefined,
  onPart: OnPart,
): Promise<LoadedSamples> {
  if (isMade(sound)) return whole(madeSoundData(sound), undefined, onPart);
  if (!isStored(sound) || url === undefined) throw new Error(`"${sound.name}" has no samples to load`);
  const source = await storedBytes(url);
  const { content } = source;
  if (sound.kind !== "file") {
    const bytes = await source.read(0, source.size);
    return whole(readStoredSound(sound, bytes), content, onPart);
  }
  const start = await source.read(0, Math.min(16, source.size));
  return encodedFormatOf(start)
    ? loadEncoded(source, sound.name, onPart)
    : loadWav(source, sound.name, onPart);
}

function whole(made: SoundData, content: string | undefined, onPart: OnPart): LoadedSamples {
  const mono = shared(made.mono);
  onPart(1, 0, Math.ceil(mono.length / HOP_SAMPLES), waveformPairs(made.mono));
  return { data: { ...made, channels: [mono], mono, badSampleCount: 0 }, content };
}

async function loadWav(source: StoredBytes, name: string, onPart: OnPart): Promise<LoadedSamples> {
  const wav = await openWav(source, name);
  const channels = Array.from({ length: wav.channelCount }, () => sharedNumbers(wav.length));
  const mono = wav.channelCount === 1 ? channels[0] : sharedNumbers(wav.length);
  let badSampleCount = 0;
  for (let at = 0; at < wav.length; at += BLOCK) {
    const block = await wav.read(at, BLOCK);
    const mix = mixToMono(block);
    badSampleCount += mix.badSampleCount;
    for (const [c, channel] of channels.entries()) channel.set(block[c], at);
    if (wav.channelCount > 1) mono.set(mix.samples, at);
    const share = Math.min(1, (at + BLOCK) / wav.length);
    onPart(share, at / HOP_SAMPLES, Math.ceil(wav.length / HOP_SAMPLES), waveformPairs(mix.samples));
  }
  return { data: { channels, mono, badSampleCount }, content: source.content };
}

async function loadEncoded(source: StoredBytes, name: string, onPart: OnPart): Promise<LoadedSamples> {
  const bytes = await source.read(0, source.size);
  const resampler = new BlockResampler();
  const blocks: Float32Array[][] = [];
  let share = 0;
  for await (const block of decodedBlocks(new Blob([bytes as Uint8Array<ArrayBuffer>]), name)) {
    blocks.push(resampler.push(block));
    share = block.share;
    if (blocks.length % 200 === 0) onPart(share, 0, 0, new Float32Array(0));
  }
  blocks.push(resampler.end());
  const channels = joinBlocks(blocks, sharedNumbers);
  const mix = mixToMono(channels);
  const mono = channels.length === 1 ? channels[0] : shared(mix.samples);
  onPart(1, 0, Math.ceil(mono.length / HOP_SAMPLES), waveformPairs(mix.samples));
  return { data: { channels, mono, badSampleCount: mix.badSampleCount }, content: source.content };
}
