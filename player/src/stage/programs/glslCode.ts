import { readExposed } from "@bumbrel/core/program/exposed";
import { guardLoops } from "@bumbrel/core/program/loops";

/** Lines of messages from here on are not those of the program. */
export const OWN_LINES_FROM = 100_000;

/**
 * A program between lines that keep its names apart from those of the rest of a shader: its functions and values begin
 * with `bumbrel_` there.
 *
 * @param types  types that the program names, by what they are called in the shader
 * @param without  a function that is left out
 */
export function wrapped(code: string, types: Readonly<Record<string, string>>, without?: string): string {
  const names = namesIn(code);
  const { declarations, code: guarded } = guardLoops(code);
  return [
    declarations,
    ...Object.entries(types).map(([name, inShader]) => `#define ${name} ${inShader}`),
    ...names.map((name) => `#define ${name} bumbrel_${name}`),
    "#line 1",
    without === undefined ? guarded : leaveOut(guarded, without),
    `\n#line ${OWN_LINES_FROM}`,
    ...names.map((name) => `#undef ${name}`),
    ...Object.keys(types).map((name) => `#undef ${name}`),
  ].join("\n");
}

/** Names that a program defines for itself, which must not meet those of the rest of the shader. */
function namesIn(code: string): string[] {
  const names = new Set(["move", "paint"]);
  for (const { name } of readExposed(code, "glsl").values) names.add(name);
  const outside = topLevel(code);
  for (const [, name] of outside.matchAll(/\b[A-Za-z_]\w*\s+([A-Za-z_]\w*)\s*(?=[(=;[])/g)) names.add(name);
  for (const [, name] of outside.matchAll(/\bstruct\s+([A-Za-z_]\w*)/g)) names.add(name);
  return [...names].filter((name) => !/^(?:gl_|main$)/.test(name));
}

/** Code without comments, directives and what is in braces. */
function topLevel(code: string): string {
  const plain = code.replace(/\/\*[\s\S]*?\*\/|\/\/.*|^\s*#.*$/gm, " ");
  let out = "";
  let depth = 0;
  for (const char of plain) {
    if (char === "{") depth++;
    if (depth === 0) out += char;
    if (char === "}") depth = Math.max(0, depth - 1);
  }
  return out;
}

/** Position of a function's definition in code: the stretch from its type to its last brace. */
export function definition(code: string, name: string): [from: number, to: number] | undefined {
  const head = new RegExp(`\\bvoid\\s+${name}\\s*\\([^)]*\\)\\s*\\{`).exec(code);
  if (!head) return undefined;
  let depth = 0;
  for (let i = head.index + head[0].length - 1; i < code.length; i++) {
    if (code[i] === "{") depth++;
    if (code[i] === "}" && --depth === 0) return [head.index, i + 1];
  }
  return undefined;
}

/** Code without one of its functions, on as many lines. */
function leaveOut(code: string, name: string): string {
  const at = definition(code, name);
  if (!at) return code;
  return code.slice(0, at[0]) + code.slice(...at).replace(/[^\n]/g, "") + code.slice(at[1]);
}
