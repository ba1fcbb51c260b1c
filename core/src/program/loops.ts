import type { ProgramProblem } from "./exposed";

/** Steps that all loops of a GLSL program take together at most, for each point or pixel. */
export const MAX_LOOP_STEPS = 16_384;

/** A program whose loops end, or why that cannot be made sure of. */
export interface GuardedLoops {
  /** Declares what its loops ask; stands before it. */
  declarations: string;
  /** On the same lines as the code it was made of. */
  code: string;
  problems: ProgramProblem[];
}

/**
 * GLSL whose loops end: each asks before every step whether it may take it, so that an endless one cannot keep the graphics
 * card.
 *
 * The language has no way to put names together, so that a loop is written as one somewhere: in the code, where it is
 * guarded, or in a macro, which is refused. What a loop asks has a name that does not occur in the code, so that nothing in
 * it can stand in its place.
 */
export function guardLoops(source: string): GuardedLoops {
  const spliced = withoutContinuations(source);
  const problems: ProgramProblem[] = [];
  const name = freeName(spliced);
  let code = "";
  let at = 0;
  const lineOf = (place: number) => spliced.slice(0, place).split("\n").length;
  const refuse = (place: number, message: string) => problems.push({ line: lineOf(place), message });
  while (at < spliced.length) {
    const skipped = skipComment(spliced, at);
    if (skipped > at) {
      code += spliced.slice(at, skipped);
      at = skipped;
      continue;
    }
    if (spliced[at] === "#" && /(^|\n)[^\S\n]*$/.test(plainBefore(spliced, at))) {
      const end = endOfLine(spliced, at);
      const directive = spliced.slice(at, end);
      if (LOOP_WORDS.test(directive)) refuse(at, "A loop cannot stand in a macro: write the loop itself.");
      code += directive;
      at = end;
      continue;
    }
    const word = /^[A-Za-z_]\w*/.exec(spliced.slice(at, at + 1024))?.[0];
    if (!word) {
      code += spliced[at++];
      continue;
    }
    code += word;
    at += word.length;
    if (word !== "for" && word !== "while") continue;
    const open = skipSpace(spliced, at);
    const close = spliced[open] === "(" ? closing(spliced, open) : -1;
    const inside = close < 0 ? undefined : spliced.slice(open + 1, close);
    const guarded =
      inside === undefined
        ? undefined
        : word === "for"
          ? guardedFor(inside, name)
          : guardedCondition(inside, name);
    if (guarded === undefined) {
      refuse(at, `After “${word}” its brackets have to stand as they are, without macros for their parts.`);
      continue;
    }
    code += `${spliced.slice(at, open + 1)}${guarded})`;
    at = close + 1;
  }
  return {
    declarations: `int ${name}s = 0;\nbool ${name}() { return ++${name}s < ${MAX_LOOP_STEPS}; }`,
    code,
    problems,
  };
}

const LOOP_WORDS = /\b(?:for|while|do)\b/;

/** A name that does not occur in code, nor anything that begins with it. */
function freeName(code: string): string {
  for (let i = 0; ; i++) {
    const name = `bumbrelLoop${i}n`;
    if (!code.includes(name)) return name;
  }
}

/** Joins lines that end in a backslash with the next, as the compiler does; later lines stay where they are. */
function withoutContinuations(code: string): string {
  let owed = 0;
  return code
    .replace(/\r\n?/g, "\n")
    .split("\n")
    .reduce((text, line, i, all) => {
      const isContinued = line.endsWith("\\") && i < all.length - 1;
      const own = isContinued ? line.slice(0, -1) : line;
      if (isContinued) {
        owed++;
        return text + own;
      }
      const ended = text + own + "\n".repeat(owed) + (i < all.length - 1 ? "\n" : "");
      owed = 0;
      return ended;
    }, "");
}

/** The end of a directive: that of its line, or of a comment that it opens and that ends on a later one. */
function endOfLine(code: string, from: number): number {
  for (let i = from; i < code.length; i++) {
    const skipped = skipComment(code, i);
    if (skipped > i) i = skipped - 1;
    else if (code[i] === "\n") return i;
  }
  return code.length;
}

/** The text before a position, with comments replaced by spaces. */
function plainBefore(code: string, at: number): string {
  const before = code.slice(Math.max(0, at - 4096), at);
  return before.replace(/\/\*[\s\S]*?\*\//g, (comment) => (comment.includes("\n") ? "\n" : " "));
}

function guardedCondition(condition: string, name: string): string {
  return condition.trim() === "" ? `${name}()` : `${name}() && (${condition})`;
}

/** `undefined` for what is no loop as it stands. */
function guardedFor(inside: string, name: string): string | undefined {
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
  if (ends.length !== 2) return undefined;
  const [first, second] = ends;
  return `${inside.slice(0, first + 1)} ${guardedCondition(inside.slice(first + 1, second), name)}${inside.slice(second)}`;
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

/** Position at which the bracket opened at a place is closed; −1 if it is not. */
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
