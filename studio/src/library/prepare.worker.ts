import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { SoundFormatError } from "@bumbrel/core/errors";
import { encodedFormatOf } from "@bumbrel/core/format/samples/encoded";
import { readMidi } from "@bumbrel/core/format/samples/midi";
import { describeSound } from "@bumbrel/core/format/samples/sound";
import { openWav } from "@bumbrel/core/format/samples/wav";
import { readTable } from "@bumbrel/core/format/table";
import { soundNotes } from "@bumbrel/core/sound/noteSound";
import { soundTable } from "@bumbrel/core/sound/tableSound";
import { decodedBlocks, NoDecoder } from "@bumbrel/player/sound/decodeEncoded";
import { answerWith } from "./askWorker";
import type { PreparedFile, PreparedPart, PrepareRequest } from "./prepareMessages";
import { SoundWriter } from "./soundWriter";

/** Nothing when this worker has no decoder for it; the page may have one. */
type Prepared = PreparedFile | undefined;

/** Samples read at a time: about 5 s. */
const BLOCK = 1 << 18;
const FLOOR_SHARE = 0.01;

addEventListener("message", ({ data }: MessageEvent<PrepareRequest>) => {
  void answerWith(data.kind === "file" ? data.file.name : data.name, prepare(data));
});

function sendPart(share: number, pairs: Float32Array): void {
  postMessage({ kind: "part", share, pairs } satisfies PreparedPart, { transfer: [pairs.buffer] as never });
}

async function prepare(request: PrepareRequest): Promise<Prepared> {
  if (request.kind === "decoded") {
    const { channels, sampleRateHz } = request;
    const length = channels[0].length;
    let done = 0;
    const writer = new SoundWriter(channels.length, sampleRateHz, (pairs) => sendPart(done / length, pairs));
    for (; done < length; done += BLOCK)
      writer.push(channels.map((channel) => channel.subarray(done, done + BLOCK)));
    const { facts, wav } = writer.end();
    return { is: "file", facts, bytes: wav };
  }
  const { file } = request;
  const start = new TextDecoder("latin1").decode(await file.slice(0, 4).arrayBuffer());
  if (start === "MThd") return prepareNotes(file);
  if (/\.csv$/i.test(file.name)) return prepareTable(file);
  if (start === "RIFF" || /\.wave?$/i.test(file.name)) return prepareWav(file);
  return prepareEncoded(file);
}

async function prepareNotes(file: File): Promise<Prepared> {
  const notes = readMidi(new Uint8Array(await file.arrayBuffer()), file.name);
  if (notes.notes.length === 0 && notes.controls.length === 0) {
    throw new SoundFormatError({
      code: "sound-no-notes",
      what: "there are no notes in it",
      where: file.name,
      remedy: "Choose another file",
    });
  }
  const facts = describeSound({ channels: [soundNotes(notes)], originalRateHz: SAMPLE_RATE_HZ });
  return { is: "notes", facts, bytes: file };
}

async function prepareTable(file: File): Promise<Prepared> {
  const table = readTable(new Uint8Array(await file.arrayBuffer()), file.name);
  const facts = describeSound({ channels: [soundTable(table)], originalRateHz: SAMPLE_RATE_HZ });
  return { is: "table", facts, bytes: file };
}

async function prepareWav(file: File): Promise<Prepared> {
  const source = {
    size: file.size,
    read: async (offset: number, length: number) =>
      new Uint8Array(await file.slice(offset, offset + length).arrayBuffer()),
  };
  const wav = await openWav(source, file.name);
  let done = 0;
  const writer = new SoundWriter(
    wav.channelCount,
    wav.sampleRateHz,
    (pairs) => sendPart(Math.min(1, done / wav.length), pairs),
    // It is kept as it came, bit for bit.
    false,
    file.name,
    wav.speakers,
  );
  while (done < wav.length) {
    const block = await wav.read(done, BLOCK);
    done += BLOCK;
    writer.push(block);
  }
  return { is: "file", facts: writer.end().facts, bytes: file };
}

/** An encoded file is kept as it is; it is decoded here once, to measure it. */
async function prepareEncoded(file: File): Promise<Prepared> {
  const isKept = encodedFormatOf(new Uint8Array(await file.slice(0, 16).arrayBuffer())) !== undefined;
  let writer: SoundWriter | undefined;
  let share = 0;
  try {
    for await (const block of decodedBlocks(file, file.name)) {
      const { channels, rateHz } = block;
      writer ??= new SoundWriter(
        channels.length,
        rateHz,
        (pairs) => sendPart(share, pairs),
        !isKept,
        file.name,
      );
      share = Math.max(FLOOR_SHARE, block.share);
      writer.push(channels);
    }
  } catch (error) {
    if (error instanceof NoDecoder) return undefined;
    throw error;
  }
  if (!writer) return undefined;
  const { facts, wav } = writer.end();
  return { is: "file", facts, bytes: isKept ? file : wav };
}
