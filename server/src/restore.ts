import { join } from "node:path";
import { BumbrelError } from "@bumbrel/core/errors";
import { FolderCopies } from "./db/copies";
import { lockFolder } from "./db/folderLock";

/**
 * Puts the newest copy of an embedded database in its place; what was there is moved aside.
 *
 * @throws BumbrelError when there is no copy, or the folder is in use
 */
export async function restoreData(dataDir: string): Promise<{ movedTo: string; takenAt: Date }> {
  const { release } = await lockFolder(dataDir, () => {});
  try {
    const restored = new FolderCopies(join(dataDir, "postgres")).restore();
    if (!restored) {
      throw new BumbrelError({
        code: "no-copy",
        what: "there is no copy of the database to put back",
        where: dataDir,
        remedy: "Give the folder of the data with --data, or put back a copy of your own",
      });
    }
    return { movedTo: restored.movedTo, takenAt: restored.copy.takenAt };
  } finally {
    await release();
  }
}
