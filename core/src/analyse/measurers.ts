import type { Sliced } from "../dsp/slices";
import { WholeCursor } from "../strand/cursor";
import { type Measure, startMeasure } from "../strand/measures/table";
import { framesOf, type Signal } from "../strand/signal";
import { DirectSpectra } from "../strand/spectra";

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

const FRAMES_A_SLICE = 64;

/** Reads a measure over a whole signal in slices, into `raw`: as many frames as it has, of the measure's width. */
export function* measureSliced(signal: Signal, measure: Measure, raw: Float32Array): Sliced<void> {
  const reader = startMeasure(measure, signal);
  try {
    if (reader.prepare) yield* reader.prepare();
    const cursor = new WholeCursor(signal, new DirectSpectra());
    const frames = framesOf(signal);
    for (let frame = 0; frame < frames; frame++) {
      if (frame % FRAMES_A_SLICE === 0) yield;
      cursor.moveTo(frame);
      reader.read(cursor, raw, frame * reader.width);
    }
  } finally {
    reader.dispose?.();
  }
}
