import { FRAME_RATE_HZ } from "../constants";
import { BumbrelError } from "../errors";
import { platform } from "../platform";
import { crc32 } from "./bytes/crc32";

/** Numbers of one strand over time, as curves hold them. */
export interface Curve {
  id: string;
  name: string;
  /** Numbers a frame. */
  width: number;
  /** Frame after frame at 100 a second, `width` numbers each. */
  values: Float32Array;
  /** Seconds after which they repeat; 0 if they do not. */
  loopS: number;
  cues: readonly { timeS: number; strength: number }[];
}

/** First bytes of every file of curves. */
export const CURVES_MAGIC = [0x42, 0x4d, 0x42, 0x52, 0x4c, 0x43, 0x52, 0x56];
export const CURVES_VERSION = 1;
export const CURVES_HEAD_BYTES = 20;
export const CURVE_HEAD_BYTES = 32;
const CUE_BYTES = 12;
/** Numbers are kept in so many steps from the lowest to the highest of their strand. */
export const CURVE_STEPS = 65_535;
/** How many of the numbers before it each is told from: none, one, or two in a straight line. */
const ORDERS = [0, 1, 2] as const;

/**
 * Writes strands as baked curves: 16 bits a number, 100 frames a second. The layout stands in docs/curves.md.
 *
 * @param lengthS  seconds of the tape
 * @throws RangeError for numbers that are not finite
 */
export function writeCurves(curves: readonly Curve[], lengthS: number): Uint8Array {
  const blocks = curves.map(curveBlock);
  const bytes = new Uint8Array(CURVES_HEAD_BYTES + blocks.reduce((sum, block) => sum + block.length, 0) + 4);
  const view = new DataView(bytes.buffer);
  bytes.set(CURVES_MAGIC);
  view.setUint16(8, CURVES_VERSION, true);
  view.setUint16(10, curves.length, true);
  view.setFloat64(12, lengthS, true);
  let at = CURVES_HEAD_BYTES;
  for (const block of blocks) {
    bytes.set(block, at);
    at += block.length;
  }
  view.setUint32(at, crc32(bytes.subarray(0, at)), true);
  return bytes;
}

function curveBlock({ id, name, width, values, loopS, cues }: Curve): Uint8Array {
  const text = new platform.TextEncoder();
  const [idBytes, nameBytes] = [text.encode(id), text.encode(name)];
  const frames = Math.floor(values.length / width);
  const numbersAt = CURVE_HEAD_BYTES + padded(idBytes.length + nameBytes.length) + cues.length * CUE_BYTES;
  const bytes = new Uint8Array(padded(numbersAt + 2 * frames * width));
  const view = new DataView(bytes.buffer);
  const [low, high] = rangeOf(values, name);
  const order = bestOrder(values, width, low, high);
  view.setUint32(0, bytes.length, true);
  view.setUint16(4, idBytes.length, true);
  view.setUint16(6, nameBytes.length, true);
  view.setUint16(8, width, true);
  view.setUint16(10, order, true);
  view.setUint32(12, frames, true);
  view.setUint32(16, cues.length, true);
  view.setFloat32(20, low, true);
  view.setFloat32(24, high, true);
  view.setFloat32(28, loopS, true);
  bytes.set(idBytes, CURVE_HEAD_BYTES);
  bytes.set(nameBytes, CURVE_HEAD_BYTES + idBytes.length);
  let at = CURVE_HEAD_BYTES + padded(idBytes.length + nameBytes.length);
  for (const { timeS, strength } of cues) {
    view.setFloat64(at, timeS, true);
    view.setFloat32(at + 8, strength, true);
    at += CUE_BYTES;
  }
  for (let band = 0; band < width; band++) {
    eachRest(values, width, band, low, high, order, (rest, frame) => {
      bytes[numbersAt + 2 * band * frames + frame] = rest & 255;
      bytes[numbersAt + (2 * band + 1) * frames + frame] = rest >> 8;
    });
  }
  return bytes;
}

/** Lengths are whole multiples of four bytes. */
const padded = (length: number) => Math.ceil(length / 4) * 4;

/** Lowest and highest number; 0 and 1 for those within, so that strands of one kind share their steps. */
function rangeOf(values: Float32Array, name: string): [number, number] {
  let [low, high] = [0, 1];
  for (const value of values) {
    if (!Number.isFinite(value)) throw new RangeError(`The numbers of "${name}" are not all finite.`);
    low = Math.min(low, value);
    high = Math.max(high, value);
  }
  // As the file holds them, so that both sides count in the same steps.
  return [Math.fround(low), Math.fround(high)];
}

/**
 * Calls `take` with how far each number of a band, in steps, is from what those before it tell: up is even, down is
 * odd, so that small differences are small numbers.
 */
function eachRest(
  values: Float32Array,
  width: number,
  band: number,
  low: number,
  high: number,
  order: number,
  take: (rest: number, frame: number) => void,
): void {
  const scale = CURVE_STEPS / (high - low);
  let [before, beforeThat] = [0, 0];
  for (let frame = 0, at = band; at < values.length; frame++, at += width) {
    const now = Math.min(CURVE_STEPS, Math.max(0, Math.round((values[at] - low) * scale)));
    const told = order === 0 ? 0 : order === 1 ? before : 2 * before - beforeThat;
    const difference = ((now - told) << 16) >> 16;
    take(((difference << 1) ^ (difference >> 15)) & 0xffff, frame);
    beforeThat = before;
    before = now;
  }
}

/** The order that leaves the smallest numbers: those pack best. */
function bestOrder(values: Float32Array, width: number, low: number, high: number): number {
  let [best, least] = [0, Number.POSITIVE_INFINITY];
  for (const order of ORDERS) {
    let bits = 0;
    for (let band = 0; band < width; band++) {
      eachRest(values, width, band, low, high, order, (rest) => {
        bits += 32 - Math.clz32(rest);
      });
    }
    if (bits < least) [best, least] = [order, bits];
  }
  return best;
}

/** A file of curves that cannot be read. */
export class CurvesError extends BumbrelError {
  constructor(what: string, where: string) {
    super({ code: "curves-damaged", what, where, remedy: "Bake it again in Deliver, and copy it as binary" });
  }
}

/** Curves as they are read. */
export interface Curves {
  lengthS: number;
  curves: Curve[];
}

/**
 * Reads baked curves. Each number is within half a step, (high − low) / 131070, of what was written.
 *
 * @param where  names the file in errors
 * @throws CurvesError for bytes that are no whole file of curves
 */
export function readCurves(bytes: Uint8Array, where = "the file of curves"): Curves {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < CURVES_HEAD_BYTES + 4 || CURVES_MAGIC.some((byte, i) => bytes[i] !== byte))
    throw new CurvesError("it is no file of curves", where);
  const version = view.getUint16(8, true);
  if (version !== CURVES_VERSION)
    throw new CurvesError(`its version is ${version}, not ${CURVES_VERSION}`, where);
  const end = bytes.length - 4;
  if (crc32(bytes.subarray(0, end)) !== view.getUint32(end, true))
    throw new CurvesError("its checksum does not fit: it is cut off or was changed", where);
  const text = new platform.TextDecoder();
  const curves: Curve[] = [];
  let start = CURVES_HEAD_BYTES;
  for (let i = 0; i < view.getUint16(10, true); i++) {
    const idEnd = start + CURVE_HEAD_BYTES + view.getUint16(start + 4, true);
    const nameEnd = idEnd + view.getUint16(start + 6, true);
    const width = view.getUint16(start + 8, true);
    const order = view.getUint16(start + 10, true);
    const frames = view.getUint32(start + 12, true);
    const [low, high] = [view.getFloat32(start + 20, true), view.getFloat32(start + 24, true)];
    let at = start + CURVE_HEAD_BYTES + padded(nameEnd - start - CURVE_HEAD_BYTES);
    const cues = Array.from({ length: view.getUint32(start + 16, true) }, () => {
      const cue = { timeS: view.getFloat64(at, true), strength: view.getFloat32(at + 8, true) };
      at += CUE_BYTES;
      return cue;
    });
    const values = new Float32Array(frames * width);
    for (let band = 0; band < width; band++) {
      let [before, beforeThat] = [0, 0];
      for (let frame = 0; frame < frames; frame++) {
        const rest = bytes[at + frame] | (bytes[at + frames + frame] << 8);
        const told = order === 0 ? 0 : order === 1 ? before : 2 * before - beforeThat;
        const now = (told + ((rest >> 1) ^ -(rest & 1))) & 0xffff;
        values[frame * width + band] = low + ((high - low) * now) / CURVE_STEPS;
        beforeThat = before;
        before = now;
      }
      at += 2 * frames;
    }
    curves.push({
      id: text.decode(bytes.subarray(start + CURVE_HEAD_BYTES, idEnd)),
      name: text.decode(bytes.subarray(idEnd, nameEnd)),
      width,
      values,
      loopS: view.getFloat32(start + 28, true),
      cues,
    });
    start += view.getUint32(start, true);
  }
  return { lengthS: view.getFloat64(12, true), curves };
}

/** Bytes that a strand of curves takes: what a size before writing is told from. */
export const curveBytes = (seconds: number, width: number): number =>
  CURVE_HEAD_BYTES + 2 * Math.ceil(seconds * FRAME_RATE_HZ) * width;
