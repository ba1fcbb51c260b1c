import Papa from "papaparse";
import { FRAME_RATE_HZ, MAX_SOUND_S } from "../constants";
import { SoundFormatError } from "../errors";
import { platform } from "../platform";

/** One column of a table of numbers, on the 100 Hz grid. */
export interface TableColumn {
  name: string;
  values: Float32Array;
}

/** A table of numbers over time. */
export interface Table {
  /** Seconds from 0 to the last row. */
  durationS: number;
  columns: TableColumn[];
}

/** A day of rows is a mistake, not a song. */

function finding(what: string, where: string, remedy: string): SoundFormatError {
  return new SoundFormatError({ code: "table-unreadable", what, where, remedy });
}

/** A name as one field of CSV. */
export const csvField = (text: string): string => Papa.unparse([[text]], { newline: "\n" });

/** The number that a field holds; `what` is what it should be. */
function numberIn(text: string, where: string, what: string): number {
  const value = text === "" ? Number.NaN : Number(text);
  if (!Number.isFinite(value)) throw finding(`"${text}" is not ${what}`, where, "Write a number");
  return value;
}

/** Splits CSV (RFC 4180) that has a `time_s` column into its rows with something in them, each with its place. */
function readTimedLines(bytes: Uint8Array, name: string) {
  const text = new platform.TextDecoder().decode(bytes).replace(/^\uFEFF/, "");
  const places: { where: string; texts: string[] }[] = [];
  let line = 1;
  let read = 0;
  Papa.parse<string[]>(text, {
    delimiter: ",",
    step: ({ data, errors, meta }) => {
      const [error] = errors;
      if (error) throw finding(`${error.message}`, `${name}, line ${line}`, "Close the quotes of this line");
      const texts = data.map((field) => field.trim());
      if (texts.length > 1 || texts[0] !== "") places.push({ where: `${name}, line ${line}`, texts });
      // A field in quotes may go on over several lines.
      line += text.slice(read, meta.cursor).split("\n").length - 1;
      read = meta.cursor;
    },
  });
  const [head, ...lines] = places;
  const heads = head?.texts ?? [];
  const timeColumn = heads.indexOf("time_s");
  if (timeColumn < 0) {
    throw finding('there is no column "time_s"', `${name}, line 1`, "Name the column of seconds time_s");
  }
  return { heads, timeColumn, lines };
}

/**
 * Reads the `time_s` column of CSV, whatever its other columns hold and in whatever order its rows are.
 *
 * @returns seconds, rising, each once
 * @throws SoundFormatError naming the line when a time is missing or no number
 */
export function readTimes(bytes: Uint8Array, name: string): number[] {
  const { timeColumn, lines } = readTimedLines(bytes, name);
  const times = lines.map(({ where, texts }) =>
    numberIn(texts[timeColumn] ?? "", where, "a time in seconds"),
  );
  return [...new Set(times)].sort((a, b) => a - b);
}

/**
 * Reads CSV with a `time_s` column and any number of others, as `bumbrel trace` writes it. Rows may lie at any
 * rising times: between them numbers are linear, before the first and after the last they stay.
 *
 * @param bytes  UTF-8 text
 * @throws SoundFormatError naming the line when a number is missing or times do not rise
 */
export function readTable(bytes: Uint8Array, name: string): Table {
  const { heads, timeColumn, lines } = readTimedLines(bytes, name);
  if (heads.length < 2)
    throw finding("there is no column beside time_s", `${name}, line 1`, "Add a column of numbers");
  const rows: number[][] = [];
  for (const { where, texts } of lines) {
    if (texts.length !== heads.length) {
      throw finding(
        `it has ${texts.length} fields where the first line has ${heads.length}`,
        where,
        "Complete the line",
      );
    }
    const row = texts.map((text, column) => numberIn(text, `${where}, ${heads[column]}`, "a number"));
    const before = rows.at(-1);
    if (row[timeColumn] < 0 || (before && row[timeColumn] <= before[timeColumn])) {
      throw finding("its time does not come after the one above", where, "Sort the rows by time_s");
    }
    if (row[timeColumn] > MAX_SOUND_S)
      throw finding("its time lies beyond 6 hours", where, "Write time_s in seconds");
    rows.push(row);
  }
  if (rows.length === 0) throw finding("there are no rows", name, "Add rows of numbers");
  const durationS = Math.max(1 / FRAME_RATE_HZ, rows.at(-1)![timeColumn] + 1 / FRAME_RATE_HZ);
  const frames = Math.round(durationS * FRAME_RATE_HZ);
  const columns = heads.flatMap((head, column) => {
    if (column === timeColumn) return [];
    const values = new Float32Array(frames);
    let row = 0;
    for (let frame = 0; frame < frames; frame++) {
      const timeS = frame / FRAME_RATE_HZ;
      while (row < rows.length - 1 && rows[row + 1][timeColumn] <= timeS + 1e-9) row++;
      const [a, b] = [rows[row], rows[Math.min(rows.length - 1, row + 1)]];
      const spanS = b[timeColumn] - a[timeColumn];
      const share = spanS > 0 ? Math.min(1, Math.max(0, (timeS - a[timeColumn]) / spanS)) : 0;
      values[frame] = a[column] + (b[column] - a[column]) * share;
    }
    return [{ name: head, values }];
  });
  return { durationS, columns };
}
