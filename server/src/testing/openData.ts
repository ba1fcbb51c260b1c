import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { type OpenDatabase, openDatabase } from "../db/open";
import { emptyData } from "./emptyData";
import { startPostgres } from "./postgres";

/** Databases that tests are carried out on alike. */
export const DATABASES = ["embedded", "server"] as const;

/** An empty database of a test's own. */
export interface TestData extends OpenDatabase {
  dataDir: string;
  /** Closes it, and removes everything of it. */
  remove(): Promise<void>;
}

/** Opens an empty database: the embedded one, or one on a PostgreSQL server of its own. */
export async function openData(kind: (typeof DATABASES)[number]): Promise<TestData> {
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
