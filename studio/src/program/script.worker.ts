import type { ProgramProblem } from "@bumbrel/core/program/exposed";
import { libraryOf, TypeChecker } from "./checkTypes";
import { tryScript } from "./tryScript";

/** A script to be checked, and the number of the question. */
export interface ScriptQuestion {
  number: number;
  kind: "drawing" | "number";
  code: string;
}
export interface ScriptAnswer {
  number: number;
  problems: ProgramProblem[];
}

const scope = self as unknown as {
  postMessage(message: ScriptAnswer): void;
  onmessage: ((event: MessageEvent<ScriptQuestion>) => void) | null;
};
scope.onmessage = ({ data: { number, kind, code } }) => {
  void check(kind, code).then((problems) => scope.postMessage({ number, problems }));
};

const library = libraryOf(
  Object.values(
    import.meta.glob<string>(
      "../../../../../node_modules/typescript-in-browser/lib/lib.es{5,2015*,2016*,2017*,2018*,2019*,2020*}.d.ts",
      { query: "?raw", import: "default", eager: true },
    ),
  ),
);
const checkers = new Map<string, TypeChecker>();

async function check(kind: "drawing" | "number", code: string): Promise<ProgramProblem[]> {
  const checker = checkers.get(kind) ?? new TypeChecker(kind, library);
  checkers.set(kind, checker);
  const problems = checker.check(code);
  return problems.length > 0 ? problems : tryScript(kind, code);
}
