import {
  BufferSource,
  EncodedAudioPacketSource,
  EncodedPacket,
  EncodedPacketSink,
  EncodedVideoPacketSource,
  FilePathSource,
  Input,
  MP4,
  Mp4OutputFormat,
  Output,
  StreamTarget,
  type StreamTargetChunk,
  WEBM,
  WebMOutputFormat,
} from "mediabunny";
import { SAMPLE_RATE_HZ } from "../../constants";
import { exactWebM } from "./exactWebM";

// The standard's stream, which browsers and Node have alike.
declare class WritableStream {
  constructor(sink: { write(chunk: StreamTargetChunk): Promise<void> });
}

/** Files that films are put into. */
export type FilmContainer = "mp4" | "webm";

/** The bytes of a file, or the path of one that is read as far as it is needed. */
export type FilmBytes = Uint8Array | { path: string };

/** A run of frames, encoded by themselves: the file of a segment, or of several in a row. */
export interface FilmPiece {
  file: FilmBytes;
  /** Number of its first frame in the film. */
  fromFrame: number;
}

/** Writes bytes of a file at a position, which may lie before the end. */
export type WriteAt = (position: number, bytes: Uint8Array) => Promise<void>;

export interface FilmFileParts {
  container: FilmContainer;
  framesPerSecond: number;
  title: string;
  /** Comment of the file, beside its title. */
  comment?: string;
  /** In order, without gaps. */
  pieces: AsyncIterable<FilmPiece>;
  /** The whole sound, encoded, as a file of its own; none for parts of a film that carry no sound. */
  sound?: FilmBytes;
  /** Samples of the sound at 48 kHz that are to be heard. */
  samples: number;
}

/** A film cannot be put together from what there is. */
export class FilmFileError extends Error {}

/** Samples that an encoder of AAC puts before the beginning, and those of a packet. */
const AAC = { before: 1024, packet: 1024 };

/**
 * Samples of silence to encode before a sound in AAC, so that it ends with its last packet. Readers cut the beginning off by
 * the edit list, but many play the last packet to its end.
 */
export const aacLead = (samples: number): number => (AAC.packet - (samples % AAC.packet)) % AAC.packet;

/** Says in a file of sound alone how many samples of silence come first, and reads it; 0 where nothing is said. */
export const leadComment = (lead: number): string => `lead ${lead}`;
const leadOf = (comment: string | undefined): number => Number(/^lead (\d+)$/.exec(comment ?? "")?.[1] ?? 0);
/** Samples of a packet of Opus. */
const OPUS_PACKET = 960;

const read = (file: FilmBytes) =>
  new Input({
    formats: [MP4, WEBM],
    source:
      file instanceof Uint8Array
        ? new BufferSource(file as Uint8Array<ArrayBuffer>)
        : new FilePathSource(file.path),
  });

export const containerFormat = (container: FilmContainer) =>
  container === "mp4" ? new Mp4OutputFormat({ fastStart: false }) : new WebMOutputFormat();

/**
 * Puts encoded pieces and their sound into one film, without encoding again. Picture and sound end on the same sample:
 * what encoders put before and after the sound is marked as not to be heard.
 *
 * @param writeAt  called one call after the other; nothing is held but what the container needs
 * @returns the number of frames
 * @throws FilmFileError when pieces were encoded in different ways, or frames are missing
 */
export async function writeFilm(parts: FilmFileParts, writeAt: WriteAt): Promise<number> {
  const { container, framesPerSecond, title, comment, pieces, samples } = parts;
  const sound = parts.sound && (await readSound(parts.sound, samples));
  const exact = container === "webm" && sound ? exactWebM(writeAt, sound.before, sound.after) : undefined;
  const output = new Output({
    format: containerFormat(container),
    target: new StreamTarget(
      new WritableStream({
        write: ({ position, data }) => (exact ? exact.write(position, data) : writeAt(position, data)),
      }) as never,
    ),
  });
  output.setMetadataTags({ title, ...(comment && { comment }) });
  let video: EncodedVideoPacketSource | undefined;
  const audio = sound && new EncodedAudioPacketSource(sound.codec);
  let description = "";
  let frames = -1;
  let first = 0;
  let nextPacket = 0;
  /** Adds the sound up to a time, so that it lies beside its picture. */
  const addSound = async (untilS: number) => {
    if (!sound || !audio) return;
    const { packets, packetSamples, before, config } = sound;
    for (; nextPacket < packets.length; nextPacket++) {
      // Matroska counts from the first sample that was encoded and says how many of them are not heard.
      const from = nextPacket * packetSamples - (container === "mp4" ? before : 0);
      if (from / SAMPLE_RATE_HZ > untilS) return;
      const isLast = nextPacket === packets.length - 1;
      const length = Math.max(0, Math.min(packetSamples, samples - from));
      const data = isLast && exact ? exact.lastPacket(packets[nextPacket].data) : packets[nextPacket].data;
      await audio.add(
        new EncodedPacket(data, "key", from / SAMPLE_RATE_HZ, length / SAMPLE_RATE_HZ),
        nextPacket === 0 ? { decoderConfig: config } : undefined,
      );
    }
  };
  for await (const { file, fromFrame } of pieces) {
    const input = read(file);
    const track = await input.getPrimaryVideoTrack();
    const config = await track?.getDecoderConfig();
    const codec = await track?.getCodec();
    if (!track || !config || !codec) throw new FilmFileError("One of the pieces holds no picture.");
    const own = descriptionOf(config);
    if (!video) {
      video = new EncodedVideoPacketSource(codec);
      output.addVideoTrack(video, { frameRate: framesPerSecond });
      if (audio) output.addAudioTrack(audio, { name: exact?.trackName });
      await output.start();
      description = own;
      first = fromFrame;
      frames = fromFrame;
    } else if (own !== description) {
      throw new FilmFileError(
        `The frames from ${fromFrame} on were encoded differently from those before them: make all parts with one version of the browser and the same settings.`,
      );
    }
    if (fromFrame !== frames)
      throw new FilmFileError(`Frames ${frames} to ${fromFrame - 1} are missing between the pieces.`);
    let isFirst = true;
    for await (const packet of new EncodedPacketSink(track).packets()) {
      const frame = fromFrame + Math.round(packet.timestamp * framesPerSecond);
      await video.add(
        packet.clone({ timestamp: (frame - first) / framesPerSecond, duration: 1 / framesPerSecond }),
        isFirst ? { decoderConfig: config } : undefined,
      );
      isFirst = false;
      frames++;
    }
    input.dispose();
    await addSound((frames - first) / framesPerSecond);
  }
  if (!video) throw new FilmFileError("There are no frames to put together.");
  await addSound(Number.POSITIVE_INFINITY);
  await output.finalize();
  await exact?.finish();
  return frames - first;
}

/** How a picture is encoded, as text to be compared. */
const descriptionOf = ({ codec, codedWidth, codedHeight, description }: VideoConfig): string =>
  [codec, codedWidth, codedHeight, description ? [...new Uint8Array(asBuffer(description))].join() : ""].join(
    " ",
  );
interface VideoConfig {
  codec: string;
  codedWidth?: number;
  codedHeight?: number;
  description?: unknown;
}
const asBuffer = (data: unknown): ArrayBuffer =>
  ArrayBuffer.isView(data)
    ? (data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength) as ArrayBuffer)
    : (data as ArrayBuffer);

/**
 * @param samples  to be heard; packets after them are left out
 * @returns its packets, and how many samples of theirs are not to be heard
 */
async function readSound(file: FilmBytes, samples: number) {
  const input = read(file);
  const track = await input.getPrimaryAudioTrack();
  const config = await track?.getDecoderConfig();
  const codec = await track?.getCodec();
  if (!track || !config || !codec) throw new FilmFileError("The sound of the film cannot be read.");
  // RFC 7845: bytes 10 and 11 of the header of Opus say how many samples to skip.
  const header = codec === "opus" ? new Uint8Array(asBuffer(config.description)) : undefined;
  const lead = leadOf((await input.getMetadataTags()).comment);
  const before = header ? header[10] + 256 * header[11] : AAC.before + lead;
  const packetSamples = header ? OPUS_PACKET : AAC.packet;
  const packets: EncodedPacket[] = [];
  for await (const packet of new EncodedPacketSink(track).packets()) {
    if (packets.length * packetSamples < before + samples) packets.push(packet);
  }
  input.dispose();
  const after = packets.length * packetSamples - before - samples;
  if (after < 0) throw new FilmFileError(`The sound of the film is ${-after} samples too short.`);
  return { codec, config, packets, before, after, packetSamples };
}

/** The comment that a film was written with. */
export async function commentOf(file: FilmBytes): Promise<string | undefined> {
  const input = read(file);
  try {
    return (await input.getMetadataTags()).comment;
  } finally {
    input.dispose();
  }
}
