import type { PathPoint } from "@bumbrel/core/setting/descriptor";
import { create } from "zustand";

/** The object whose path is being drawn on the stage, if one is. For this visit. */
export const usePathDrawing = create<{ objectId: string | undefined }>(() => ({ objectId: undefined }));

/** Points a drawn line keeps: enough for its shape, few enough to be moved by hand. */
const KEPT = 14;
const LEAST_M = 0.1;

/**
 * A line as a hand drew it, as a few points at even distances.
 *
 * @returns `undefined` for one too short to be a line
 */
export function fewPoints(line: readonly PathPoint[], kept = KEPT): PathPoint[] | undefined {
  const lengths = [0];
  for (let i = 1; i < line.length; i++) {
    lengths.push(lengths[i - 1] + Math.hypot(...line[i].map((one, axis) => one - line[i - 1][axis])));
  }
  const whole = lengths.at(-1) ?? 0;
  if (whole < LEAST_M) return undefined;
  let at = 1;
  return Array.from({ length: kept }, (_, k) => {
    const wanted = (whole * k) / (kept - 1);
    while (at < line.length - 1 && lengths[at] < wanted) at++;
    const span = lengths[at] - lengths[at - 1];
    const t = span > 0 ? Math.min(1, (wanted - lengths[at - 1]) / span) : 0;
    return line[at].map((one, axis) => {
      const before = line[at - 1][axis];
      return Math.round((before + (one - before) * t) * 1000) / 1000;
    }) as PathPoint;
  });
}
