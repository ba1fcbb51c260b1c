import { HOP_SAMPLES } from "@bumbrel/core/constants";
import { mixToMono } from "@bumbrel/core/dsp/mix";
import { waveformPairs } from "@bumbrel/core/dsp/overview";
import { type NoteFile, readMidi } from "@bumbrel/core/format/midi";
import { readTable, type Table } from "@bumbrel/core/format/table";
import { openWav } from "@bumbrel/core/format/wav";
import { type MadeSound, makeSound, soundNotes, soundTable } from "@bumbrel/core/scene/soundSource";
import type { SoundOrigin } from "./messages";
import { storedBytes } from "./storedBytes";

/** Samples read at a time, a whole number of hops: about 10 s. */
const BLOCK = HOP_SAMPLES * 1024;

export interface LoadedSamples {
  channels: Float32Array[];
  mono: Float32Array;
  badSampleCount: number;
  notes?: NoteFile;
  table?: Table;
  /** Names the content, whatever it is stored as. */
  content: string | undefined;
}

/** Called with the share that has come and the waveform of the newest part. */
export type OnPart = (share: number, firstHop: number, hops: number, pairs: Float32Array) => void;

/** Numbers in memory that page and worker can hold together, where the browser allows it. */
export function sharedNumbers(length: number): Float32Array {
  return new Float32Array(
    crossOriginIsolated ? new SharedArrayBuffer(length * 4) : new ArrayBuffer(length * 4),
  );
}

/** Brings a sound's samples into memory, part by part. */
export async function loadSound(from: SoundOrigin, name: string, onPart: OnPart): Promise<LoadedSamples> {
  if (from.kind === "file") return loadFile(from.url, name, onPart);
  let notes: NoteFile | undefined;
  let table: Table | undefined;
  let content: string | undefined;
  if (from.kind === "notes" || from.kind === "table") {
    const source = await storedBytes(from.url);
    const bytes = await source.read(0, source.size);
    content = source.content;
    if (from.kind === "notes") notes = readMidi(bytes, name);
    else table = readTable(bytes, name);
  }
  const made = notes ? soundNotes(notes) : table ? soundTable(table) : makeSound(from as MadeSound);
  const mono = sharedNumbers(made.length);
  mono.set(made);
  onPart(1, 0, Math.ceil(made.length / HOP_SAMPLES), waveformPairs(made));
  return { channels: [mono], mono, badSampleCount: 0, notes, table, content };
}

async function loadFile(url: string, name: string, onPart: OnPart): Promise<LoadedSamples> {
  const source = await storedBytes(url);
  const wav = await openWav(source, name);
  const channels = Array.from({ length: wav.channelCount }, () => sharedNumbers(wav.length));
  const mono = wav.channelCount === 1 ? channels[0] : sharedNumbers(wav.length);
  let badSampleCount = 0;
  for (let at = 0; at < wav.length; at += BLOCK) {
    const block = await wav.read(at, BLOCK);
    const mix = mixToMono(block);
    badSampleCount += mix.badSampleCount;
    channels.forEach((channel, c) => {
      channel.set(block[c], at);
    });
    if (wav.channelCount > 1) mono.set(mix.samples, at);
    const share = Math.min(1, (at + BLOCK) / wav.length);
    onPart(share, at / HOP_SAMPLES, Math.ceil(wav.length / HOP_SAMPLES), waveformPairs(mix.samples));
  }
  return { channels, mono, badSampleCount, content: source.content };
}
