import { transform } from "sucrase";
import { ScriptError } from "./scriptError";

/** JavaScript from TypeScript, on the same lines: types are taken out, nothing else changes. */
export function strip(code: string): string {
  try {
    const plain = code.replace(/^export\s+(?:default\s+)?(?=function|const|let|interface|type)/gm, (all) =>
      " ".repeat(all.length),
    );
    return transform(plain, {
      transforms: ["typescript"],
      disableESTransforms: true,
      keepUnusedImports: true,
    }).code;
  } catch (error) {
    const { message, loc } = error as Error & { loc?: { line: number } };
    const words = message.replace(/^Error transforming[^:]*: /, "").replace(/ ?\(\d+:\d+\)$/, "");
    throw new ScriptError({ line: loc?.line ?? 1, message: syntaxInWords(words) });
  }
}

/** A parser's message in plain words. */
export function syntaxInWords(message: string): string {
  const expected = /^Unexpected token, expected "(.+)"/.exec(message);
  if (expected) return `“${expected[1]}” is missing here.`;
  if (/^Unexpected token|^unexpected token/.test(message)) {
    const token = /token in expression: '(.+)'/.exec(message)?.[1];
    return token
      ? `“${token}” was not expected here: is something missing before it?`
      : "Something is missing here, or too much.";
  }
  if (/^Unterminated string/i.test(message)) return "A text has no end: its closing quotes are missing.";
  if (/^Unterminated comment/i.test(message)) return "A comment has no end: */ is missing.";
  return message.endsWith(".") ? message : `${message}.`;
}
