import { type NumbersPlan as FullPlan, NUMBERS_FORMAT, NUMBERS_VERSION } from "@bumbrel/core/analyse/planned";
import type { NumbersPlan } from "./types";

/** A plan that has been looked at. */
export function fullPlan(plan: NumbersPlan): FullPlan {
  if (plan?.format !== NUMBERS_FORMAT)
    throw new Error('This is no plan of numbers. Give the contents of the file "numbers.json".');
  if (plan.version !== NUMBERS_VERSION)
    throw new Error(
      `This plan of numbers has version ${plan.version}, not ${NUMBERS_VERSION}. Install the runtime that came with it.`,
    );
  return plan as unknown as FullPlan;
}
