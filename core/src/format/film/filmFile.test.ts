import { describe, expect, it } from "@jest/globals";
import {
  BufferSource,
  BufferTarget,
  EncodedAudioPacketSource,
  EncodedPacket,
  EncodedPacketSink,
  EncodedVideoPacketSource,
  Input,
  MP4,
  Output,
  WEBM,
} from "mediabunny";
import {
  aacLead,
  commentOf,
  containerFormat,
  type FilmContainer,
  type FilmPiece,
  leadComment,
  writeFilm,
} from "./filmFile";

const FPS = 25;
/** Samples that the made-up encoder of Opus puts before the beginning. */
const BEFORE = 312;
const VIDEO = {
  mp4: {
    codec: "avc",
    config: {
      codec: "avc1.42c00a",
      codedWidth: 64,
      codedHeight: 48,
      // How an encoder of the baseline profile describes 64 × 48 pixels.
      description: Uint8Array.of(
        ...[
          1, 66, 192, 10, 255, 225, 0, 23, 103, 66, 192, 10, 217, 4, 123, 1, 16, 0, 0, 3, 0, 16, 0, 0, 3, 3,
          32, 241,
        ],
        ...[34, 100, 128, 1, 0, 5, 104, 203, 131, 203, 32],
      ),
    },
  },
  webm: { codec: "vp9", config: { codec: "vp09.00.10.08", codedWidth: 64, codedHeight: 48 } },
} as const;
const SOUND = {
  mp4: {
    codec: "aac",
    packet: 1024,
    config: {
      codec: "mp4a.40.2",
      sampleRate: 48_000,
      numberOfChannels: 2,
      description: Uint8Array.of(17, 144),
    },
  },
  webm: {
    codec: "opus",
    packet: 960,
    config: {
      codec: "opus",
      sampleRate: 48_000,
      numberOfChannels: 2,
      // RFC 7845: the name, version, channels, samples to skip, rate, gain, mapping.
      description: Uint8Array.of(
        ...Buffer.from("OpusHead"),
        ...[1, 2, BEFORE & 255, BEFORE >> 8, 128, 187, 0, 0, 0, 0, 0],
      ),
    },
  },
} as const;

/** A file of so many frames, whose bytes say which they are. */
async function piece(container: FilmContainer, from: number, count: number, width = 64): Promise<FilmPiece> {
  const { codec, config } = VIDEO[container];
  const target = new BufferTarget();
  const output = new Output({ format: containerFormat(container), target });
  const source = new EncodedVideoPacketSource(codec);
  output.addVideoTrack(source, { frameRate: FPS });
  await output.start();
  for (let i = 0; i < count; i++) {
    const data = Uint8Array.of(0, 0, 0, 4, 101, from + i, 0, 0);
    await source.add(new EncodedPacket(data, i === 0 ? "key" : "delta", i / FPS, 1 / FPS), {
      decoderConfig: { ...config, codedWidth: width },
    });
  }
  await output.finalize();
  return { file: new Uint8Array(target.buffer!), fromFrame: from };
}

async function sound(container: FilmContainer, packets: number, comment?: string): Promise<Uint8Array> {
  const { codec, packet, config } = SOUND[container];
  const target = new BufferTarget();
  const output = new Output({ format: containerFormat(container), target });
  const source = new EncodedAudioPacketSource(codec);
  output.addAudioTrack(source);
  if (comment) output.setMetadataTags({ comment });
  await output.start();
  for (let i = 0; i < packets; i++) {
    const data = Uint8Array.of(252, i & 255, 1, 2, 3);
    await source.add(new EncodedPacket(data, "key", (i * packet) / 48_000, packet / 48_000), {
      decoderConfig: config,
    });
  }
  await output.finalize();
  return new Uint8Array(target.buffer!);
}

async function write(container: FilmContainer, pieces: FilmPiece[], change = {}) {
  async function* each() {
    yield* pieces;
  }
  const bytes = new Uint8Array(1 << 20);
  let end = 0;
  const frames = await writeFilm(
    { container, framesPerSecond: FPS, title: "Quay", pieces: each(), samples: 3 * 1920, ...change },
    async (position, part) => {
      bytes.set(part, position);
      end = Math.max(end, position + part.length);
    },
  );
  return { frames, bytes: bytes.slice(0, end) };
}
async function packetsOf(bytes: Uint8Array, kind: "video" | "audio") {
  const input = new Input({ formats: [MP4, WEBM], source: new BufferSource(bytes) });
  const track = kind === "video" ? await input.getPrimaryVideoTrack() : await input.getPrimaryAudioTrack();
  const packets: EncodedPacket[] = [];
  for await (const packet of new EncodedPacketSink(track!).packets()) packets.push(packet);
  return packets;
}

describe.each(["mp4", "webm"] as const)("a film put together from pieces, %s", (container) => {
  it("has every frame once, each at its time", async () => {
    const pieces = [
      await piece(container, 0, 50),
      await piece(container, 50, 50),
      await piece(container, 100, 7),
    ];
    const { frames, bytes } = await write(container, pieces);
    expect(frames).toBe(107);
    const packets = await packetsOf(bytes, "video");
    expect(packets.map(({ data }) => data[5])).toEqual(Array.from({ length: 107 }, (_none, i) => i));
    packets.forEach(({ timestamp }, i) => {
      expect(Math.abs(timestamp - i / FPS)).toBeLessThan(0.0006);
    });
    expect(packets.filter(({ type }) => type === "key")).toHaveLength(3);
  });

  it("begins at its own first frame when it is a part, and names the whole", async () => {
    const { frames, bytes } = await write(container, [await piece(container, 50, 25)], { comment: "part 2" });
    expect(frames).toBe(25);
    expect((await packetsOf(bytes, "video"))[0].timestamp).toBe(0);
    expect(await commentOf(bytes)).toBe("part 2");
  });

  it("refuses gaps, pieces that were encoded differently, sound that is too short, and nothing at all", async () => {
    const first = await piece(container, 0, 50);
    await expect(write(container, [first, await piece(container, 60, 5)])).rejects.toThrow(
      "Frames 50 to 59 are missing",
    );
    await expect(write(container, [first, await piece(container, 50, 5, 32)])).rejects.toThrow(
      "encoded differently",
    );
    await expect(write(container, [])).rejects.toThrow("no frames");
    await expect(write(container, [first], { sound: await sound(container, 3) })).rejects.toThrow(
      "too short",
    );
    await expect(write(container, [{ file: await sound(container, 3), fromFrame: 0 }])).rejects.toThrow(
      "holds no picture",
    );
  });
});

describe("the ends of a film's sound", () => {
  it("are cut by an edit list and a short last packet in MP4", async () => {
    const { bytes } = await write("mp4", [await piece("mp4", 0, 3)], { sound: await sound("mp4", 10) });
    const packets = await packetsOf(bytes, "audio");
    // 1024 samples before the beginning, then 5760: six packets and a part of the seventh.
    expect(packets).toHaveLength(7);
    expect(packets[0].timestamp).toBeCloseTo(-1024 / 48_000, 6);
    const last = packets.at(-1)!;
    expect((last.timestamp + last.duration) * 48_000).toBeCloseTo(5760, 3);
  });

  it("need no short packet in MP4 where silence was encoded before the beginning", async () => {
    const lead = aacLead(5760);
    const encoded = await sound("mp4", 10, leadComment(lead));
    const { bytes } = await write("mp4", [await piece("mp4", 0, 3)], { sound: encoded });
    const packets = await packetsOf(bytes, "audio");
    expect(packets).toHaveLength((1024 + lead + 5760) / 1024);
    expect(packets[0].timestamp).toBeCloseTo(-(1024 + lead) / 48_000, 6);
    const last = packets.at(-1)!;
    expect(last.duration * 48_000).toBeCloseTo(1024, 3);
    expect((last.timestamp + last.duration) * 48_000).toBeCloseTo(5760, 3);
    expect(aacLead(2048)).toBe(0);
  });

  it("are said by CodecDelay and DiscardPadding in WebM", async () => {
    const { bytes } = await write("webm", [await piece("webm", 0, 3)], { sound: await sound("webm", 10) });
    const packets = await packetsOf(bytes, "audio");
    // 312 samples before the beginning and 5760 after it: seven packets, of which 648 samples are too many.
    expect(packets.map(({ data }) => [...data])).toEqual(
      Array.from({ length: 7 }, (_none, i) => [252, i, 1, 2, 3]),
    );
    const file = Buffer.from(bytes);
    const delayAt = file.indexOf(Buffer.from([0x56, 0xaa, 0x88]));
    expect(Number(file.readBigUInt64BE(delayAt + 3))).toBe((BEFORE / 48_000) * 1e9);
    const paddingAt = file.indexOf(Buffer.from([0x75, 0xa2, 0x84]));
    expect(file.readInt32BE(paddingAt + 3)).toBe(((7 * 960 - BEFORE - 5760) / 48_000) * 1e9);
    expect(file.includes("end of audio") || file.includes("delay-ns")).toBe(false);
  });
});
