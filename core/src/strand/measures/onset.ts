import { OnsetFlux } from "../../dsp/rhythm/onset";
import type { WindowName } from "../../dsp/spectrum/window";
import { halfWindow, type MeasureReader, measure, range, SPECTRUM, single } from "./declaration";

/** Frequencies in which anything can begin. */
export const WHOLE_RANGE = { lowHz: 27, highHz: 17_000 };

export function onsetReader(
  { fftSize, window }: { fftSize: number; window: WindowName },
  { lowHz, highHz }: { lowHz: number; highHz: number },
): MeasureReader {
  const flux = new OnsetFlux(fftSize, window, lowHz, highHz);
  return single((cursor) => {
    cursor.loadSpectrum(fftSize, window);
    return flux.push(cursor.powers, cursor.offset);
  });
}

export const ONSETS = {
  onset: measure({
    label: "Onset strength",
    help: "How much begins at this instant within the range, whatever is sounding already: 0 for a steady tone, up to 1.",
    group: "character",
    unit: "strength",
    reads: ["samples"],
    settings: { ...range(WHOLE_RANGE.lowHz, WHOLE_RANGE.highHz), ...SPECTRUM },
    ahead: halfWindow,
    start: (measure) => onsetReader(measure, measure),
  }),
};
