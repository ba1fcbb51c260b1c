/** The quietest level that is not shown as silence, in dB. */
export const SILENCE_DB = -200;

/** Level (full-scale sine = 1) to dBFS; silence and bad values give `-Infinity`, to be drawn as the floor. */
export function levelToDb(level: number): number {
  return level > 0 ? 20 * Math.log10(level) : Number.NEGATIVE_INFINITY;
}

/** dBFS to level (full-scale sine = 1). */
export function dbToLevel(db: number): number {
  return 10 ** (db / 20);
}

/** Levels end at +120 dBFS: only damaged samples go there, and sums of squares stay finite below it. */
const MAX_LEVEL = 1e6;

/** A level that later steps can count on: NaN becomes 0, and what is beyond +120 dBFS stays there. */
export function safeLevel(level: number): number {
  return level > 0 ? Math.min(level, MAX_LEVEL) : 0;
}

/** Below this a fader's last travel falls linearly to true silence. */
export const FADER_FLOOR_DB = -60;
export const FADER_TOP_DB = 6;
/** The fader position that means "off". */
export const FADER_OFF_DB = -66;

/**
 * Gain of a fader at `db`.
 *
 * @param db  from `FADER_OFF_DB` (true zero) to `FADER_TOP_DB`; from −60 dB down to the end the gain is linear
 * @returns linear gain, 0 to about 2
 */
export function faderGain(db: number): number {
  if (!(db > FADER_OFF_DB)) return 0;
  if (db >= FADER_FLOOR_DB) return dbToLevel(Math.min(db, FADER_TOP_DB));
  return (dbToLevel(FADER_FLOOR_DB) * (db - FADER_OFF_DB)) / (FADER_FLOOR_DB - FADER_OFF_DB);
}
