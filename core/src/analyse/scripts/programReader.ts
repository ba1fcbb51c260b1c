import { packSamples } from "../../dsp/maths/samples";
import type { Signal } from "../../strand/hearing/signal";
import type { Tuning } from "../../strand/tuning";
import type { ReadElsewhere } from "../measurers";
import { ScriptThread } from "./scriptThread";

/** Reads what programs give over whole signals, in a thread apart, one after the other. */
export class ProgramReader {
  private thread: ScriptThread | undefined;
  private queue: Promise<unknown> = Promise.resolve();
  private reading = 0;

  /**
   * The numbers of a program over a signal, before shaping.
   *
   * @throws ScriptError  (as a rejection) when the program fails or does not come back
   */
  read({ samples, frames, strands }: Signal, tuning: Tuning): ReadElsewhere {
    let cancel: (() => void) | undefined;
    let isCancelled = false;
    this.reading++;
    const turn = this.queue.then(async () => {
      if (isCancelled) throw new Error("It is not needed any more.");
      if (!this.thread?.isAlive) this.thread = new ScriptThread();
      const signal = {
        samples: packSamples(samples),
        frames,
        strands: strands?.map(({ width, values, loopS }) => ({ width, values, loopS })),
      };
      const asked = this.thread.ask<"read">({ kind: "read", signal, tuning });
      ({ cancel } = asked);
      return asked.answer;
    });
    this.queue = turn
      .catch(() => undefined)
      .then(() => {
        // A thread that nobody needs takes memory.
        if (--this.reading > 0) return;
        this.thread?.dispose();
        this.thread = undefined;
      });
    return {
      numbers: turn,
      cancel: () => {
        isCancelled = true;
        cancel?.();
      },
    };
  }
}
