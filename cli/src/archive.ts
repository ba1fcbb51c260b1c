import { createWriteStream, existsSync, mkdtempSync, renameSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, resolve } from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { EXAMPLE_LIST } from "@bumbrel/api/exampleList";
import { readArchive } from "@bumbrel/server/archive/readArchive";
import { type Stores, storesOf } from "@bumbrel/server/archive/stores";
import { writeArchive } from "@bumbrel/server/archive/writeArchive";
import { openDatabase } from "@bumbrel/server/db/open";
import { makeExample } from "@bumbrel/server/examples";
import { type Command, choiceFlag, parsed, UsageError } from "./command";
import { dataFolder, existingData, ROOT } from "./data";

const DATA_HELP = `  --data DIR    where projects and sounds are kept: .bumbrel in the checkout unless said

With DATABASE_URL set, that PostgreSQL server is used instead; otherwise stop Bumbrel first.
`;

/** Opens what is stored, and closes it again whatever happens. */
async function withStores<T>(
  dataDir: string,
  databaseUrl: string | undefined,
  use: (stores: Stores) => Promise<T>,
): Promise<T> {
  const database = await openDatabase({
    dataDir,
    databaseUrl,
    migrationsDir: join(ROOT, "server/migrations"),
    preparedDir: join(ROOT, "server/dist/prepared"),
  });
  try {
    return await use(storesOf(database.db));
  } finally {
    await database.close();
  }
}

const databaseUrl = () => process.env.DATABASE_URL || undefined;

export const exportCommand: Command = {
  name: "export",
  summary: "writes a project with all it is made of",
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
    const example =
      values.example === undefined
        ? undefined
        : choiceFlag(
            "example",
            values.example,
            EXAMPLE_LIST.map(({ id }) => id),
          );
    const done = (count: number) => {
      console.out(`${out}: ${count} ${count === 1 ? "project" : "projects"}\n`);
      return 0 as const;
    };
    if (example !== undefined) {
      // In data of its own: nobody's projects are touched, and Bumbrel may run meanwhile.
      const dataDir = mkdtempSync(join(tmpdir(), "bumbrel-example-"));
      try {
        return await withStores(dataDir, undefined, async (stores) => {
          if (!(await stores.projects.example(example)))
            await makeExample(example, stores.projects, stores.sounds, join(dataDir, "examples", example));
          const { id } = await stores.projects.create((await stores.projects.example(example))!);
          await writeTo(out, writeArchive([id], stores));
          return done(1);
        });
      } finally {
        rmSync(dataDir, { recursive: true, force: true });
      }
    }
    const dataDir = databaseUrl() ? dataFolder(values.data) : existingData(values.data);
    return withStores(dataDir, databaseUrl(), async (stores) => {
      const ids = await idsOf(stores, all ? undefined : positionals[0]);
      await writeTo(out, writeArchive(ids, stores));
      return done(ids.length);
    });
  },
};

/** @throws UsageError when there is none of that name, or several */
async function idsOf({ projects }: Stores, wanted: string | undefined): Promise<string[]> {
  const list = await projects.list();
  if (wanted === undefined) return list.map(({ id }) => id);
  const found = list.filter(({ id, name }) => id === wanted || name === wanted);
  if (found.length === 1) return [found[0].id];
  throw new UsageError(
    found.length === 0
      ? `there is no project "${wanted}"; there are ${list.map(({ name }) => `"${name}"`).join(", ") || "none"}`
      : `${found.length} projects are called "${wanted}"; give the id of one: ${found.map(({ id }) => id).join(", ")}`,
  );
}

/** Writes aside and moves into place what is whole. */
async function writeTo(path: string, bytes: AsyncIterable<Uint8Array>): Promise<void> {
  const aside = `${path}.${process.pid}.part`;
  try {
    await pipeline(Readable.from(bytes), createWriteStream(aside));
    renameSync(aside, path);
  } catch (error) {
    rmSync(aside, { force: true });
    const { code } = error as NodeJS.ErrnoException;
    if (code === "ENOENT" || code === "EACCES" || code === "ENOSPC" || code === "EISDIR")
      throw new UsageError(`${path}: cannot be written (${code})`);
    throw error;
  }
}

export const importCommand: Command = {
  name: "import",
  summary: "brings the projects of an archive in",
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
    const dataDir = dataFolder(values.data);
    return withStores(dataDir, databaseUrl(), async (stores) => {
      const { projects, problems } = await readArchive(path, stores, values.again);
      for (const { id, name, isNew } of projects)
        console.out(`${name}: ${isNew ? "brought in" : "here already"}, ${id}\n`);
      for (const problem of problems) console.out(`${problem}\n`);
      return problems.length === 0 ? 0 : 1;
    });
  },
};
