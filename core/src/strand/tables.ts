import { FRAME_RATE_HZ } from "../constants";
import { levelToDb, SILENCE_DB } from "../dsp/decibel";
import { fanBands } from "../dsp/fanBands";
import { csvField } from "../format/table";
import type { Cue } from "../sound/cue";
import { declarationOf, type Measure } from "./measures/table";

/** A strand's numbers as they go into a table. */
export interface TableStrand {
  name: string;
  measure: Measure;
  raw: Float32Array;
  shaped: Float32Array;
  width: number;
}

/** A raw number as its measure counts it: loudness in LUFS, all else as it is. */
export function rawFigure(measure: Measure, raw: number): number {
  if (declarationOf(measure.kind).unit !== "loudness") return raw;
  return Math.max(SILENCE_DB, levelToDb(raw));
}

/** A number as tables have it: nine digits, more than the numbers hold. */
export const figure = (value: number): string => String(Number(value.toPrecision(9)));

/** What a measure's columns are called after a name: one a band for a fan. */
export function columnNames(name: string, measure: Measure, width: number): string[] {
  if (width === 1) return [name];
  if (measure.kind !== "fan") return Array.from({ length: width }, (_, i) => `${name} ${i + 1}`);
  return fanBands(measure).map(({ centreHz }, i) => `${name} ${i + 1} ${Number(centreHz.toPrecision(4))} Hz`);
}

/**
 * Strands as CSV, 100 rows a second: `time_s`, then for each strand its raw and its shaped columns, one a band.
 *
 * @returns text with a header row; strands that end earlier leave their fields at their last number
 */
export function strandTable(strands: readonly TableStrand[]): string {
  const heads = strands.flatMap(({ name, measure, width }) => [
    ...columnNames(`${name} raw`, measure, width),
    ...columnNames(`${name} shaped`, measure, width),
  ]);
  const rows = [["time_s", ...heads].map(csvField).join(",")];
  const frames = Math.max(0, ...strands.map(({ raw, width }) => raw.length / width));
  for (let frame = 0; frame < frames; frame++) {
    const row = [(frame / FRAME_RATE_HZ).toFixed(2)];
    for (const { measure, raw, shaped, width } of strands) {
      const at = Math.max(0, Math.min(frame, raw.length / width - 1)) * width;
      for (let i = 0; i < width; i++) row.push(figure(rawFigure(measure, raw[at + i] ?? 0)));
      for (let i = 0; i < width; i++) row.push(figure(shaped[at + i] ?? 0));
    }
    rows.push(row.join(","));
  }
  return `${rows.join("\n")}\n`;
}

const seconds = (timeS: number) => timeS.toFixed(4);

/** Cues as CSV: `time_s,strength`. */
export function cueTable(cues: readonly Cue[]): string {
  return [
    "time_s,strength",
    ...cues.map(({ timeS, strength }) => `${seconds(timeS)},${figure(strength)}`),
    "",
  ].join("\n");
}

/** Cues as text labels, a line each: start and end in seconds and a name, with tabs between them. */
export function cueLabels(name: string, cues: readonly Cue[]): string {
  return cues
    .map(({ timeS }) => `${seconds(timeS)}\t${seconds(timeS)}\t${name.replace(/[\t\r\n]/g, " ")}\n`)
    .join("");
}
