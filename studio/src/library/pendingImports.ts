import type { Asset } from "@bumbrel/core/document/scene";
import { del, entries, set } from "idb-keyval";
import { browserStorage } from "../document/browserStorage";

/** A file whose way in was begun and has not ended. */
export interface PendingImport {
  projectId: string;
  name: string;
  /** Kind that it becomes. */
  becomes: "sound" | Asset["kind"];
  /** The sound it replaces. */
  replacing?: string;
  /** Missing when it was too large to be kept. */
  file?: File;
}

/** Files up to so many bytes are kept until they are in, so that their import is taken up again after a reload. */
const MOST_KEPT_BYTES = 64 * 1024 * 1024;

const lockOf = (id: string) => `bumbrel-import-${id}`;

/** Imports left unfinished by a page that was closed or reloaded. */
export interface PendingImports {
  begin(id: string, pending: PendingImport): void;
  end(id: string): void;
  /** Imports of a project that nobody carries on any more; each is given once. */
  takeLeft(projectId: string): Promise<PendingImport[]>;
}

/** Pending imports in this browser's storage; where it keeps nothing there are none. */
export class BrowserImports implements PendingImports {
  private readonly stored = browserStorage("bumbrel-imports", "imports");
  private readonly releases = new Map<string, () => void>();

  begin(id: string, pending: PendingImport): void {
    // Other windows see by the lock that this one is still at it.
    void navigator.locks?.request(
      lockOf(id),
      () => new Promise<void>((resolve) => this.releases.set(id, resolve)),
    );
    const { file } = pending;
    const isKept = file !== undefined && file.size <= MOST_KEPT_BYTES;
    void this.stored((store) => set(id, { ...pending, file: isKept ? file : undefined }, store));
  }

  end(id: string): void {
    void this.stored((store) => del(id, store));
    this.releases.get(id)?.();
    this.releases.delete(id);
  }

  async takeLeft(projectId: string): Promise<PendingImport[]> {
    const { locks } = navigator;
    // Without locks it cannot be told whether another window is at it.
    if (!locks) return [];
    const all = (await this.stored((store) => entries<string, PendingImport>(store))) ?? [];
    const left: PendingImport[] = [];
    for (const [id, pending] of all) {
      if (pending.projectId !== projectId) continue;
      await locks.request(lockOf(id), { ifAvailable: true }, async (lock) => {
        if (!lock) return;
        await this.stored((store) => del(id, store));
        left.push(pending);
      });
    }
    return left;
  }
}
