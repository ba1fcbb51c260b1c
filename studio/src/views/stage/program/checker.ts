import type { ProgramProblem } from "@bumbrel/core/program/exposed";
import { PROGRAM_KINDS, type ProgramKind } from "@bumbrel/core/program/kinds";
import type { ScriptAnswer, ScriptQuestion } from "./script.worker";

/** What is wrong with a program; it is tried apart from the stage, so that it cannot harm it. */
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
let worker: Worker | undefined;
let questions = 0;
const waiting = new Map<number, (problems: ProgramProblem[]) => void>();

function problemsOfScript(kind: "drawing" | "number", code: string): Promise<ProgramProblem[]> {
  if (!worker) {
    worker = new Worker(new URL("./script.worker.ts", import.meta.url), { type: "module" });
    worker.addEventListener("message", ({ data }: MessageEvent<ScriptAnswer>) => {
      waiting.get(data.number)?.(data.problems);
      waiting.delete(data.number);
    });
  }
  const number = ++questions;
  return new Promise((resolve) => {
    // The first answer waits until the type checker has been loaded.
    const patience = number === 1 ? 30_000 : MOST_WAITING_MS;
    const timer = setTimeout(() => {
      waiting.delete(number);
      worker?.terminate();
      worker = undefined;
      resolve([{ line: 1, message: "It was stopped: it could not be checked within 5 s." }]);
    }, patience);
    waiting.set(number, (problems) => {
      clearTimeout(timer);
      resolve(problems);
    });
    worker!.postMessage({ number, kind, code } satisfies ScriptQuestion);
  });
}

/** Loads what checks scripts ahead of the first question. */
export function warmUp(kind: ProgramKind): void {
  if (PROGRAM_KINDS[kind].language === "script") void problemsOf(kind, "");
}
