import { it } from "@jest/globals";

const { process } = globalThis as unknown as { process: { env: Record<string, string | undefined> } };

/** True in `npm run test:full`. */
export const isFull = process.env.BUMBREL_TESTS === "full";

/** A test that only the full run carries out: it takes long, and a quicker one guards the most of it. */
export const itInFull = (isFull ? it : it.skip) as typeof it;

/** All cases in the full run, and the first few otherwise. */
export const casesOf = <T>(cases: readonly T[], few: number): readonly T[] =>
  isFull ? cases : cases.slice(0, few);
