import type { ProgramProblem } from "@bumbrel/core/program/exposed";
import { PROGRAM_KINDS, type ProgramKind } from "@bumbrel/core/program/kinds";
import type { ScriptAnswer, ScriptQuestion } from "./script.worker";

/** Finds the problems of a program; it is tried apart from the stage, which it cannot harm. */
export function problemsOf(kind: ProgramKind, code: string): Promise<ProgramProblem[]> {
  return kind === "surface" || kind === "pass" ? problemsOfGlsl(kind, code) : problemsOfScript(kind, code);
}

let gl: WebGL2RenderingContext | null | undefined;

async function problemsOfGlsl(kind: "surface" | "pass", code: string): Promise<ProgramProblem[]> {
  const { checkGlsl } = await import("@bumbrel/player/stage/programs/checkGlsl");
  if (!gl || gl.isContextLost()) gl = new OffscreenCanvas(1, 1).getContext("webgl2");
  if (!gl) return [{ line: 1, message: "This browser offers no WebGL 2, so programs cannot be checked." }];
  return checkGlsl(gl, kind, code);
}

/** A worker that does not answer within this time is stopped, and another one takes its place. */
const MOST_WAITING_MS = 5000;
/** Until it has answered for the first time it is given longer: it loads the type checker. */
const MOST_LOADING_MS = 30_000;

interface Asked {
  worker: Worker;
  waiting: Map<number, (problems: ProgramProblem[]) => void>;
  hasAnswered: boolean;
}
let asked: Asked | undefined;
let questions = 0;

function startWorker(): Asked {
  const worker = new Worker(new URL("./script.worker.ts", import.meta.url), { type: "module" });
  const started: Asked = { worker, waiting: new Map(), hasAnswered: false };
  worker.addEventListener("message", ({ data }: MessageEvent<ScriptAnswer>) => {
    started.hasAnswered = true;
    started.waiting.get(data.number)?.(data.problems);
    started.waiting.delete(data.number);
  });
  return started;
}

function problemsOfScript(kind: "drawing" | "number", code: string): Promise<ProgramProblem[]> {
  asked ??= startWorker();
  const mine = asked;
  const number = ++questions;
  return new Promise((resolve) => {
    const timer = setTimeout(
      () => {
        mine.worker.terminate();
        if (asked === mine) asked = undefined;
        const message = `It was stopped: it could not be checked within ${MOST_WAITING_MS / 1000} s.`;
        // Its other questions fail as well.
        for (const answer of mine.waiting.values()) answer([{ line: 1, message }]);
      },
      mine.hasAnswered ? MOST_WAITING_MS : MOST_LOADING_MS,
    );
    mine.waiting.set(number, (problems) => {
      clearTimeout(timer);
      resolve(problems);
    });
    mine.worker.postMessage({ number, kind, code } satisfies ScriptQuestion);
  });
}

/** Loads what checks scripts ahead of the first question. */
export function warmUp(kind: ProgramKind): void {
  if (PROGRAM_KINDS[kind].language === "script") void problemsOf(kind, "");
}
