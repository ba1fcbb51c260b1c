import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { EXAMPLE_LIST, type ExampleId } from "@bumbrel/api/exampleList";
import type { Permitted } from "@bumbrel/core/document/programsAllowed";
import { readArchive } from "@bumbrel/server/archive/readArchive";
import { type Stores, storesOf } from "@bumbrel/server/archive/stores";
import { type Database, openDatabase } from "@bumbrel/server/db/open";
import { makeExample } from "@bumbrel/server/examples";
import { dataFolder, existingData, ROOT } from "../data";
import { type Console, choiceFlag, UsageError } from "../support/command";
import { leftOut } from "./foreignPrograms";

/** Help text about where projects are kept, for commands that read them. */
export const DATA_HELP = `  --data DIR    where projects and sounds are kept: .bumbrel in the checkout unless said

With DATABASE_URL set, that PostgreSQL server is used instead; otherwise stop Bumbrel first.
`;

/** The same for commands that run programs. */
export const RUN_HELP = `  --allow-programs  lets programs run that came from elsewhere with an archive; without it they are left out
${DATA_HELP}`;

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
  "allow-programs": { type: "boolean" },
} as const;

/** The project that a command is about, as far as it may run. */
export interface OpenedProject extends Permitted {
  id: string;
  stores: Stores;
}

/** The positional argument of a command that takes an archive, where no flag names a project. */
export const archiveUnlessNamed = (args: readonly string[]): string[] =>
  args.some((arg) => /^--(project|example)(=|$)/.test(arg)) ? [] : ["ARCHIVE.zip"];

/**
 * Opens the project that a command is about: of an archive, of those that are stored, or a worked example.
 *
 * @throws UsageError when there is no such project, or more than one
 */
export function withProject<T>(
  flags: { project?: string; example?: string; data?: string; "allow-programs"?: boolean },
  archive: string | undefined,
  console: Console,
  useProject: (project: OpenedProject) => Promise<T>,
): Promise<T> {
  const { project, example, data } = flags;
  const use = async (stores: Stores, id: string) => {
    const { scene, programsAllowed: isAllowed } = (await stores.projects.get(id))!;
    const programsAllowed = isAllowed || flags["allow-programs"] === true;
    if (!programsAllowed && scene.programs.length > 0) console.error(leftOut(scene));
    return useProject({ id, stores, scene, programsAllowed });
  };
  if (project !== undefined && example !== undefined)
    throw new UsageError("--project and --example do not go together");
  if (example !== undefined) return withExample(exampleNamed(example), use);
  if (project === undefined) return withArchive(archive!, use);
  return withProjects(data, async (stores) => use(stores, (await idsOf(stores, project))[0]));
}

/**
 * A worked example by its short name or its title.
 *
 * @throws UsageError when there is none
 */
export function exampleNamed(text: string): ExampleId {
  const plain = text.trim().toLowerCase();
  const found = EXAMPLE_LIST.find(({ id, name }) => id === plain || name.toLowerCase() === plain);
  return (
    found?.id ??
    choiceFlag(
      "example",
      text,
      EXAMPLE_LIST.map(({ id }) => id),
    )
  );
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
