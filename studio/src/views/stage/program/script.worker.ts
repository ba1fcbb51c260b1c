import type { ProgramProblem } from "@bumbrel/core/program/exposed";
import { checkTypes } from "./checkTypes";
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

async function check(kind: "drawing" | "number", code: string): Promise<ProgramProblem[]> {
  const problems = checkTypes(kind, code);
  return problems.length > 0 ? problems : tryScript(kind, code);
}
