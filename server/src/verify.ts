import { join } from "node:path";
import { type DatabaseSettings, openDatabase } from "./db/open";
import { BlobStore } from "./store/blobs";
import { Verifier } from "./store/verify";

/**
 * Looks at everything that is stored, see {@link Verifier}.
 *
 * @param rootDir  root of the checkout
 * @throws BumbrelError when the database cannot be opened
 */
export async function verifyData(
  settings: Pick<DatabaseSettings, "databaseUrl" | "dataDir"> & { rootDir: string },
) {
  const { db, readOnly, close } = await openDatabase({
    ...settings,
    migrationsDir: join(settings.rootDir, "server/migrations"),
  });
  try {
    const found = await new Verifier(db, new BlobStore(db)).all();
    return { ...found, flaws: readOnly === undefined ? found.flaws : [readOnly, ...found.flaws] };
  } finally {
    await close();
  }
}
