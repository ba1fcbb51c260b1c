import type { Signal } from "../strand/hearing/signal";
import type { Measure } from "../strand/measures/table";

/** A measure that is being read elsewhere. */
export interface ReadElsewhere {
  /** All its numbers; rejected where it cannot be read. */
  numbers: Promise<Float32Array>;
  cancel(): void;
}

/** Other threads that read measures beside this one. */
export interface Measurers {
  /**
   * Reads a measure over a whole signal, which offers samples and nothing else.
   *
   * @returns `undefined` while all of them are busy
   */
  read(signal: Signal, measure: Measure): ReadElsewhere | undefined;
}

/** True for a signal whose every part can be sent to another thread. */
export const isSamplesAlone = (signal: Signal): boolean =>
  Object.entries(signal).every(
    ([part, value]) => value === undefined || ["samples", "channels", "weights", "frames"].includes(part),
  );
