import { createWriteStream, existsSync } from "node:fs";
import { resolve } from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { EXAMPLE_LIST } from "@bumbrel/api/exampleList";
import { readArchive } from "@bumbrel/server/archive/readArchive";
import { writeArchive } from "@bumbrel/server/archive/writeArchive";
import { dataFolder } from "../data";
import { type Command, parsed, UsageError, writtenAside } from "../support/command";
import { DATA_HELP, exampleNamed, idsOf, withExample, withProjects, withStores } from "./stores";

export const exportCommand: Command = {
  help: `bumbrel export PROJECT --out FILE.zip [--data DIR]
bumbrel export --example NAME --out FILE.zip
bumbrel export --all --out FILE.zip

Writes one ZIP file with the project's scene, its sounds as they came, images, models, takes and programs, with checksums
and a page of contents. PROJECT is the id in the project's address, or its name.

  --out FILE    where it goes
  --example NAME  a worked example instead: ${EXAMPLE_LIST.map(({ id }) => id).join(", ")}
  --all         all projects: a backup, which import puts back on an empty machine
${DATA_HELP}`,
  async run(args, console) {
    const options = {
      out: { type: "string" },
      data: { type: "string" },
      example: { type: "string" },
      all: { type: "boolean" },
    } as const;
    const isOne = !args.some((arg) => arg === "--all" || /^--example(=|$)/.test(arg));
    const { values, positionals } = parsed(args, options, isOne ? ["PROJECT"] : []);
    const { out, all } = values;
    if (out === undefined) throw new UsageError("--out is missing");
    if (all && values.example !== undefined) throw new UsageError("--all and --example do not go together");
    const example = values.example === undefined ? undefined : exampleNamed(values.example);
    const done = (count: number) => {
      console.out(`${out}: ${count} ${count === 1 ? "project" : "projects"}\n`);
      return 0 as const;
    };
    if (example !== undefined) {
      return withExample(example, async (stores, id) => {
        await writeTo(out, writeArchive([id], stores));
        return done(1);
      });
    }
    return withProjects(values.data, async (stores) => {
      const ids = await idsOf(stores, all ? undefined : positionals[0]);
      await writeTo(out, writeArchive(ids, stores));
      return done(ids.length);
    });
  },
};

const writeTo = (path: string, bytes: AsyncIterable<Uint8Array>): Promise<void> =>
  writtenAside(path, (aside) => pipeline(Readable.from(bytes), createWriteStream(aside)));

export const importCommand: Command = {
  help: `bumbrel import FILE.zip [--again] [--data DIR]

Brings every project of an archive in. What is stored already is not stored twice, and a project that is here already is
not made again. Of a damaged archive, whatever is whole comes in, and what is missing is said.

  --again       makes projects also when they are here already
${DATA_HELP}
Exit code: 0 when all came in, 1 when something is missing, 2 when nothing can be read.
`,
  async run(args, console) {
    const { values, positionals } = parsed(args, { data: { type: "string" }, again: { type: "boolean" } }, [
      "FILE.zip",
    ]);
    const path = resolve(positionals[0]);
    if (!existsSync(path)) throw new UsageError(`${positionals[0]}: there is no such file`);
    return withStores(dataFolder(values.data), process.env.DATABASE_URL || undefined, async (stores) => {
      const { projects, problems } = await readArchive(path, stores, values.again);
      for (const { id, name, isNew } of projects)
        console.out(`${name}: ${isNew ? "brought in" : "here already"}, ${id}\n`);
      for (const problem of problems) console.out(`${problem}\n`);
      return problems.length === 0 ? 0 : 1;
    });
  },
};
