import { levelToDb } from "../../dsp/level/decibel";
import type { NumberSetting } from "../../setting/descriptor";
import { SHAPING_STEPS, type Shaping } from "./shaping";

/** Frames quieter than this say nothing of how loud a sound is when it sounds. */
export const AUDIBLE_DB = -80;
const LOW_SHARE = 0.1;
const HIGH_SHARE = 0.95;

type WindowChange = { floorDb: number; rangeDb: number } | { low: number; high: number };

/** Frames that count, rising: in dB, or as they are. */
export function countedFrames(raw: Float32Array, inDb: boolean): number[] {
  const values = inDb
    ? Array.from(raw, (level) => levelToDb(level)).filter((db) => db > AUDIBLE_DB)
    : Array.from(raw).filter((value) => value > 0);
  return values.sort((a, b) => a - b);
}

/**
 * Floor and ceiling that suit what a sound really does: from the 10th to the 95th percentile of the frames above
 * −80 dBFS; on a plain scale, of those above 0.
 *
 * @param raw  numbers before shaping
 * @param shaping  its gain comes before the window, and its window says in which scale
 * @returns window settings within the limits of the window step; `undefined` when all is silent
 */
export function fitWindow(
  raw: Float32Array,
  { gain, window }: Pick<Shaping, "gain" | "window">,
): WindowChange | undefined {
  const { floorDb: floor, rangeDb: range, low, high } = SHAPING_STEPS.window.settings;
  const inDb = window.scale === "dB";
  const values = countedFrames(raw, inDb);
  if (values.length === 0) return undefined;
  const [bottom, top] = [percentile(values, LOW_SHARE), percentile(values, HIGH_SHARE)];
  const gainDb = gain.on ? gain.db : 0;
  if (inDb) {
    const floorDb = within(floor, tenth(bottom + gainDb));
    return { floorDb, rangeDb: within(range, Math.max(1, tenth(top + gainDb - floorDb))) };
  }
  const times = 10 ** (gainDb / 20);
  const [lowest, highest] = [significant(bottom * times), significant(top * times)];
  return { low: within(low, lowest), high: within(high, Math.max(highest, lowest + 0.001)) };
}

/** Value at a share of sorted values, linear between neighbours. */
export function percentile(sorted: readonly number[], share: number): number {
  const position = share * (sorted.length - 1);
  const below = Math.floor(position);
  const above = Math.min(sorted.length - 1, below + 1);
  return sorted[below] + (sorted[above] - sorted[below]) * (position - below);
}

export const within = ({ min, max }: Pick<NumberSetting, "min" | "max">, value: number) =>
  Math.min(max, Math.max(min, value));
export const tenth = (value: number) => Math.round(value * 10) / 10;
const significant = (value: number) => Number(value.toPrecision(3));
