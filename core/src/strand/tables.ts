import { FRAME_RATE_HZ } from "../constants";
import { levelToDb, SILENCE_DB } from "../dsp/level/decibel";
import { fanBands, PITCH_CLASSES } from "../dsp/spectrum/fanBands";
import { figure } from "../format/bytes/figure";
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

/** Column names of a measure: one a band for a fan. */
export function columnNames(name: string, measure: Measure, width: number): string[] {
  if (width === 1) return [name];
  if (measure.kind !== "fan") return Array.from({ length: width }, (_, i) => `${name} ${i + 1}`);
  if (measure.layout === "pitchClasses") return PITCH_CLASSES.map((one) => `${name} ${one}`);
  return fanBands(measure).map(({ centreHz }, i) => `${name} ${i + 1} ${Number(centreHz.toPrecision(4))} Hz`);
}

/**
 * Strands as CSV, 100 rows a second: `time_s`, then for each strand its raw and its shaped columns, one a band.
 *
 * @returns lines with their ends, the first of them the header; strands that end earlier leave their fields at their last
 * number
 */
export function* strandRows(strands: readonly TableStrand[]): Generator<string> {
  const heads = strands.flatMap(({ name, measure, width }) => [
    ...columnNames(`${name} raw`, measure, width),
    ...columnNames(`${name} shaped`, measure, width),
  ]);
  yield `${["time_s", ...heads].map(csvField).join(",")}\n`;
  const frames = Math.max(0, ...strands.map(({ raw, width }) => raw.length / width));
  for (let frame = 0; frame < frames; frame++) {
    const row = [(frame / FRAME_RATE_HZ).toFixed(2)];
    for (const { measure, raw, shaped, width } of strands) {
      const at = Math.max(0, Math.min(frame, raw.length / width - 1)) * width;
      for (let i = 0; i < width; i++) row.push(figure(rawFigure(measure, raw[at + i] ?? 0)));
      for (let i = 0; i < width; i++) row.push(figure(shaped[at + i] ?? 0));
    }
    yield `${row.join(",")}\n`;
  }
}

/** {@link strandRows} as one text. */
export const strandTable = (strands: readonly TableStrand[]): string => [...strandRows(strands)].join("");

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

/** Cues of a strand as they go into a list of several. */
export interface CueList {
  name: string;
  cues: readonly Cue[];
}

/** The cues of several strands in order of time. */
export const inOrderOfTime = (lists: readonly CueList[]): { name: string; cue: Cue }[] =>
  lists
    .flatMap(({ name, cues }) => cues.map((cue) => ({ name, cue })))
    .sort((a, b) => a.cue.timeS - b.cue.timeS);

/** Cues of several strands as CSV, in order of time: `time_s,strand,strength`. */
export const cuesTable = (lists: readonly CueList[]): string =>
  [
    "time_s,strand,strength",
    ...inOrderOfTime(lists).map(
      ({ name, cue }) => `${seconds(cue.timeS)},${csvField(name)},${figure(cue.strength)}`,
    ),
    "",
  ].join("\n");

/** Cues of several strands as text labels, in order of time. */
export const allCueLabels = (lists: readonly CueList[]): string =>
  inOrderOfTime(lists)
    .map(({ name, cue }) => cueLabels(name, [cue]))
    .join("");

/** A strand over time as JSON has it. */
export interface JsonStrand extends CueList {
  id: string;
  width: number;
  loopS: number;
  values: Float32Array;
}

/** Digits of numbers in JSON: more than 16 bits hold. */
const JSON_DIGITS = 6;

/**
 * Strands as JSON, in pieces: `{ name, framesPerSecond, lengthS, strands: [{ id, name, width, loopS, cues, values }] }`;
 * `values` has `width` numbers a frame.
 */
export function* strandJson(
  name: string,
  lengthS: number,
  strands: readonly JsonStrand[],
): Generator<string> {
  const head = JSON.stringify({ name, framesPerSecond: FRAME_RATE_HZ, lengthS });
  yield `${head.slice(0, -1)},"strands":[`;
  for (const [i, { values, ...strand }] of strands.entries()) {
    yield `${i > 0 ? "," : ""}\n${JSON.stringify(strand).slice(0, -1)},"values":[`;
    for (let at = 0; at < values.length; at += 1000) {
      const row: string[] = [];
      for (const value of values.subarray(at, at + 1000)) row.push(figure(value, JSON_DIGITS));
      yield (at > 0 ? "," : "") + row.join(",");
    }
    yield "]}";
  }
  yield "\n]}\n";
}
