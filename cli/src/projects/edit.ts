import { existsSync, writeFileSync } from "node:fs";
import { parseSceneText } from "@bumbrel/core/check/readScene";
import type { Scene } from "@bumbrel/core/document/scene";
import { applyEdits, type EditCall } from "@bumbrel/core/edit/applyEdits";
import { editNamed } from "@bumbrel/core/edit/table";
import { type Command, type ExitCode, parsed, readBytes, UsageError, writtenAside } from "../support/command";
import { DATA_HELP, idsOf, withProjects } from "./stores";

export const edit: Command = {
  help: `bumbrel edit SCENE.json --with EDITS.json [--out FILE]
bumbrel edit PROJECT --with EDITS.json [options]

Carries out a list of named edits on a scene file or on a stored project, all or nothing: when one of them cannot be
carried out, nothing is changed, and a line says which, where and why. docs/edits.md lists the edits with their arguments.

  --with FILE   the edits, as JSON: [{ "edit": "renameScene", "args": { "name": "Quay" } }]; - reads standard input
  --out FILE    where an edited scene file goes: in its own place unless said
  --allow-programs  lets a project take programs from the edits: they run wherever it is played
${DATA_HELP}
Example: bumbrel edit quay.json --with lanterns.json
`,
  async run(args, console) {
    const options = {
      with: { type: "string" },
      out: { type: "string" },
      data: { type: "string" },
      "allow-programs": { type: "boolean" },
    } as const;
    const { values, positionals } = parsed(args, options, ["SCENE.json or PROJECT"]);
    const [named] = positionals;
    if (values.with === undefined) throw new UsageError("--with is missing");
    const edits = readEdits(values.with);
    const done = (scene: Scene) =>
      console.out(`${scene.name}: ${edits.length} ${edits.length === 1 ? "edit" : "edits"} carried out\n`);
    if (existsSync(named)) {
      const edited = applyEdits(parseSceneText(new TextDecoder().decode(readBytes(named))), edits);
      const text = `${JSON.stringify(edited, null, 2)}\n`;
      await writtenAside(values.out ?? named, async (aside) => writeFileSync(aside, text));
      done(edited);
      return 0;
    }
    if (values.out !== undefined) throw new UsageError(`${named}: there is no such file`);
    const writes = edits.find(({ edit: name }) => editNamed(name)?.bringsCode);
    if (writes && !values["allow-programs"])
      throw new UsageError(
        `${values.with}: ${writes.edit} brings a program, which would run; read it, and give --allow-programs`,
      );
    return withProjects<ExitCode>(values.data, async (stores) => {
      const [id] = await idsOf(stores, named);
      const { revision, scene } = (await stores.projects.get(id))!;
      const edited = applyEdits(scene, edits);
      const outcome = await stores.projects.save(id, revision, edited);
      if (!outcome?.saved)
        throw new UsageError(
          `${named}: somebody else has saved it meanwhile; nothing was changed, try again`,
        );
      done(edited);
      return 0;
    });
  },
};

function readEdits(path: string): EditCall[] {
  const text = new TextDecoder().decode(readBytes(path));
  let list: unknown;
  try {
    list = JSON.parse(text);
  } catch (error) {
    throw new UsageError(`${path}: this is no JSON (${(error as Error).message})`);
  }
  if (!Array.isArray(list))
    throw new UsageError(`${path}: the edits are no list; docs/edits.md has an example`);
  return list as EditCall[];
}
