import { SoundFormatError } from "../../errors";

/** How samples are written in a WAV file. */
export const WAV_ENCODINGS = ["pcm8", "pcm16", "pcm24", "pcm32", "float32", "float64"] as const;
export type WavEncoding = (typeof WAV_ENCODINGS)[number];

export interface WavSound {
  /** The file's own rate. */
  sampleRateHz: number;
  encoding: WavEncoding;
  /** 1 to 8 arrays of equal length, full scale = 1. */
  channels: Float32Array[];
  /** Speaker positions of the channels, a bit each, see `dsp/speakers`; 0 if the file does not name them. */
  speakers: number;
  /** Samples that were no finite numbers; they count as 0. */
  badSamples: number;
}

export const WAV_LIMITS = { maxChannels: 8, minRateHz: 8_000, maxRateHz: 192_000 } as const;

const TAG_PCM = 1;
const TAG_FLOAT = 3;
const TAG_EXTENSIBLE = 0xfffe;
/** The last 14 bytes of every KSDATAFORMAT_SUBTYPE GUID that wraps a plain format tag. */
const SUBTYPE_TAIL = [0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xaa, 0, 0x38, 0x9b, 0x71];
const EXPORT_AGAIN = "Export the sound again as a WAV file, or check that the copy is complete";

interface Format {
  encoding: WavEncoding;
  channelCount: number;
  sampleRateHz: number;
  bytesPerSample: number;
  speakers: number;
}

/** Position and encoding of the samples of a WAV file. */
interface Layout {
  format: Format;
  dataStart: number;
  /** Samples in each channel. */
  length: number;
}

/** A stretch of a file that is asked for. */
type Wanted = [offset: number, length: number];

/**
 * Reads a RIFF/WAVE file: PCM of 8, 16, 24 or 32 bits and float of 32 or 64 bits, plain or extensible,
 * 1 to 8 channels, 8 to 192 kHz. Unknown chunks are skipped. (IBM & Microsoft 1991; WAVEFORMATEXTENSIBLE.)
 *
 * @param bytes  the whole file; read, not changed
 * @param where  what to call the file in an error
 * @throws SoundFormatError naming what is wrong; nothing is allocated for sizes the file only claims
 * @example readWav(bytes, "horn.wav").channels[0].length
 */
export function readWav(bytes: Uint8Array, where = "the sound"): WavSound {
  const fail = failure(where);
  const walk = findSamples(bytes.length, fail);
  let step = walk.next();
  while (!step.done) step = walk.next(viewOf(bytes.subarray(step.value[0], step.value[0] + step.value[1])));
  const { format, dataStart, length } = step.value;
  const data = viewOf(bytes.subarray(dataStart));
  const channels = makeChannels(format.channelCount, length);
  const badSamples = readSamples(data, format, channels);
  refuseIfAllBad(badSamples, channels.length * length, fail);
  const { sampleRateHz, encoding, speakers } = format;
  return { sampleRateHz, encoding, channels, speakers, badSamples };
}

/** Bytes that are read in parts: a file on disk, or one on a server. */
export interface ByteSource {
  size: number;
  /** Gives `length` bytes from `offset` on. */
  read(offset: number, length: number): Promise<Uint8Array>;
}

/** A WAV file that is read a stretch at a time, for sounds too long to hold twice. */
export interface WavReader {
  sampleRateHz: number;
  encoding: WavEncoding;
  channelCount: number;
  /** Samples in each channel. */
  length: number;
  /** Speaker positions of the channels, a bit each, see `dsp/speakers`; 0 if the file does not name them. */
  speakers: number;
  /** Samples that were no finite numbers in what has been read: they count as 0. */
  badSamples: number;
  /** Samples of all channels from `first` on; fewer than `count` at the end. */
  read(first: number, count: number): Promise<Float32Array[]>;
  bytesPerSample: number;
  /** Offset of the first sample in the file, bytes. */
  dataStart: number;
}

/**
 * Opens a WAV file whose bytes are elsewhere; only its headers are read.
 *
 * @throws SoundFormatError as {@link readWav}; for a file of bad samples alone once all of it has been read
 */
export async function openWav(source: ByteSource, where = "the sound"): Promise<WavReader> {
  const fail = failure(where);
  const walk = findSamples(source.size, fail);
  let step = walk.next();
  while (!step.done) step = walk.next(viewOf(await source.read(...step.value)));
  const { format, dataStart, length } = step.value;
  const { sampleRateHz, encoding, channelCount, bytesPerSample, speakers } = format;
  const blockBytes = channelCount * bytesPerSample;
  const reader: WavReader = {
    sampleRateHz,
    encoding,
    channelCount,
    length,
    badSamples: 0,
    speakers,
    bytesPerSample,
    dataStart,
    read: async (first, count) => {
      const own = Math.max(0, Math.min(count, length - first));
      if (own === 0) return makeChannels(channelCount, 0);
      const bytes = await source.read(dataStart + first * blockBytes, own * blockBytes);
      const channels = makeChannels(channelCount, own);
      reader.badSamples += readSamples(viewOf(bytes), format, channels);
      if (first + own === length) refuseIfAllBad(reader.badSamples, channelCount * length, fail);
      return channels;
    },
  };
  return reader;
}

/** A WAV file of which any stretch of a channel can be had at once. */
export interface WavFile extends Omit<WavReader, "read" | "badSamples"> {
  /**
   * Fills `out` with samples of a channel from `first` on; they lie within the file. Bad ones are 0.
   *
   * @returns how many were bad
   */
  read(channel: number, first: number, out: Float32Array): number;
}

/**
 * Opens a WAV file; only its headers are read.
 *
 * @param size  bytes
 * @param readBytes  gives `length` bytes from `offset` on, which are read before the next call
 * @throws SoundFormatError as {@link readWav}, also for a file of bad samples alone: those of float files are counted at once
 * @returns the file, and how many bad samples it has
 */
export function openWavFile(
  size: number,
  readBytes: (offset: number, length: number) => Uint8Array,
  where = "the sound",
): WavFile & { badSamples: number } {
  const fail = failure(where);
  const walk = findSamples(size, fail);
  let step = walk.next();
  while (!step.done) step = walk.next(viewOf(readBytes(...step.value)));
  const { format, dataStart, length } = step.value;
  const { channelCount, bytesPerSample } = format;
  const blockBytes = channelCount * bytesPerSample;
  const read: WavFile["read"] = (channel, first, out) => {
    if (out.length === 0) return 0;
    const bytes = readBytes(dataStart + first * blockBytes, out.length * blockBytes);
    return readChannel(viewOf(bytes), format, channel, out);
  };
  let badSamples = 0;
  if (format.encoding.startsWith("float")) {
    for (let channel = 0; channel < channelCount; channel++)
      for (let first = 0; first < length; first += CHECKED_SAMPLES)
        badSamples += read(channel, first, new Float32Array(Math.min(CHECKED_SAMPLES, length - first)));
    refuseIfAllBad(badSamples, channelCount * length, fail);
  }
  return { ...format, length, dataStart, read, badSamples };
}

/** Samples that are checked at a time. */
const CHECKED_SAMPLES = 1 << 20;

const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
const makeChannels = (count: number, length: number) =>
  Array.from({ length: count }, () => new Float32Array(length));
const failure =
  (where: string): Fail =>
  (code, what, remedy = EXPORT_AGAIN) => {
    throw new SoundFormatError({ code, what, where, remedy });
  };
const tagAt = (view: DataView, offset: number) =>
  String.fromCharCode(...[0, 1, 2, 3].map((i) => view.getUint8(offset + i)));

/** Walks through a file's chunks, asking for the bytes it needs, to where the samples are. */
function* findSamples(fileBytes: number, fail: Fail): Generator<Wanted, Layout, DataView> {
  if (fileBytes === 0) return fail("sound-empty", "the file is empty");
  const head = fileBytes < 12 ? undefined : yield [0, 12];
  if (!head || tagAt(head, 0) !== "RIFF" || tagAt(head, 8) !== "WAVE") {
    return fail("sound-not-wav", "this is not a WAV file: it does not begin with a RIFF/WAVE header");
  }
  const claimed = head.getUint32(4, true);
  if (claimed > fileBytes - 8) {
    fail("sound-truncated", `the header claims ${claimed + 8} bytes but the file has ${fileBytes}`);
  }
  let format: Format | undefined;
  let offset = 12;
  while (offset + 8 <= fileBytes) {
    const chunk = yield [offset, 8];
    const tag = tagAt(chunk, 0);
    const size = chunk.getUint32(4, true);
    const start = offset + 8;
    const available = fileBytes - start;
    if (size > available) {
      fail(
        "sound-truncated",
        `the "${tag}" chunk at byte ${offset} claims ${size} bytes but only ${available} follow`,
      );
    }
    if (tag === "fmt ") format = readFormat(yield [start, Math.min(size, 64)], size, fail);
    if (tag === "data") {
      if (!format) return fail("sound-no-format", 'the "data" chunk comes before any "fmt " chunk');
      const length = Math.floor(size / (format.channelCount * format.bytesPerSample));
      if (length === 0) fail("sound-empty", "the file holds no samples");
      return { format, dataStart: start, length };
    }
    offset = start + size + (size & 1);
  }
  return fail(
    format ? "sound-no-data" : "sound-no-format",
    format ? 'there is no "data" chunk' : 'there is no "fmt " chunk',
  );
}

type Fail = (code: string, what: string, remedy?: string) => never;

function readFormat(view: DataView, size: number, fail: Fail): Format {
  if (size < 16) fail("sound-bad-format", `the "fmt " chunk has ${size} bytes; it needs at least 16`);
  let tag = view.getUint16(0, true);
  let speakers = 0;
  const channelCount = view.getUint16(2, true);
  const sampleRateHz = view.getUint32(4, true);
  const blockAlign = view.getUint16(12, true);
  const bits = view.getUint16(14, true);
  if (tag === TAG_EXTENSIBLE) {
    if (size < 40)
      fail("sound-bad-format", `the extensible "fmt " chunk has ${size} bytes; it needs at least 40`);
    if (SUBTYPE_TAIL.some((byte, i) => view.getUint8(26 + i) !== byte)) {
      fail("sound-encoding", "the extensible header names an encoding that is neither PCM nor float");
    }
    tag = view.getUint16(24, true);
    speakers = view.getUint32(20, true);
  }
  if (tag !== TAG_PCM && tag !== TAG_FLOAT) {
    fail(
      "sound-encoding",
      `the samples are compressed (format tag ${tag})`,
      "Export the sound as PCM or float WAV, or upload it in a format the browser plays",
    );
  }
  const encoding = `${tag === TAG_PCM ? "pcm" : "float"}${bits}` as WavEncoding;
  if (!WAV_ENCODINGS.includes(encoding)) {
    fail("sound-encoding", `${bits}-bit ${tag === TAG_PCM ? "PCM" : "float"} samples cannot be read`);
  }
  if (channelCount < 1 || channelCount > WAV_LIMITS.maxChannels) {
    fail(
      "sound-channels",
      `the file has ${channelCount} channels; 1 to ${WAV_LIMITS.maxChannels} can be read`,
    );
  }
  if (sampleRateHz < WAV_LIMITS.minRateHz || sampleRateHz > WAV_LIMITS.maxRateHz) {
    fail(
      "sound-rate",
      `the sample rate is ${sampleRateHz} Hz; ${WAV_LIMITS.minRateHz} to ${WAV_LIMITS.maxRateHz} Hz can be read`,
    );
  }
  const bytesPerSample = bits / 8;
  if (blockAlign !== bytesPerSample * channelCount) {
    fail(
      "sound-bad-format",
      `a block of ${blockAlign} bytes does not hold ${channelCount} samples of ${bits} bits`,
    );
  }
  return { encoding, channelCount, sampleRateHz, bytesPerSample, speakers };
}

/** Fills `channels` from interleaved samples, bad ones with 0; gives how many those are. */
const readSamples = (view: DataView, format: Format, channels: readonly Float32Array[]): number =>
  channels.reduce((bad, out, channel) => bad + readChannel(view, format, channel, out), 0);

/** Fills `out` from one of the channels of interleaved samples, bad ones with 0; gives how many those are. */
function readChannel(
  view: DataView,
  { channelCount, bytesPerSample, encoding }: Format,
  channel: number,
  out: Float32Array,
): number {
  if (encoding === "pcm16" && view.byteOffset % 2 === 0) {
    // The usual encoding, eight times as fast: WAV files and all machines with browsers are little-endian.
    const pcm = new Int16Array(view.buffer, view.byteOffset, out.length * channelCount);
    for (let i = 0, at = channel; i < out.length; i++, at += channelCount) out[i] = pcm[at] / 32_768;
    return 0;
  }
  const blockBytes = channelCount * bytesPerSample;
  const read = sampleReader(view, encoding);
  let bad = 0;
  let at = channel * bytesPerSample;
  for (let i = 0; i < out.length; i++, at += blockBytes) {
    out[i] = read(at);
    if (Number.isFinite(out[i])) continue;
    out[i] = 0;
    bad++;
  }
  return bad;
}

function refuseIfAllBad(bad: number, all: number, fail: Fail): void {
  if (bad > 0 && bad === all)
    fail(
      "sound-bad-samples",
      "none of its samples is a finite number",
      "Repair the sound in the program that made it, or export it as PCM",
    );
}

function sampleReader(view: DataView, encoding: WavEncoding): (offset: number) => number {
  switch (encoding) {
    case "pcm8":
      return (at) => (view.getUint8(at) - 128) / 128;
    case "pcm16":
      return (at) => view.getInt16(at, true) / 32_768;
    case "pcm24":
      return (at) => ((view.getInt8(at + 2) << 16) | view.getUint16(at, true)) / 8_388_608;
    case "pcm32":
      return (at) => view.getInt32(at, true) / 2_147_483_648;
    case "float32":
      return (at) => view.getFloat32(at, true);
    case "float64":
      return (at) => view.getFloat64(at, true);
  }
}

const refuse = (code: string, what: string): never => {
  throw new SoundFormatError({ code, what, where: "WAV writing", remedy: "Change the sound before writing" });
};

/**
 * Writes a RIFF/WAVE file; more than two channels get an extensible header. PCM is rounded, and clipped at
 * full scale.
 *
 * @param channels  1 to 8 arrays of equal length, full scale = 1
 * @param sampleRateHz  8 000 to 192 000
 * @returns the file's bytes
 * @throws SoundFormatError for a shape the format or Bumbrel cannot hold, and for samples that are not finite
 */
export function writeWav(
  channels: readonly Float32Array[],
  sampleRateHz: number,
  encoding: WavEncoding = "pcm16",
): Uint8Array<ArrayBuffer> {
  const header = wavHeader(channels.length, channels[0]?.length ?? 0, sampleRateHz, encoding);
  const data = wavData(channels, encoding);
  const bytes = new Uint8Array(header.length + data.length + (data.length & 1));
  bytes.set(header);
  bytes.set(data, header.length);
  return bytes;
}

/**
 * The header of a WAV file, for sounds that are written in blocks. A file whose samples are an
 * odd number of bytes ends with one byte more.
 *
 * @param length  samples in each channel
 * @throws SoundFormatError as {@link writeWav}
 */
export function wavHeader(
  channelCount: number,
  length: number,
  sampleRateHz: number,
  encoding: WavEncoding,
): Uint8Array<ArrayBuffer> {
  if (channelCount < 1 || channelCount > WAV_LIMITS.maxChannels) {
    refuse("sound-channels", `a sound of ${channelCount} channels cannot be written`);
  }
  if (
    !Number.isInteger(sampleRateHz) ||
    sampleRateHz < WAV_LIMITS.minRateHz ||
    sampleRateHz > WAV_LIMITS.maxRateHz
  ) {
    refuse("sound-rate", `a sample rate of ${sampleRateHz} Hz cannot be written`);
  }
  const bits = bitsOf(encoding);
  const blockBytes = channelCount * (bits / 8);
  const dataBytes = length * blockBytes;
  const extensible = channelCount > 2;
  const formatBytes = extensible ? 40 : 16;
  const total = 12 + 8 + formatBytes + 8 + dataBytes + (dataBytes & 1);
  if (total - 8 > 0xffffffff) refuse("sound-too-long", "a WAV file cannot be larger than 4 GiB");

  const bytes = new Uint8Array(28 + formatBytes);
  const view = new DataView(bytes.buffer);
  const putTag = (offset: number, tag: string) => {
    for (let i = 0; i < 4; i++) bytes[offset + i] = tag.charCodeAt(i);
  };
  const plainTag = encoding.startsWith("float") ? TAG_FLOAT : TAG_PCM;
  putTag(0, "RIFF");
  view.setUint32(4, total - 8, true);
  putTag(8, "WAVE");
  putTag(12, "fmt ");
  view.setUint32(16, formatBytes, true);
  view.setUint16(20, extensible ? TAG_EXTENSIBLE : plainTag, true);
  view.setUint16(22, channelCount, true);
  view.setUint32(24, sampleRateHz, true);
  view.setUint32(28, sampleRateHz * blockBytes, true);
  view.setUint16(32, blockBytes, true);
  view.setUint16(34, bits, true);
  if (extensible) {
    view.setUint16(36, 22, true);
    view.setUint16(38, bits, true);
    view.setUint32(40, 0, true);
    view.setUint16(44, plainTag, true);
    bytes.set(SUBTYPE_TAIL, 46);
  }
  putTag(20 + formatBytes, "data");
  view.setUint32(24 + formatBytes, dataBytes, true);
  return bytes;
}

/**
 * Samples as they are encoded in a WAV file.
 *
 * @throws SoundFormatError when the channels differ in length or a sample is not finite
 */
export function wavData(channels: readonly Float32Array[], encoding: WavEncoding): Uint8Array<ArrayBuffer> {
  const { length } = channels[0];
  if (channels.some((channel) => channel.length !== length)) {
    refuse("sound-channels", "the channels differ in length");
  }
  const bytesPerSample = bitsOf(encoding) / 8;
  const bytes = new Uint8Array(length * channels.length * bytesPerSample);
  const write = sampleWriter(new DataView(bytes.buffer), encoding);
  let at = 0;
  for (let i = 0; i < length; i++) {
    for (const channel of channels) {
      if (!Number.isFinite(channel[i])) refuse("sound-bad-samples", `sample ${i} is not a finite number`);
      write(at, channel[i]);
      at += bytesPerSample;
    }
  }
  return bytes;
}

const bitsOf = (encoding: WavEncoding) => Number(encoding.replace(/\D+/, ""));

function sampleWriter(view: DataView, encoding: WavEncoding): (offset: number, value: number) => void {
  const pcm = (value: number, fullScale: number) =>
    Math.max(-fullScale, Math.min(fullScale - 1, Math.round(value * fullScale)));
  switch (encoding) {
    case "pcm8":
      return (at, value) => view.setUint8(at, pcm(value, 128) + 128);
    case "pcm16":
      return (at, value) => view.setInt16(at, pcm(value, 32_768), true);
    case "pcm24":
      return (at, value) => {
        const whole = pcm(value, 8_388_608);
        view.setUint16(at, whole & 0xffff, true);
        view.setInt8(at + 2, whole >> 16);
      };
    case "pcm32":
      return (at, value) => view.setInt32(at, pcm(value, 2_147_483_648), true);
    case "float32":
      return (at, value) => view.setFloat32(at, value, true);
    case "float64":
      return (at, value) => view.setFloat64(at, value, true);
  }
}
