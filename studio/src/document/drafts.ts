import type { Scene } from "@bumbrel/core/document/scene";
import { del, get, set } from "idb-keyval";
import { browserStorage } from "./browserStorage";

/** Edits that had not reached the server, kept in the browser. */
export interface Draft {
  /** The revision they were made on. */
  revision: number;
  /** Scene on the server at that revision. */
  base: Scene;
  scene: Scene;
  /** When the last of them was made, ms since 1970. */
  editedMs: number;
}

export interface DraftStore {
  get(projectId: string): Promise<Draft | undefined>;
  put(projectId: string, draft: Draft): Promise<void>;
  remove(projectId: string): Promise<void>;
}

const stored = browserStorage("bumbrel-drafts", "drafts");

/** Drafts in this browser. A browser that keeps nothing, as in a private window, has none: every call does nothing. */
export const browserDrafts: DraftStore = {
  get: (projectId) => stored((store) => get<Draft>(projectId, store)),
  put: (projectId, draft) => stored((store) => set(projectId, draft, store)),
  remove: (projectId) => stored((store) => del(projectId, store)),
};

/** Quiet time before a draft is written, ms: long before a page that is closed at once could lose much. */
const DELAY_MS = 150;

/** Keeps a draft of the edits of one project until they have been saved. */
export class DraftKeeper {
  private readonly projectId: string;
  private readonly drafts: DraftStore;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private last: Promise<void> = Promise.resolve();
  private newest: Draft | undefined;

  constructor(projectId: string, drafts: DraftStore) {
    this.projectId = projectId;
    this.drafts = drafts;
  }

  /** Notes an edit; it is written a moment later. */
  edited(draft: Draft): void {
    this.newest = draft;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.write(), DELAY_MS);
  }

  /** Everything has been saved: there is nothing to keep. */
  saved(): void {
    clearTimeout(this.timer);
    this.newest = undefined;
    this.last = this.last.then(() => this.drafts.remove(this.projectId));
  }

  /** Writes what waits, before the page goes. */
  async flush(): Promise<void> {
    clearTimeout(this.timer);
    this.write();
    await this.last;
  }

  private write(): void {
    const { newest } = this;
    if (!newest) return;
    this.newest = undefined;
    this.last = this.last.then(() => this.drafts.put(this.projectId, newest));
  }
}
