import { closeSync, fsyncSync, openSync, readdirSync } from "node:fs";
import { join } from "node:path";
import { PGlite } from "@electric-sql/pglite";

/** A file as the embedded database's own system of files knows it. */
interface OpenFile {
  /** The file's descriptor here; directories have none. */
  nfd?: number;
  node: unknown;
}
interface FileSystems {
  NODEFS: {
    stream_ops: { fsync?(file: OpenFile): number };
    realPath(node: unknown): string;
  };
}

/** Runs without waiting for the disk: what the library starts with. */
const NO_SYNC = "-F";

/**
 * Opens an embedded database that waits for the disk at each commit, so that what was acknowledged outlives a power cut.
 *
 * By itself the library neither asks the database to wait, nor passes its request on to the disk. It does both here: the
 * database is started with `fsync` on, and by the one of its ways that reaches the system of files, which then syncs.
 *
 * @param onSync  called after each wait; for measuring
 */
export async function openDurable(folder: string, onSync: () => void = () => {}): Promise<PGlite> {
  const startParams = [
    ...PGlite.defaultStartParams.filter((param) => param !== NO_SYNC),
    "-c",
    "wal_sync_method=fsync",
    // The log of changes is cut often: its usual gigabyte would take several times the space of what is kept.
    "-c",
    "max_wal_size=96MB",
    "-c",
    "min_wal_size=32MB",
  ];
  const client = await PGlite.create({ dataDir: folder, startParams });
  const { NODEFS } = (client.Module.FS as unknown as { filesystems: FileSystems }).filesystems;
  NODEFS.stream_ops.fsync = ({ nfd, node }) => {
    if (nfd !== undefined) fsyncSync(nfd);
    // A file that is new or renamed is safe once its directory is.
    else syncPath(NODEFS.realPath(node));
    onSync();
    return 0;
  };
  return client;
}

/** Waits until a file, or the list of a directory's files, is on the disk. */
export function syncPath(path: string): void {
  const descriptor = openSync(path, "r");
  try {
    fsyncSync(descriptor);
  } finally {
    closeSync(descriptor);
  }
}

/** Waits until a folder and everything in it is on the disk. */
export function syncFolder(folder: string): void {
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
    syncPath(join(entry.parentPath, entry.name));
  }
  syncPath(folder);
}
