import { readBands } from "@bumbrel/core/dsp/spectrum/fanBands";
import type { FrequencyAxis } from "@bumbrel/core/dsp/spectrum/spectrogram";
import type { MeasureOf } from "@bumbrel/core/strand/measures/table";
import { hzToTop } from "../../../ui/live/axis";
import { strandColour } from "../../../ui/strandLook";

/** More edges than this would be a grey wall. */
const MOST_LINES = 96;

/** The edges of a fan's bands across the spectrogram. */
export function FanLines({
  axis,
  measure,
  hue,
}: {
  axis: FrequencyAxis;
  measure: MeasureOf<"fan">;
  hue: number;
}) {
  if (measure.lowHz >= measure.highHz) return null;
  const bands = readBands(measure);
  const every = Math.ceil(bands.length / MOST_LINES);
  return bands
    .filter((_, i) => i % every === 0)
    .map(({ lowHz }) => (
      <span
        key={lowHz}
        className="pointer-events-none absolute inset-x-0 border-t opacity-35"
        style={{ top: `${hzToTop(axis, lowHz) * 100}%`, borderColor: strandColour(hue) }}
      />
    ));
}
