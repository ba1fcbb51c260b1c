import { parseSceneText } from "@bumbrel/core/check/readScene";
import { checkReferences } from "@bumbrel/core/check/references";
import { type Finding, SceneFormatError } from "@bumbrel/core/errors";
import { type Command, parsed, readBytes } from "../support/command";

export const check: Command = {
  help: `bumbrel check SCENE.json
bumbrel check -

Validates a scene against its schema and its own references. Prints one line for each problem, with the
place as a JSON Pointer and what to do. With - the scene is read from standard input.

Exit code: 0 when all is well, 1 when the scene has problems, 2 when the file cannot be read as JSON.
`,
  run(args, console) {
    const [path] = parsed(args, {}, ["SCENE.json"]).positionals;
    const text = new TextDecoder().decode(readBytes(path));
    const problems = problemsOf(text);
    for (const { where, what, remedy } of problems) console.out(`${where || "/"}: ${what}. ${remedy}.\n`);
    console.out(
      problems.length === 0
        ? `${path}: no problems\n`
        : `${path}: ${problems.length} ${problems.length === 1 ? "problem" : "problems"}\n`,
    );
    return problems.length === 0 ? 0 : 1;
  },
};

function problemsOf(text: string): Finding[] {
  try {
    return checkReferences(parseSceneText(text));
  } catch (error) {
    if (error instanceof SceneFormatError && error.code !== "scene-not-json") return error.problems;
    throw error;
  }
}
