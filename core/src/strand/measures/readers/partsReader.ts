import { PartsMeter } from "../../../dsp/hits/percussive";
import type { WindowName } from "../../../dsp/spectrum/window";
import { type MeasureReader, single } from "../declaration";

/** Reads the level of what strikes in a range, or of what lasts. */
export function partsReader(
  { lowHz, highHz, fftSize, window }: { lowHz: number; highHz: number; fftSize: number; window: WindowName },
  part: "percussive" | "harmonic",
): MeasureReader {
  const meter = new PartsMeter(lowHz, highHz, fftSize, window);
  return single(({ samples, centre, frame }) => {
    meter.read(samples, centre, frame);
    return meter[part];
  });
}
