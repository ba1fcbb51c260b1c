import type { NumberProperty } from "../setting/property";
import { type Exposed, readExposed } from "./exposed";
import { PROGRAM_KINDS } from "./kinds";
import { MOST_SCRIPT_BANDS } from "./scripts/scriptLimits";

/** A value that a number program lets its users set. */
export type ExposedNumber = Exposed & { property: NumberProperty };

/** Values that a number program exposes: numbers, whole numbers, choices and switches, each as a number. */
export const exposedNumbers = (code: string): ExposedNumber[] =>
  readExposed(code, "script", PROGRAM_KINDS.number.exposes).values.filter(
    (one): one is ExposedNumber => one.property?.type === "number",
  );

const BANDS = /^\s*(?:export\s+)?const\s+bands\s*(?::\s*number\s*)?=\s*(\d+)\s*;?\s*$/m;

/** How many numbers a number program gives: as many as it says in `const bands = 12;`, or one. */
export function bandsIn(code: string): number {
  const match = BANDS.exec(code);
  return match ? Math.min(MOST_SCRIPT_BANDS, Math.max(1, Number(match[1]))) : 1;
}
