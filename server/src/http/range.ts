import { HttpProblem } from "./problem";

/** A stretch of bytes, both ends included. */
export interface ByteRange {
  first: number;
  last: number;
}

/**
 * Reads a `Range` header of one range, as RFC 9110 section 14 has it.
 *
 * @returns the stretch asked for, or `undefined` when all is to be sent: no header, another unit, several
 *   ranges, or one that cannot be understood
 * @throws HttpProblem 416 when it lies outside
 */
export function parseRange(header: string | undefined, byteLength: number): ByteRange | undefined {
  const match = /^bytes=(\d*)-(\d*)$/.exec(header?.trim() ?? "");
  if (!match || (match[1] === "" && match[2] === "")) return undefined;
  const [, from, to] = match;
  const first = from === "" ? Math.max(0, byteLength - Number(to)) : Number(from);
  const last = from === "" || to === "" ? byteLength - 1 : Math.min(Number(to), byteLength - 1);
  if (from !== "" && to !== "" && Number(to) < Number(from)) return undefined;
  if (first >= byteLength || (from === "" && Number(to) === 0)) {
    throw new HttpProblem(
      416,
      "range-outside",
      `The sound has ${byteLength} bytes; ${header} lies outside.`,
      {
        byteLength,
      },
    );
  }
  return { first, last };
}
