import type { ProgramProblem } from "@bumbrel/core/program/exposed";
import { scriptDeclarations } from "@bumbrel/core/program/offers/scriptOffers";
import ts from "typescript-in-browser";
import { typeProblemInWords } from "./typeWords";

/** The language's own declarations without what belongs to pages, from the files of its library. */
export function libraryOf(files: readonly string[]): string {
  // The files name each other, which are all here; and what programs have not got is not offered.
  return files
    .map((text) =>
      text
        .replace(/^\/\/\/ <reference.*$/gm, "")
        .replace(NOT_OFFERED, "")
        .replace(/^declare function (?:eval|escape|unescape)\b.*$/gm, ""),
    )
    .join("\n");
}
const NOT_OFFERED =
  /^declare var (?:Date|Promise|SharedArrayBuffer|Atomics|Intl|WeakRef|Proxy|Reflect|BigInt)\b.*$/gm;

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
export class TypeChecker {
  private code = "";
  private version = 0;
  private readonly service: ts.LanguageService;

  /** @param library  see {@link libraryOf} */
  constructor(kind: "drawing" | "number", library: string) {
    const given = `interface Exposed {}\n${scriptDeclarations(kind)}`;
    const texts: Record<string, () => string> = {
      "library.d.ts": () => library,
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

  /** Finds type errors of a script, at its lines and in plain words. */
  check(code: string): ProgramProblem[] {
    this.code = code;
    this.version++;
    const syntax = this.service.getSyntacticDiagnostics(FILE);
    const found = syntax.length > 0 ? syntax : this.service.getSemanticDiagnostics(FILE);
    return found.slice(0, MOST_PROBLEMS).map(({ start = 0, code: number, messageText }) => ({
      line: code.slice(0, start).split("\n").length,
      message: typeProblemInWords(number, ts.flattenDiagnosticMessageText(messageText, "\n")),
    }));
  }
}
