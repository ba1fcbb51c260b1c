/** Powers of ten that are exact. */
const POWERS = Float64Array.from({ length: 23 }, (_, power) => Number(`1e${power}`));
/** Smaller numbers are written with an exponent. */
const LEAST = 1e-6;
/** The last digit is surely right where what is cut off is further from a half than this. */
const UNSURE = 1e-6;

/**
 * A number as tables have it: `String(Number(value.toPrecision(digits)))`, several times as fast.
 *
 * @param value  finite
 * @param digits  1 to 9; nine are more than single precision holds
 */
export function figure(value: number, digits = 9): string {
  const size = Math.abs(value);
  if (size === 0) return "0";
  if (!(size >= LEAST && size < POWERS[digits])) return slow(value, digits);
  let exponent = Math.floor(Math.log10(size));
  const scaled = size * POWERS[digits - 1 - exponent];
  let whole = Math.round(scaled);
  const cutOff = Math.abs(scaled - Math.floor(scaled) - 0.5);
  if (cutOff < UNSURE || whole < POWERS[digits - 1] || whole > POWERS[digits]) return slow(value, digits);
  if (whole === POWERS[digits]) {
    whole = POWERS[digits - 1];
    exponent++;
  }
  while (whole % 10 === 0) whole /= 10;
  const text = String(whole);
  const sign = value < 0 ? "-" : "";
  if (exponent < 0) return `${sign}0.${"0".repeat(-1 - exponent)}${text}`;
  if (text.length <= exponent + 1) return sign + text + "0".repeat(exponent + 1 - text.length);
  return `${sign}${text.slice(0, exponent + 1)}.${text.slice(exponent + 1)}`;
}

const slow = (value: number, digits: number) => String(Number(value.toPrecision(digits)));
