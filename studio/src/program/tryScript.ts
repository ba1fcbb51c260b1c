import { type ProgramProblem, readExposed, valuesInLayout } from "@bumbrel/core/program/exposed";
import { bandsIn } from "@bumbrel/core/program/exposedNumbers";
import { PROGRAM_KINDS } from "@bumbrel/core/program/kinds";
import { MEMORY_COLUMNS, VALUE_NUMBERS } from "@bumbrel/core/program/offers/memory";
import { loadScripts } from "@bumbrel/core/program/scripts/loadScripts";

/** Strands that a program is tried with: two, a fan and another two. */
const STRANDS = [1, 1, 16, 1, 1];
const STEPS = 3;
const SIDE = 64;

/** Runs a script a few times on made-up numbers, and gives what goes wrong. */
export async function tryScript(kind: "drawing" | "number", code: string): Promise<ProgramProblem[]> {
  const { exposes } = PROGRAM_KINDS[kind];
  const { values, problems } = readExposed(code, "script", exposes);
  if (problems.length > 0) return problems;
  const { Sandbox, ScriptError } = await loadScripts();
  let first = 0;
  const strands = STRANDS.map((count) => {
    first += count;
    return { first: first - count, count };
  });
  let sandbox: InstanceType<typeof Sandbox> | undefined;
  try {
    sandbox = new Sandbox(code, {
      kind,
      columns: MEMORY_COLUMNS,
      sounds: 1,
      bands: bandsIn(code),
      values: valuesInLayout(values),
      strands: kind === "number" ? strands : [],
    });
    const set = sandbox.floats("values");
    values.forEach(({ type, property }, i) => {
      const start = property?.type === "number" ? property.default : property ? 0.5 : -1;
      set.fill(start, i * VALUE_NUMBERS, (i + 1) * VALUE_NUMBERS);
      if (type === "fan") set.set([2, 16], i * VALUE_NUMBERS);
      if (type === "strand") set.set([0, 1], i * VALUE_NUMBERS);
      if (type === "sound") set[i * VALUE_NUMBERS] = 0;
    });
    sandbox.floats("numbers").fill(0.5);
    for (let step = 0; step < STEPS; step++) sandbox.run(step, step / 60, SIDE, SIDE);
    return [];
  } catch (error) {
    if (error instanceof ScriptError) return [error.problem];
    throw error;
  } finally {
    sandbox?.dispose();
  }
}
