import { createHash } from "node:crypto";
import { existsSync, mkdtempSync, readFileSync, renameSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { openDatabase } from "../db/open";

/**
 * A data folder with tables and nothing in them, for tests to start as copies of: making one takes seven seconds. It is made
 * once for each state of the tables, and stays in the system's folder for temporary files.
 */
export async function emptyData(migrationsDir = "server/migrations"): Promise<string> {
  const key = createHash("sha256")
    .update(readFileSync(join(migrationsDir, "meta/_journal.json")))
    .update(readFileSync("node_modules/@electric-sql/pglite/package.json"))
    .digest("hex")
    .slice(0, 16);
  const folder = join(tmpdir(), `bumbrel-empty-${key}`);
  if (existsSync(folder)) return folder;
  const aside = mkdtempSync(join(tmpdir(), "bumbrel-empty-new-"));
  await (await openDatabase({ dataDir: aside, migrationsDir })).close();
  try {
    renameSync(aside, folder);
  } catch {
    // Another test was quicker.
    rmSync(aside, { recursive: true, force: true });
  }
  return folder;
}
