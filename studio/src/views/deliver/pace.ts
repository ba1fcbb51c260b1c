/** Cancelled by the person who waits for it. */
export class Cancelled extends Error {}

/** The page gets a turn at least this often, ms: short frames follow each other without one. */
const BREATH_MS = 12;

/** Lets the page breathe between frames, and the person who waits pause and cancel. */
export class Pace {
  /** How long it has been paused, ms. */
  pausedMs = 0;
  private readonly onPause: (isPaused: boolean) => void;
  private waiting: Promise<void> | undefined;
  private release: (() => void) | undefined;
  private isCancelled = false;
  private breathedMs = 0;

  constructor(onPause: (isPaused: boolean) => void = () => {}) {
    this.onPause = onPause;
  }

  async next(): Promise<void> {
    const { waiting } = this;
    if (waiting) {
      const before = performance.now();
      await waiting;
      this.pausedMs += performance.now() - before;
    } else if (performance.now() - this.breathedMs > BREATH_MS) {
      await new Promise((resolve) => setTimeout(resolve));
      this.breathedMs = performance.now();
    }
    if (this.isCancelled) throw new Cancelled();
  }

  pause(): void {
    if (this.waiting) return;
    this.waiting = new Promise((resolve) => {
      this.release = resolve;
    });
    this.onPause(true);
  }

  goOn(): void {
    this.release?.();
    this.waiting = undefined;
    this.onPause(false);
  }

  cancel(): void {
    this.isCancelled = true;
    this.release?.();
    this.waiting = undefined;
  }
}
