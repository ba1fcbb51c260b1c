import type { ProgramProblem } from "@bumbrel/core/program/exposed";
import { scriptDeclarations } from "@bumbrel/core/program/scriptOffers";
import ts from "typescript-in-browser";

/** Declarations of the language itself, without what belongs to pages. */
const LIBRARY = Object.values(
  import.meta.glob<string>(
    "../../../../../node_modules/typescript-in-browser/lib/lib.es{5,2015*,2016*,2017*,2018*,2019*,2020*}.d.ts",
    { query: "?raw", import: "default", eager: true },
  ),
)
  // The files name each other, which are all here; and what programs have not got is not offered.
  .map((text) =>
    text
      .replace(/^\/\/\/ <reference.*$/gm, "")
      .replace(
        /^declare var (?:Date|Promise|SharedArrayBuffer|Atomics|Intl|WeakRef|Proxy|Reflect|BigInt)\b.*$/gm,
        "",
      )
      .replace(/^declare function (?:eval|escape|unescape)\b.*$/gm, ""),
  )
  .join("\n");

const FILE = "program.ts";
const GIVEN = "bumbrel.d.ts";
const OPTIONS: ts.CompilerOptions = {
  target: ts.ScriptTarget.ES2020,
  noLib: true,
  strict: true,
  noImplicitAny: false,
  types: [],
};
/** Problems that are told at most; others often follow from the first. */
const MOST_PROBLEMS = 20;

/** The type checker, which keeps what it has understood from one text to the next. */
class Checker {
  private code = "";
  private version = 0;
  private readonly service: ts.LanguageService;

  constructor(kind: "drawing" | "number") {
    const given = `interface Exposed {}\n${scriptDeclarations(kind)}`;
    const texts: Record<string, () => string> = {
      "library.d.ts": () => LIBRARY,
      [GIVEN]: () => given,
      [FILE]: () => this.code,
    };
    this.service = ts.createLanguageService({
      getCompilationSettings: () => OPTIONS,
      getScriptFileNames: () => Object.keys(texts),
      getScriptVersion: (name) => (name === FILE ? String(this.version) : "1"),
      getScriptSnapshot: (name) => (texts[name] ? ts.ScriptSnapshot.fromString(texts[name]()) : undefined),
      getCurrentDirectory: () => "",
      getDefaultLibFileName: () => "library.d.ts",
      fileExists: (name) => name in texts,
      readFile: (name) => texts[name]?.(),
    });
  }

  check(code: string): ProgramProblem[] {
    this.code = code;
    this.version++;
    const syntax = this.service.getSyntacticDiagnostics(FILE);
    const found = syntax.length > 0 ? syntax : this.service.getSemanticDiagnostics(FILE);
    return found.slice(0, MOST_PROBLEMS).map(({ start = 0, code: number, messageText }) => ({
      line: code.slice(0, start).split("\n").length,
      message: inWords(number, ts.flattenDiagnosticMessageText(messageText, "\n")),
    }));
  }
}
const checkers = new Map<string, Checker>();

/** What does not fit in a script, by its types, at its lines and in plain words. */
export function checkTypes(kind: "drawing" | "number", code: string): ProgramProblem[] {
  let checker = checkers.get(kind);
  if (!checker) {
    checker = new Checker(kind);
    checkers.set(kind, checker);
  }
  return checker.check(code);
}

const WORDS: Record<number, (match: string[]) => string> = {
  1005: ([token]) => `“${token}” is missing here.`,
  1109: () => "Something is missing here: a value was expected.",
  2304: ([name]) => `Nothing here is named “${name}”.`,
  2552: ([name, other]) => `Nothing here is named “${name}”. Is “${other}” meant?`,
  2339: ([name, type]) => `A ${type} has no “${name}”.`,
  2551: ([name, type, other]) => `A ${type} has no “${name}”. Is “${other}” meant?`,
  2322: ([from, to]) => `A ${from} cannot be put where a ${to} is needed.`,
  2345: ([from, to]) => `A ${from} cannot be given where a ${to} is needed.`,
  2365: ([sign, left, right]) => `“${sign}” does not go between a ${left} and a ${right}.`,
  2588: ([name]) => `“${name}” is a constant.`,
  2540: ([name]) => `“${name}” cannot be changed.`,
  2532: () => "This may be undefined.",
  18048: ([name]) => `“${name}” may be undefined.`,
};

/** A message of the type checker in plain words. */
export function inWords(number: number, message: string): string {
  const [first] = message.split("\n");
  const quoted = [...first.matchAll(/'([^']*)'/g)].map(([, text]) => text);
  const counts = /^Expected (.+) arguments?, but got (\d+)/.exec(first);
  if (counts) return `This takes ${counts[1]} values, and is given ${counts[2]}.`;
  const words = WORDS[number]?.(quoted);
  return words || first;
}
