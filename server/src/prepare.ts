import { join } from "node:path";
import { openDatabase } from "./db/open";
import { makeExamples } from "./examples";
import { BlobStore } from "./store/blobs";
import { ProjectStore } from "./store/projects";
import { SoundStore } from "./store/sounds";

/**
 * Makes a data folder that new ones start as: with tables and worked examples, and no projects yet.
 *
 * @param dataDir  an empty folder, or none yet
 */
export async function prepareData(dataDir: string, migrationsDir: string): Promise<void> {
  const database = await openDatabase({ dataDir, migrationsDir });
  const sounds = new SoundStore(database.db, new BlobStore(database.db));
  await makeExamples(new ProjectStore(database.db), sounds, join(dataDir, "examples"));
  await database.close();
}
