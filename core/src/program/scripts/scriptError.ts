import type { ProgramProblem } from "../exposed";

/** A program that cannot be read, or that failed while it ran. */
export class ScriptError extends Error {
  readonly problem: ProgramProblem;

  constructor(problem: ProgramProblem) {
    super(problem.message);
    this.name = "ScriptError";
    this.problem = problem;
  }
}
