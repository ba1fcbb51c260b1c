/** True if the exhaustive tests run too, as `npm run test:full` has them; those are tagged {@link FULL}. */
export const isFull = process.env.BUMBREL_TESTS === "full";

/** Tag of tests that only the full run carries out. */
export const FULL = { tag: "@full" };

/** Tag of tests that act or measure in time with what plays: another test beside them would disturb them. */
export const TIMED = { tag: "@timed" };
export const TIMED_FULL = { tag: [FULL.tag, TIMED.tag] };
