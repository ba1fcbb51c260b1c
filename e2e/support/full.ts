/** True if the exhaustive tests run too, as `npm run test:full` has them; those are tagged {@link FULL}. */
export const isFull = process.env.BUMBREL_TESTS === "full";

/** Tag of tests that only the full run carries out. */
export const FULL = { tag: "@full" };
