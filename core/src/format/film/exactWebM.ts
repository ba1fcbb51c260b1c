import { SAMPLE_RATE_HZ } from "../../constants";

/** Element IDs of Matroska (RFC 9559). */
const NAME = [0x53, 0x6e];
const CODEC_DELAY = [0x56, 0xaa];
const DISCARD_PADDING = [0x75, 0xa2];
const SIMPLE_BLOCK = 0xa3;
const BLOCK_GROUP = 0xa0;
const BLOCK = 0xa1;

/** Stands where the delay of the codec will be: as long as its number. */
const DELAY_MARK = "delay-ns";
/** Stands after the last packet: as long as what marks its end takes, the head of a block and the discarded time. */
const END_MARK = "end of audio";
/** Track number, time and flags of a block. */
const BLOCK_HEAD = 4;

const nanoseconds = (samples: number) => BigInt(Math.round((samples / SAMPLE_RATE_HZ) * 1e9));
const ascii = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));

/**
 * Says in a WebM file how many samples of its sound are not to be heard, before the beginning and after the end: the muxer
 * that writes the file cannot. What it writes instead, a name of the track and bytes after the last packet, is replaced by
 * elements that are exactly as long (CodecDelay and DiscardPadding, RFC 9559).
 *
 * @param writeAt  where the file is written
 * @param before  samples before the beginning, at 48 kHz
 * @param after  samples after the end, fewer than a packet has
 */
export function exactWebM(
  writeAt: (position: number, bytes: Uint8Array) => Promise<void>,
  before: number,
  after: number,
) {
  const delayMark = new Uint8Array([...NAME, 0x88, ...ascii(DELAY_MARK)]);
  const endMark = ascii(END_MARK);
  let lastBytes = -1;
  let isDelaySaid = false;
  let isEndSaid = false;
  return {
    /** The name that the track of the sound is to have. */
    trackName: DELAY_MARK,
    /** The last packet as it is to be handed to the muxer. */
    lastPacket(data: Uint8Array): Uint8Array {
      lastBytes = data.length;
      const marked = new Uint8Array(data.length + endMark.length);
      marked.set(data);
      marked.set(endMark, data.length);
      return marked;
    },
    async write(position: number, written: Uint8Array): Promise<void> {
      let bytes = written;
      const delayAt = indexOf(bytes, delayMark, 0);
      if (delayAt >= 0) {
        bytes = bytes.slice();
        bytes.set(CODEC_DELAY, delayAt);
        new DataView(bytes.buffer).setBigUint64(delayAt + 3, nanoseconds(before));
        isDelaySaid = true;
      }
      for (let at = 0; lastBytes >= 0 && !isEndSaid; at++) {
        at = indexOf(bytes, endMark, at);
        if (at < 0) break;
        const marked = endBlock(bytes, at, lastBytes, after);
        if (!marked) continue;
        bytes = marked;
        isEndSaid = true;
      }
      await writeAt(position, bytes);
    },
    /** @throws Error when the file says nothing of it, since the muxer wrote it in another way */
    async finish(): Promise<void> {
      if (!isDelaySaid || !isEndSaid) throw new Error("The ends of the sound could not be marked.");
    },
  };
}

/** The bytes with the block of the last packet as a group that says how much of it is discarded. */
function endBlock(
  bytes: Uint8Array,
  markAt: number,
  packetBytes: number,
  after: number,
): Uint8Array | undefined {
  const headAt = markAt - packetBytes - BLOCK_HEAD;
  const sizeOfBlock = BLOCK_HEAD + packetBytes + END_MARK.length;
  for (let width = 1; width <= 8; width++) {
    const at = headAt - width - 1;
    if (at < 0 || bytes[at] !== SIMPLE_BLOCK || readSize(bytes, at + 1, width) !== sizeOfBlock) continue;
    const out = bytes.slice();
    const view = new DataView(out.buffer);
    out[at] = BLOCK_GROUP;
    let next = at + 1 + width;
    out[next++] = BLOCK;
    view.setUint32(next, 0x1000_0000 + BLOCK_HEAD + packetBytes);
    next += 4;
    out.set(bytes.subarray(headAt, markAt), next);
    // Only simple blocks have a flag for key frames.
    out[next + BLOCK_HEAD - 1] = 0;
    next += BLOCK_HEAD + packetBytes;
    out.set([...DISCARD_PADDING, 0x84], next);
    view.setInt32(next + 3, Number(nanoseconds(after)));
    return out;
  }
  return undefined;
}

/** A size as Matroska writes it, in so many bytes; `undefined` where it is written in fewer or more. */
function readSize(bytes: Uint8Array, at: number, width: number): number | undefined {
  if (bytes[at] >> (8 - width) !== 1) return undefined;
  let size = bytes[at] & (2 ** (8 - width) - 1);
  for (let i = 1; i < width; i++) size = size * 256 + bytes[at + i];
  return size;
}

function indexOf(bytes: Uint8Array, wanted: Uint8Array, from: number): number {
  for (let at = bytes.indexOf(wanted[0], from); at >= 0; at = bytes.indexOf(wanted[0], at + 1)) {
    if (wanted.every((one, i) => bytes[at + i] === one)) return at;
  }
  return -1;
}
