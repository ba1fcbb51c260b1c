import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { EXAMPLE_LIST, type ExampleId } from "@bumbrel/api/exampleList";
import { readArchive } from "@bumbrel/server/archive/readArchive";
import { type Stores, storesOf } from "@bumbrel/server/archive/stores";
import { type Database, openDatabase } from "@bumbrel/server/db/open";
import { makeExample } from "@bumbrel/server/examples";
import { choiceFlag, UsageError } from "./command";
import { dataFolder, existingData, ROOT } from "./data";

/** Help text about where projects are kept, for commands that read them. */
export const DATA_HELP = `  --data DIR    where projects and sounds are kept: .bumbrel in the checkout unless said

With DATABASE_URL set, that PostgreSQL server is used instead; otherwise stop Bumbrel first.
`;

/** Opens what is stored, and closes it again whatever happens. */
export async function withStores<T>(
  dataDir: string,
  databaseUrl: string | undefined,
  use: (stores: Stores, db: Database) => Promise<T>,
): Promise<T> {
  const database = await openDatabase({
    dataDir,
    databaseUrl,
    migrationsDir: join(ROOT, "server/migrations"),
    preparedDir: join(ROOT, "server/dist/prepared"),
  });
  try {
    return await use(storesOf(database.db), database.db);
  } finally {
    await database.close();
  }
}

/** Opens the projects that are stored: on the PostgreSQL server that `DATABASE_URL` names, or in a data folder. */
export function withProjects<T>(
  given: string | undefined,
  use: (stores: Stores, db: Database) => Promise<T>,
): Promise<T> {
  const databaseUrl = process.env.DATABASE_URL || undefined;
  return withStores(databaseUrl ? dataFolder(given) : existingData(given), databaseUrl, use);
}

/** Opens data of its own, which is removed again: nobody's projects are touched, and Bumbrel may run meanwhile. */
async function withOwnData<T>(use: (stores: Stores, dataDir: string) => Promise<T>): Promise<T> {
  const dataDir = mkdtempSync(join(tmpdir(), "bumbrel-own-"));
  try {
    return await withStores(dataDir, undefined, (stores) => use(stores, dataDir));
  } finally {
    rmSync(dataDir, { recursive: true, force: true });
  }
}

/** Flags that say which project a command is about, instead of an archive. */
export const PROJECT_FLAGS = {
  project: { type: "string" },
  example: { type: "string" },
  data: { type: "string" },
} as const;

/** The positional argument of a command that takes an archive, where no flag names a project. */
export const archiveUnlessNamed = (args: readonly string[]): string[] =>
  args.some((arg) => /^--(project|example)(=|$)/.test(arg)) ? [] : ["ARCHIVE.zip"];

/**
 * Opens the project that a command is about: of an archive, of those that are stored, or a worked example.
 *
 * @throws UsageError when there is no such project, or more than one
 */
export function withProject<T>(
  { project, example, data }: { project?: string; example?: string; data?: string },
  archive: string | undefined,
  use: (stores: Stores, projectId: string) => Promise<T>,
): Promise<T> {
  if (project !== undefined && example !== undefined)
    throw new UsageError("--project and --example do not go together");
  if (example !== undefined) {
    const names = EXAMPLE_LIST.map(({ id }) => id);
    return withExample(choiceFlag("example", example, names), use);
  }
  if (project === undefined) return withArchive(archive!, use);
  return withProjects(data, async (stores) => use(stores, (await idsOf(stores, project))[0]));
}

/** Opens a worked example as a project. */
export const withExample = <T>(
  example: ExampleId,
  use: (stores: Stores, projectId: string) => Promise<T>,
): Promise<T> =>
  withOwnData(async (stores, dataDir) => {
    if (!(await stores.projects.example(example)))
      await makeExample(example, stores.projects, stores.sounds, join(dataDir, "examples", example));
    const { id } = await stores.projects.create((await stores.projects.example(example))!);
    return use(stores, id);
  });

/**
 * Opens the project of an archive.
 *
 * @throws UsageError when there is none in it, or several
 */
const withArchive = async <T>(
  path: string,
  use: (stores: Stores, projectId: string) => Promise<T>,
): Promise<T> => {
  if (!existsSync(path)) throw new UsageError(`${path}: there is no such file`);
  return withOwnData(async (stores) => {
    const { projects, problems } = await readArchive(path, stores, true);
    if (problems.length > 0) throw new UsageError(`${path}: ${problems.join(" ")}`);
    if (projects.length !== 1)
      throw new UsageError(
        `${path}: there are ${projects.length} projects in it; export the one that is wanted by itself`,
      );
    return use(stores, projects[0].id);
  });
};

/** @throws UsageError when there is none of that name, or several */
export async function idsOf({ projects }: Stores, wanted: string | undefined): Promise<string[]> {
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
