import { FRAME_RATE_HZ, HOP_SAMPLES } from "@bumbrel/core/constants";
import { mixToMono } from "@bumbrel/core/dsp/level/mix";
import { WaveformStream, waveformPairs } from "@bumbrel/core/dsp/level/overview";
import { speakerWeights } from "@bumbrel/core/dsp/level/speakers";
import { Resampler, resampledLength } from "@bumbrel/core/dsp/maths/resample";
import { copySamples, MeanSamples, PcmSamples, type Samples } from "@bumbrel/core/dsp/maths/samples";
import { encodedFormatOf } from "@bumbrel/core/format/samples/encoded";
import { openWav, type WavReader } from "@bumbrel/core/format/samples/wav";
import { isMade, isStored, type Sound } from "@bumbrel/core/sound/kinds";
import { madeSoundData } from "@bumbrel/core/sound/made";
import type { SoundData } from "@bumbrel/core/sound/signal";
import { readStoredSound } from "@bumbrel/core/sound/stored";
import { BlockResampler, decodedBlocks, joinBlocks } from "@bumbrel/player/sound/decodeEncoded";
import { type StoredBytes, storedBytes } from "./storedBytes";

/** How often a long sound's waveform is shown as it arrives, ms: drawing it takes time from fetching it. */
const SHOW_EVERY_MS = 500;
/** Samples read at a time, a whole number of hops: about 20 s. */
const BLOCK = HOP_SAMPLES * 2048;

/** Eight minutes of stereo. */
const MOST_FLOAT_BYTES = 256 * 2 ** 20;

type IsLong = (channelCount: number, length: number) => boolean;

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
 * @param mostFloatBytes  what a sound may take as floats together with the mix of its channels; of what is longer the
 *   mix is made as it is read, and files of 16 bits are kept as they are
 */
export async function loadSound(
  sound: Sound,
  url: string | undefined,
  onPart: OnPart,
  mostFloatBytes = MOST_FLOAT_BYTES,
): Promise<LoadedSamples> {
  const isLong = (channelCount: number, length: number) =>
    length * Float32Array.BYTES_PER_ELEMENT * (channelCount + 1) > mostFloatBytes;
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
    ? loadEncoded(source, sound.name, onPart, isLong)
    : loadWav(source, sound.name, onPart, isLong);
}

function whole(made: SoundData, content: string | undefined, onPart: OnPart): LoadedSamples {
  const mono = sharedNumbers(made.mono.length);
  copySamples(made.mono, 0, mono);
  onPart(1, 0, Math.ceil(mono.length / HOP_SAMPLES), waveformPairs(mono));
  return { data: { ...made, channels: [mono], mono, badSampleCount: 0 }, content };
}

async function loadWav(
  source: StoredBytes,
  name: string,
  onPart: OnPart,
  isLong: IsLong,
): Promise<LoadedSamples> {
  const wav = await openWav(source, name);
  const { channelCount, sampleRateHz } = wav;
  const length = resampledLength(wav.length, sampleRateHz);
  if (wav.bytesPerSample <= 2 && isLong(channelCount, length)) return loadPcm(source, wav, onPart);
  const channels = Array.from({ length: channelCount }, () => sharedNumbers(length));
  const hasMix = channelCount > 1 && !isLong(channelCount, length);
  const mix = hasMix ? sharedNumbers(length) : undefined;
  const resamplers = channels.map(() => new Resampler(sampleRateHz));
  const waveform = new WaveformStream();
  const hops = Math.ceil(length / HOP_SAMPLES);
  let hop = 0;
  const show = (pairs: Float32Array) => {
    const first = hop;
    hop += pairs.length / 2;
    // From here on the numbers may belong to another thread.
    if (pairs.length > 0) onPart(Math.min(1, hop / hops), first, hops, pairs);
  };
  let done = 0;
  const take = (block: Float32Array[]) => {
    const mixed = mixToMono(block);
    for (const [c, channel] of channels.entries()) channel.set(block[c], done);
    mix?.set(mixed.samples, done);
    done += block[0].length;
    show(waveform.push(mixed.samples));
  };
  for await (const block of readAhead((at) => wav.read(at, BLOCK), wav.length)) {
    take(block.map((channel, c) => resamplers[c].push(channel)));
  }
  take(resamplers.map((resampler) => resampler.end()));
  show(waveform.end());
  const mono = mix ?? (channelCount > 1 ? new MeanSamples(channels) : channels[0]);
  const weights = speakerWeights(channelCount, wav.speakers);
  return { data: { channels, mono, weights, badSampleCount: wav.badSamples }, content: source.content };
}

/** Keeps a long file's samples as they are in it: they are brought to 48 kHz where they are read. */
async function loadPcm(source: StoredBytes, wav: WavReader, onPart: OnPart): Promise<LoadedSamples> {
  const { channelCount, sampleRateHz, length, dataStart, bytesPerSample } = wav;
  const count = length * channelCount;
  const memory = crossOriginIsolated ? new SharedArrayBuffer(count * 2) : new ArrayBuffer(count * 2);
  const pcm = new Int16Array(memory);
  const bytes = new Uint8Array(memory);
  const hops = Math.ceil((length / sampleRateHz) * FRAME_RATE_HZ);
  const samplesBefore = (hop: number) => Math.min(length, Math.round((hop * sampleRateHz) / FRAME_RATE_HZ));
  const give = (from: number, to: number) => {
    const pairs = new Float32Array(2 * (to - from));
    for (let hop = from; hop < to; hop++) {
      extremes(pcm, channelCount, samplesBefore(hop), samplesBefore(hop + 1), pairs, 2 * (hop - from));
    }
    onPart(samplesBefore(to) / length, from, hops, pairs);
  };
  let [done, shown, shownMs] = [0, 0, performance.now()];
  for await (const piece of source.stream(dataStart, dataStart + count * bytesPerSample)) {
    // Samples of 16 bits are in memory as they are in the file, the lower byte first.
    if (bytesPerSample === 2) bytes.set(piece, done);
    else for (let i = 0; i < piece.length; i++) pcm[done + i] = (piece[i] - 128) << 8;
    done += piece.length;
    const ready = Math.floor((done / (channelCount * bytesPerSample) / sampleRateHz) * FRAME_RATE_HZ) - 1;
    const now = performance.now();
    if (ready <= shown || now - shownMs < SHOW_EVERY_MS) continue;
    give(shown, ready);
    shown = ready;
    shownMs = now;
  }
  give(shown, hops);
  const channels = Array.from(
    { length: channelCount },
    (_, channel) => new PcmSamples(pcm, channelCount, channel, sampleRateHz),
  );
  const mono = channelCount > 1 ? new MeanSamples(channels) : channels[0];
  const weights = speakerWeights(channelCount, wav.speakers);
  return { data: { channels, mono, weights, badSampleCount: 0 }, content: source.content };
}

/** The lowest and the highest of the means of a stretch's channels. */
function extremes(
  pcm: Int16Array,
  channelCount: number,
  from: number,
  to: number,
  out: Float32Array,
  at: number,
): void {
  let low = Number.POSITIVE_INFINITY;
  let high = Number.NEGATIVE_INFINITY;
  for (let i = from * channelCount; i < to * channelCount; i += channelCount) {
    let sum = 0;
    for (let c = 0; c < channelCount; c++) sum += pcm[i + c];
    if (sum < low) low = sum;
    if (sum > high) high = sum;
  }
  const scale = 1 / (32_768 * channelCount);
  out[at] = to > from ? low * scale : 0;
  out[at + 1] = to > from ? high * scale : 0;
}

/** Blocks of a file, the next of which is fetched while one is worked on. */
async function* readAhead<T>(read: (at: number) => Promise<T>, length: number): AsyncGenerator<T> {
  let next = read(0);
  for (let at = 0; at < length; at += BLOCK) {
    const block = await next;
    if (at + BLOCK < length) next = read(at + BLOCK);
    yield block;
  }
}

async function loadEncoded(
  source: StoredBytes,
  name: string,
  onPart: OnPart,
  isLong: IsLong,
): Promise<LoadedSamples> {
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
  const [first] = channels;
  onPart(1, 0, Math.ceil(first.length / HOP_SAMPLES), waveformPairs(mix.samples));
  let mono: Samples = first;
  if (channels.length > 1) {
    mono = isLong(channels.length, first.length) ? new MeanSamples(channels) : shared(mix.samples);
  }
  const weights = speakerWeights(channels.length);
  return {
    data: { channels, mono, weights, badSampleCount: mix.badSampleCount },
    content: source.content,
  };
}
