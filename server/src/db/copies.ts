import { constants, cpSync, existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from "node:fs";
import { cp, rm } from "node:fs/promises";
import { dirname, join } from "node:path";
import { freeBytesAt } from "./disk";
import { syncFolder, syncPath } from "./durable";

/** How old the newest copy may become before another is taken, ms. */
const WEEK_MS = 7 * 24 * 3600 * 1000;
/** Copies that are kept. */
const KEPT = 2;

/** A copy of the embedded database's folder. */
export interface FolderCopy {
  path: string;
  takenAt: Date;
}

/** Copies of the embedded database, taken while nobody has it open, beside it in the data folder. */
export class FolderCopies {
  private readonly folder: string;
  private readonly copiesDir: string;

  /** @param folder  the database's */
  constructor(folder: string) {
    this.folder = folder;
    this.copiesDir = join(dirname(folder), "copies");
  }

  /** Copies there are, the newest first. */
  list(): FolderCopy[] {
    if (!existsSync(this.copiesDir)) return [];
    return readdirSync(this.copiesDir)
      .filter((name) => /^\d+$/.test(name))
      .sort((a, b) => Number(b) - Number(a))
      .map((name) => ({ path: join(this.copiesDir, name), takenAt: new Date(Number(name)) }));
  }

  /** True if the newest copy is more than a week old, or if a database older than that has none. */
  isDue(nowMs = Date.now()): boolean {
    const [newest] = this.list();
    const sinceMs = newest?.takenAt.getTime() ?? statSync(join(this.folder, "PG_VERSION")).mtimeMs;
    return nowMs - sinceMs > WEEK_MS;
  }

  /** True if another copy would leave the disk at least half of its free space. */
  hasRoom(): boolean {
    return folderBytes(this.folder) * 2 < freeBytesAt(this.folder);
  }

  /** Takes a copy, made aside and moved into place when it is whole, and removes the oldest beyond those that are kept. */
  take(nowMs = Date.now()): FolderCopy {
    const path = join(this.copiesDir, String(nowMs));
    mkdirSync(this.copiesDir, { recursive: true });
    copyFolder(this.folder, path);
    for (const { path: old } of this.list().slice(KEPT)) rmSync(old, { recursive: true });
    return { path, takenAt: new Date(nowMs) };
  }

  /** The same without keeping this process from anything else, while somebody makes sure that nothing is written. */
  async takeAside(nowMs = Date.now()): Promise<FolderCopy> {
    const path = join(this.copiesDir, String(nowMs));
    mkdirSync(this.copiesDir, { recursive: true });
    const aside = `${path}.part`;
    await rm(aside, { recursive: true, force: true });
    await cp(this.folder, aside, { recursive: true, mode: constants.COPYFILE_FICLONE });
    syncFolder(aside);
    renameSync(aside, path);
    syncPath(this.copiesDir);
    return { path, takenAt: new Date(nowMs) };
  }

  /**
   * Puts the newest copy in the database's place.
   *
   * @returns where what was there has gone, and the copy; `undefined` when there is none
   */
  restore(nowMs = Date.now()): { movedTo: string; copy: FolderCopy } | undefined {
    const [copy] = this.list();
    if (!copy) return undefined;
    const movedTo = `${this.folder}.damaged-${nowMs}`;
    if (existsSync(this.folder)) renameSync(this.folder, movedTo);
    copyFolder(copy.path, this.folder);
    return { movedTo, copy };
  }
}

/** Copies a folder so that the copy is there whole or not at all. */
export function copyFolder(from: string, to: string): void {
  const aside = `${to}.part`;
  rmSync(aside, { recursive: true, force: true });
  // If the disk supports it, both share their bytes until one of them changes.
  cpSync(from, aside, { recursive: true, mode: constants.COPYFILE_FICLONE });
  syncFolder(aside);
  renameSync(aside, to);
  syncPath(dirname(to));
}

function folderBytes(folder: string): number {
  return readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .reduce((sum, entry) => sum + statSync(join(entry.parentPath, entry.name)).size, 0);
}
