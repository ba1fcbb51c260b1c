import { type ProgramProblem, readExposed } from "@bumbrel/core/program/exposed";
import { PROGRAM_KINDS } from "@bumbrel/core/program/kinds";
import { guardLoops } from "@bumbrel/core/program/loops";
import { PASS_FUNCTIONS, SURFACE_FUNCTIONS } from "@bumbrel/core/program/offers/glslOffers";
import { OWN_LINES_FROM } from "./glslCode";
import { hasPassFunction, passShadersForCheck } from "./passCode";
import { shadersForCheck, surfaceCode } from "./surfaceCode";

/** Problems that are told at most; others often follow from the first. */
const MOST_PROBLEMS = 20;

/**
 * Problems of a program in GLSL: values that cannot be read, and whatever the graphics driver does not accept, in
 * plain words.
 *
 * @returns empty for a program that works
 */
export function checkGlsl(
  gl: WebGL2RenderingContext,
  kind: "surface" | "pass",
  code: string,
): ProgramProblem[] {
  const problems = [...readExposed(code, "glsl").problems, ...guardLoops(code).problems];
  const isSurface = kind === "surface";
  const { hasMove, hasPaint } = surfaceCode(code);
  if (isSurface ? !hasMove && !hasPaint : !hasPassFunction(code)) {
    const wanted = (isSurface ? SURFACE_FUNCTIONS : PASS_FUNCTIONS).map(({ signature }) => signature);
    const name = PROGRAM_KINDS[kind].label.toLowerCase();
    problems.push({
      line: 1,
      message: `A ${name} needs a function: ${wanted.join(" or ")}${isSurface ? ", or both" : ""}.`,
    });
  }
  if (problems.length > 0) return problems;
  const { vertex, fragment } = isSurface ? shadersForCheck(code) : passShadersForCheck(code);
  const found = [...compile(gl, gl.VERTEX_SHADER, vertex), ...compile(gl, gl.FRAGMENT_SHADER, fragment)];
  // Further ones of a line mostly follow from its first.
  const lines = new Set<number>();
  return found
    .filter(({ line }) => {
      const isNew = !lines.has(line);
      lines.add(line);
      return isNew;
    })
    .slice(0, MOST_PROBLEMS);
}

function compile(gl: WebGL2RenderingContext, type: number, source: string): ProgramProblem[] {
  const shader = gl.createShader(type);
  if (!shader) return [];
  gl.shaderSource(shader, source);
  gl.compileShader(shader);
  const works = gl.getShaderParameter(shader, gl.COMPILE_STATUS) === true || gl.isContextLost();
  const log = works ? "" : (gl.getShaderInfoLog(shader) ?? "");
  gl.deleteShader(shader);
  return works ? [] : problemsIn(log);
}

/** The problems that a driver's log tells, in plain words, each at its line. */
export function problemsIn(log: string): ProgramProblem[] {
  const problems = log.split("\n").flatMap((text): ProgramProblem[] => {
    const match = /^ERROR: \d+:(\d+): (?:'(.*?)' : )?(.*)$/.exec(text.replace(/\0/g, "").trim());
    if (!match) return [];
    const line = Number(match[1]);
    const message = inWords(clean(match[2] ?? ""), clean(match[3]).trim());
    // Code that ends too early is noticed after the last line.
    return [line >= OWN_LINES_FROM ? { line: Number.MAX_SAFE_INTEGER, message } : { line, message }];
  });
  return problems.length > 0
    ? problems
    : [{ line: 1, message: "The graphics driver does not accept this program, and does not say why." }];
}

const clean = (text: string) => text.replace(/\bbumbrel_/g, "").replace(/\bBumbrel(Point|Surface)\b/g, "$1");

const IN_WORDS: readonly [RegExp, (token: string, match: RegExpExecArray) => string][] = [
  [/^dimension mismatch/, (token) => `“${token}” does not go between values of different sizes.`],
  [/^undeclared identifier/, (token) => `Nothing here is named “${token}”.`],
  [/^no matching overloaded function/, (token) => `“${token}” cannot be called with these values.`],
  [/^no such field/, (token) => `There is no member “${token}” here.`],
  [/^redefinition/, (token) => `“${token}” is defined twice.`],
  [/^function already has a body/, (token) => `“${token}” is defined twice.`],
  [
    /^cannot convert from '(.*)' to '(.*)'/,
    (_, [, from, to]) => `A ${kindOf(from)} cannot be put where a ${kindOf(to)} is needed.`,
  ],
  [
    /^wrong operand types.*left operand of type '(.*?)' and a right operand of type '(.*?)'/,
    (token, [, left, right]) => `“${token}” does not go between a ${kindOf(left)} and a ${kindOf(right)}.`,
  ],
  [/^vector swizzle|^illegal vector field/, (token) => `“.${token}” picks members that are not there.`],
  [/^(?:l-value required|can't modify)/, (token) => `“${token || "this"}” cannot be changed.`],
  [/^assign$/, () => "This cannot be put there: the types differ."],
  [/^function does not return a value/, (token) => `“${token}” must return a value.`],
  [/^constructor.*not enough data/, () => "There are too few values in these brackets."],
  [/^constructor.*too many/, () => "There are too many values in these brackets."],
  [/^not enough data provided/, (token) => `There are too few values for “${token}”.`],
  [/^too many arguments/, (token) => `There are too many values for “${token}”.`],
  [
    /^syntax error/,
    (token) =>
      token
        ? `“${token}” was not expected here: is something missing before it?`
        : "Something is missing here.",
  ],
  [/^boolean expression expected/, () => "A condition is needed here: something that is true or false."],
];

function inWords(token: string, text: string): string {
  for (const [pattern, words] of IN_WORDS) {
    const match = pattern.exec(text);
    if (match) return words(token, match);
  }
  const rest = `${text.charAt(0).toUpperCase()}${text.slice(1)}`;
  return token ? `${rest}: “${token}”.` : `${rest}.`;
}

/** A type as the driver names it, without what does not matter. */
const kindOf = (type: string) =>
  type
    .replace(/ \(symbol id \d+\)/, "")
    .replace(/\b(?:const|in|out|inout|uniform|highp|mediump|lowp|temp|global|varying|smooth)\b/g, "")
    .replace(/\s+/g, " ")
    .replace(/^ | $/g, "")
    .replace(/structure '(.*)'/, "$1");
