/** Steps that all loops of a GLSL program take together at most, for each point or pixel. */
export const MAX_LOOP_STEPS = 16_384;

/** Declares what {@link withLoopLimit} puts into loops. */
export const LOOP_LIMIT = `int loopSteps = 0;
bool loopGoesOn() { return ++loopSteps < ${MAX_LOOP_STEPS}; }`;

/**
 * GLSL whose loops end: each asks {@link LOOP_LIMIT} before every step, so that an endless one cannot keep the graphics
 * card. Lines stay where they are.
 */
export function withLoopLimit(code: string): string {
  let out = "";
  let at = 0;
  while (at < code.length) {
    const skipped = skipComment(code, at);
    if (skipped > at) {
      out += code.slice(at, skipped);
      at = skipped;
      continue;
    }
    const word = /^[A-Za-z_]\w*/.exec(code.slice(at, at + 128))?.[0];
    if (!word) {
      out += code[at++];
      continue;
    }
    out += word;
    at += word.length;
    if (word !== "for" && word !== "while") continue;
    const open = skipSpace(code, at);
    const close = code[open] === "(" ? closing(code, open) : -1;
    if (close < 0) continue;
    out += code.slice(at, open + 1);
    const inside = code.slice(open + 1, close);
    out += `${word === "for" ? limitedFor(inside) : limited(inside)})`;
    at = close + 1;
  }
  return out;
}

const limited = (condition: string) =>
  condition.trim() === "" ? "loopGoesOn()" : `loopGoesOn() && (${condition})`;

function limitedFor(inside: string): string {
  const ends: number[] = [];
  let depth = 0;
  for (let i = 0; i < inside.length; i++) {
    const skipped = skipComment(inside, i);
    if (skipped > i) {
      i = skipped - 1;
      continue;
    }
    if (inside[i] === "(") depth++;
    if (inside[i] === ")") depth--;
    if (inside[i] === ";" && depth === 0) ends.push(i);
  }
  // Anything else is no loop, and the compiler says so.
  if (ends.length !== 2) return inside;
  const [first, second] = ends;
  return `${inside.slice(0, first + 1)} ${limited(inside.slice(first + 1, second))}${inside.slice(second)}`;
}

/** The end of a comment that begins at a place; that place itself if none does. */
function skipComment(code: string, at: number): number {
  if (code.startsWith("//", at)) {
    const end = code.indexOf("\n", at);
    return end < 0 ? code.length : end;
  }
  if (code.startsWith("/*", at)) {
    const end = code.indexOf("*/", at + 2);
    return end < 0 ? code.length : end + 2;
  }
  return at;
}

function skipSpace(code: string, at: number): number {
  let i = at;
  for (;;) {
    const next = skipComment(code, i);
    if (next > i) i = next;
    else if (i < code.length && /[\s\\]/.test(code[i])) i++;
    else return i;
  }
}

/** Where the bracket that opens at a place is closed; −1 if it is not. */
function closing(code: string, open: number): number {
  let depth = 0;
  for (let i = open; i < code.length; i++) {
    const skipped = skipComment(code, i);
    if (skipped > i) {
      i = skipped - 1;
      continue;
    }
    if (code[i] === "(") depth++;
    if (code[i] === ")" && --depth === 0) return i;
  }
  return -1;
}
