import { platform, type Timer } from "../../platform";
import { SCRIPT_LIMITS } from "../../program/scripts/scriptLimits";

/** Message for a program whose thread was ended. */
export const STOPPED = `It was stopped: it did not answer within ${SCRIPT_LIMITS.threadSeconds} s.`;
/** How long messages that have come meanwhile are heard before a thread counts as silent, ms. */
const LAST_CHANCE_MS = 50;

/** Notices when a thread that runs a program says nothing for longer than it may. */
export class SilenceWatch {
  private timer: Timer | undefined;

  /** Waits for the thread's next message from now on. */
  begin(onSilence: () => void): void {
    this.end();
    this.timer = platform.setTimeout(() => {
      // A page that stood still itself hears first what has been said meanwhile.
      this.timer = platform.setTimeout(onSilence, LAST_CHANCE_MS);
    }, SCRIPT_LIMITS.threadSeconds * 1000);
  }

  /** The thread has said something, or is not needed any more. */
  end(): void {
    platform.clearTimeout(this.timer);
  }
}
