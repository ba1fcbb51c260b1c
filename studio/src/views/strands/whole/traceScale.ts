import type { Strand } from "@bumbrel/core/document/scene";
import { dbToLevel, levelToDb } from "@bumbrel/core/dsp/level/decibel";
import { declarationOf } from "@bumbrel/core/strand/measures/table";
import { formatHz, formatTenths } from "../../../ui/format";

const TOP_DB = 0;
const BOTTOM_DB = -90;

/** How raw numbers lie along the height of a trace: 0 at the bottom, 1 at the top. */
export interface TraceScale {
  unit: string;
  /** Figures written beside it, with what they say. */
  ticks: [value: number, text: string][];
  /** Share of the height of a raw number, after gain. */
  shareOf(raw: number): number;
  /** Share of the height of a mark of the window: decibels, or a plain number. */
  shareOfMark(mark: number): number;
  markAt(share: number): number;
  format(mark: number): string;
  /** Step of an arrow key that moves a mark. */
  step: number;
}

const clamp = (share: number) => Math.min(1, Math.max(0, share));

/** The part of a strand that its scale depends on. */
export type ScaledStrand = Pick<Strand, "measure"> & { shaping: Pick<Strand["shaping"], "gain" | "window"> };

/**
 * @param highest  the largest raw number of the whole sound
 */
export function traceScale({ measure, shaping }: ScaledStrand, highest: number): TraceScale {
  const { gain, window } = shaping;
  const { unit } = declarationOf(measure.kind);
  const times = gain.on ? dbToLevel(gain.db) : 1;
  if (window.scale === "dB") {
    const share = (db: number) => clamp((db - BOTTOM_DB) / (TOP_DB - BOTTOM_DB));
    return {
      unit: unit === "loudness" ? "LUFS" : "dBFS",
      ticks: [0, -30, -60].map((db) => [db, String(db).replace("-", "−")]),
      shareOf: (raw) => share(levelToDb(raw * times)),
      shareOfMark: share,
      markAt: (at) => BOTTOM_DB + at * (TOP_DB - BOTTOM_DB),
      format: formatTenths,
      step: 0.5,
    };
  }
  // Room for the highest number and for the marks, whichever reaches further.
  const top = Math.max(highest * times, window.on ? window.high : 0, unit === "share" ? 1 : 1e-6) * 1.06;
  const format = (value: number) =>
    unit === "hz"
      ? formatHz(value).replace(" Hz", "").replace(" kHz", " k")
      : String(Number(value.toPrecision(2)));
  return {
    unit: unit === "hz" ? "Hz" : "",
    ticks: [0, top / 2, top / 1.06].map((value) => [value, format(value)]),
    shareOf: (raw) => clamp((raw * times) / top),
    shareOfMark: (mark) => clamp(mark / top),
    markAt: (at) => at * top,
    format,
    step: top / 200,
  };
}
