import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { type OpenDatabase, openDatabase } from "../db/open";
import { emptyData } from "./emptyData";
import { startPostgres } from "./postgres";

/** Kinds of database. */
type DatabaseKind = "embedded" | "server";

/** Databases that tests are carried out on alike: the embedded one, and a PostgreSQL server in the full run. */
export const DATABASES: readonly DatabaseKind[] =
  process.env.BUMBREL_TESTS === "full" ? ["embedded", "server"] : ["embedded"];

/** An empty database of a test's own. */
export interface TestData extends OpenDatabase {
  dataDir: string;
  /** Closes it, and removes everything of it. */
  remove(): Promise<void>;
}

/** Opens an empty database: the embedded one, or one on a PostgreSQL server of its own. */
export async function openData(kind: DatabaseKind): Promise<TestData> {
  const dataDir = mkdtempSync(join(tmpdir(), "bumbrel-"));
  const postgres = kind === "server" ? await startPostgres() : undefined;
  const database = await openDatabase({
    dataDir,
    databaseUrl: postgres?.url,
    migrationsDir: "server/migrations",
    preparedDir: await emptyData(),
  });
  return {
    ...database,
    dataDir,
    async remove() {
      await database.close();
      await postgres?.remove();
      rmSync(dataDir, { recursive: true, force: true });
    },
  };
}
