import rangeParser from "range-parser";
import { HttpProblem } from "../problem/problem";

/** A stretch of bytes, both ends included. */
export interface ByteRange {
  first: number;
  last: number;
}

/**
 * Reads a `Range` header of one range.
 *
 * @returns the stretch asked for, or `undefined` when all is to be sent: no header, another unit, several
 *   ranges, or one that cannot be understood
 * @throws HttpProblem 416 when it lies outside
 */
export function parseRange(header: string | undefined, byteLength: number): ByteRange | undefined {
  if (header === undefined) return undefined;
  const [, from, to] = /^bytes=(\d*)-(\d*)$/.exec(header.trim()) ?? [];
  // The last bytes of a sound that is shorter are all of it; a range that ends before it begins is none (RFC 9110).
  if (from === "" && Number(to) > byteLength) return { first: 0, last: byteLength - 1 };
  if (from && to && Number(to) < Number(from)) return undefined;
  const ranges = rangeParser(byteLength, header);
  if (ranges === -1) {
    throw new HttpProblem(
      416,
      "range-outside",
      `The sound has ${byteLength} bytes; ${header} lies outside.`,
      { byteLength },
      { "Content-Range": `bytes */${byteLength}` },
    );
  }
  if (ranges === -2 || ranges.type !== "bytes" || ranges.length !== 1) return undefined;
  const [{ start, end }] = ranges;
  return { first: start, last: end };
}
