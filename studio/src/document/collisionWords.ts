/** Letters of a value that are shown. */
const MOST = 40;

/** A side's value in words. */
export function sideWords(side: unknown, base: unknown): string {
  if (side === undefined) return "deleted";
  if (typeof side === "object" && side !== null) return base === undefined ? "added" : "changed";
  const text = typeof side === "boolean" ? (side ? "on" : "off") : String(side ?? "nothing");
  return text.length > MOST ? `${text.slice(0, MOST - 1)}…` : text;
}
