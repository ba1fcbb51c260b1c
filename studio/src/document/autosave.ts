import type { Scene } from "@bumbrel/core/document/scene";

/** - `conflict`: someone else saved first; nothing is written until a person decides */
export type SaveState =
  | { kind: "saved" }
  | { kind: "unsaved" }
  | { kind: "saving" }
  | { kind: "failed"; message: string }
  | { kind: "conflict"; message: string };

export interface AutosaveParts {
  revision: number;
  save(revision: number, scene: Scene): Promise<{ revision: number }>;
  /** Whether an error means that another window saved first. */
  isConflict(error: unknown): boolean;
  onState(state: SaveState): void;
  /** Quiet time before a save, ms. */
  delayMs?: number;
  /** Time before a failed save is tried again, ms. */
  retryMs?: number;
}

/**
 * Saves the newest scene soon after each change, one save at a time. A failed save is tried again; a
 * conflict stops saving, so that nothing of either side is lost.
 */
export class Autosave {
  private readonly parts: AutosaveParts;
  private revision: number;
  private waiting: Scene | undefined;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private running: Promise<void> | undefined;
  private stopped = false;

  constructor(parts: AutosaveParts) {
    this.parts = parts;
    this.revision = parts.revision;
  }

  /** Whether something has not reached the server yet. */
  get isBehind(): boolean {
    return this.waiting !== undefined || this.running !== undefined;
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
    try {
      ({ revision: this.revision } = await this.parts.save(this.revision, scene));
      if (!this.waiting) this.parts.onState({ kind: "saved" });
    } catch (error) {
      this.waiting ??= scene;
      const { message } = error as Error;
      if (this.parts.isConflict(error)) {
        this.stopped = true;
        this.parts.onState({ kind: "conflict", message });
      } else {
        this.parts.onState({ kind: "failed", message });
        if (!this.stopped) this.schedule(this.parts.retryMs ?? 3000);
      }
    }
  }
}
