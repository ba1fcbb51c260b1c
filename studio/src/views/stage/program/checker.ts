import type { ProgramProblem } from "@bumbrel/core/program/exposed";

let gl: WebGL2RenderingContext | null | undefined;

/** What is wrong with a surface program; compiled apart from the stage, so that it cannot harm it. */
export async function problemsOf(code: string): Promise<ProgramProblem[]> {
  const { checkSurface } = await import("@bumbrel/player/stage/programs/checkSurface");
  if (!gl || gl.isContextLost()) gl = new OffscreenCanvas(1, 1).getContext("webgl2");
  if (!gl) return [{ line: 1, message: "This browser offers no WebGL 2, so programs cannot be checked." }];
  return checkSurface(gl, code);
}
