import { levelToDb } from "../dsp/decibel";
import { SHAPING_STEPS } from "./shaping";

/** Frames quieter than this say nothing of how loud a sound is when it sounds. */
const AUDIBLE_DB = -80;
const LOW_SHARE = 0.1;
const HIGH_SHARE = 0.95;

/**
 * Floor and range that suit what a sound really does: from the 10th to the 95th percentile of the frames
 * above −80 dBFS.
 *
 * @param raw  linear levels, full-scale sine = 1
 * @param gainDb  gain that shaping applies before its window
 * @returns window settings in dB, within the limits of the window step; `undefined` when all is silent
 */
export function fitWindow(
  raw: Float32Array,
  gainDb: number,
): { floorDb: number; rangeDb: number } | undefined {
  const levels = Array.from(raw, (level) => levelToDb(level)).filter((db) => db > AUDIBLE_DB);
  if (levels.length === 0) return undefined;
  levels.sort((a, b) => a - b);
  const { floorDb: floor, rangeDb: range } = SHAPING_STEPS.window.settings;
  const lowDb = percentile(levels, LOW_SHARE) + gainDb;
  const highDb = percentile(levels, HIGH_SHARE) + gainDb;
  const round = (db: number) => Math.round(db * 10) / 10;
  const floorDb = Math.min(floor.max, Math.max(floor.min, round(lowDb)));
  return { floorDb, rangeDb: Math.min(range.max, Math.max(1, round(highDb - floorDb))) };
}

/** Value at a share of sorted values, linear between neighbours. */
function percentile(sorted: number[], share: number): number {
  const position = share * (sorted.length - 1);
  const below = Math.floor(position);
  const above = Math.min(sorted.length - 1, below + 1);
  return sorted[below] + (sorted[above] - sorted[below]) * (position - below);
}
