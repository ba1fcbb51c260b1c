import type { Scene } from "@bumbrel/core/document/scene";

export type SaveState =
  | { kind: "saved" }
  | { kind: "unsaved" }
  | { kind: "saving" }
  /** It is tried again by itself. */
  | { kind: "failed"; message: string }
  /** It will never be taken as it is; the next change is tried again. */
  | { kind: "refused"; message: string }
  /** Somebody else saved first; nothing is written until a person decides. */
  | { kind: "conflict"; message: string }
  /** The project was deleted elsewhere; nothing is written until a person decides. */
  | { kind: "gone"; message: string };

/**
 * Meaning of a failed save: `unanswered` when it may have been taken all the same, `unavailable` when it
 * was not.
 */
export type SaveFailure = "conflict" | "gone" | "refused" | "unanswered" | "unavailable";

/** A save's own name, and those of earlier ones whose answers never came. */
export interface SaveNames {
  saveId: string;
  unanswered: readonly string[];
}

export interface AutosaveParts {
  /** Scene on the server, and its revision. */
  scene: Scene;
  revision: number;
  save(revision: number, scene: Scene, names: SaveNames): Promise<{ revision: number }>;
  failureOf(error: unknown): SaveFailure;
  newId(): string;
  onState(state: SaveState): void;
  /** Quiet time before a save, ms. */
  delayMs?: number;
  /** Time before a failed save is tried again, ms. */
  retryMs?: number;
}

/**
 * Saves the newest scene soon after each change, one save at a time. A save that failed on the way is tried again; one
 * that was refused waits for the next change; a conflict, or a project that is gone, stops saving, so that nothing of
 * either side is lost.
 */
export class Autosave {
  private readonly parts: AutosaveParts;
  private saved: { revision: number; scene: Scene };
  private waiting: Scene | undefined;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private running: Promise<void> | undefined;
  private stopped = false;
  private unanswered: string[] = [];

  constructor(parts: AutosaveParts) {
    this.parts = parts;
    this.saved = { revision: parts.revision, scene: parts.scene };
  }

  /** True if something has not reached the server yet. */
  get isBehind(): boolean {
    return this.waiting !== undefined || this.running !== undefined;
  }

  /** Base of the next save: the server's state when it last answered. */
  get base(): Readonly<{ revision: number; scene: Scene }> {
    return this.saved;
  }

  /** True if a save of that name was sent whose answer never came. */
  isOwn(saveId: string | null): boolean {
    return saveId !== null && this.unanswered.includes(saveId);
  }

  /**
   * Builds on what the server has now, which includes the newest scene here or is included in it.
   *
   * @param scene  the newest here; saved soon if it is another one
   */
  rebase(base: { revision: number; scene: Scene }, scene: Scene): void {
    this.saved = base;
    this.unanswered = [];
    this.waiting = undefined;
    this.stopped = false;
    if (scene === base.scene) this.parts.onState({ kind: "saved" });
    else this.changed(scene);
  }

  /** Resolves when no save is under way. */
  async settled(): Promise<void> {
    await this.running;
  }

  changed(scene: Scene): void {
    this.waiting = scene;
    if (this.stopped) return;
    this.parts.onState({ kind: "unsaved" });
    this.schedule(this.parts.delayMs ?? 300);
  }

  /** Saves what waits now, and resolves when that is done. */
  async flush(): Promise<void> {
    clearTimeout(this.timer);
    await this.running;
    if (this.waiting && !this.stopped) await this.saveNow();
  }

  /** Saves again after a project that was gone is back. */
  async resume(): Promise<void> {
    this.stopped = false;
    if (this.waiting) await this.flush();
    else this.parts.onState({ kind: "saved" });
  }

  stop(): void {
    this.stopped = true;
    clearTimeout(this.timer);
  }

  private schedule(delayMs: number): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.flush(), delayMs);
  }

  private saveNow(): Promise<void> {
    this.running = this.attempt().finally(() => {
      this.running = undefined;
    });
    return this.running;
  }

  private async attempt(): Promise<void> {
    const scene = this.waiting!;
    this.waiting = undefined;
    this.parts.onState({ kind: "saving" });
    const saveId = this.parts.newId();
    try {
      const names = { saveId, unanswered: this.unanswered };
      const { revision } = await this.parts.save(this.saved.revision, scene, names);
      this.saved = { revision, scene };
      this.unanswered = [];
      if (!this.waiting) this.parts.onState({ kind: "saved" });
    } catch (error) {
      this.waiting ??= scene;
      this.failed(this.parts.failureOf(error), (error as Error).message, saveId);
    }
  }

  private failed(failure: SaveFailure, message: string, saveId: string): void {
    switch (failure) {
      case "conflict":
      case "gone":
        this.stopped = true;
        this.parts.onState({ kind: failure, message });
        return;
      case "refused":
        this.parts.onState({ kind: "refused", message });
        return;
      case "unanswered":
        this.unanswered = [...this.unanswered, saveId].slice(-MAX_UNANSWERED);
        break;
    }
    this.parts.onState({ kind: "failed", message });
    if (!this.stopped) this.schedule(this.parts.retryMs ?? 3000);
  }
}

/** Names of unanswered saves that are kept: as many as a save may carry. */
const MAX_UNANSWERED = 64;
