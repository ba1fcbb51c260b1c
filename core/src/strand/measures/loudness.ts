import { SAMPLE_RATE_HZ } from "../../constants";
import { MOMENTARY_S, SHORT_TERM_S } from "../../dsp/maths/measureWindows";
import { numberChoice } from "../../setting/descriptor";
import type { Signal } from "../hearing/signal";
import { type MeasureReader, measure, single } from "./declaration";
import { AWeightedMeter, LoudnessMeter } from "./later/laterWeighted";

function loudnessReader(windowS: number, { channels, weights }: Signal): MeasureReader {
  const meter = new LoudnessMeter(windowS, weights ?? channels?.map(() => 1) ?? [1]);
  return single((cursor) => meter.levelAt(cursor.channels ?? [cursor.samples], cursor.centre, cursor.frame));
}

/** Levels weighted as people hear: A-weighting of IEC 61672-1, and loudness by ITU-R BS.1770-5. */
export const LOUDNESS = {
  aWeighted: measure({
    label: "A-weighted level",
    help: "The level of everything, weighted as the ear hears quiet sounds: little low end, most around 2 to 4 kHz.",
    group: "levels",
    unit: "level",
    reads: ["samples"],
    settings: {
      averageMs: numberChoice(
        "Average over",
        [20, 40, 120, 400, 1000],
        40,
        "Milliseconds around each instant: more for low notes, fewer for quick hits.",
        (ms) => `over ${ms} ms`,
      ),
    },
    ahead: ({ averageMs }) => (averageMs / 2000) * SAMPLE_RATE_HZ,
    start({ averageMs }) {
      const meter = new AWeightedMeter(averageMs / 1000);
      return single(({ samples, centre, frame }) => meter.levelAt(samples, centre, frame));
    },
  }),
  momentary: measure({
    label: "Momentary loudness",
    help: "Loudness over 400 ms in LUFS, as broadcasters measure it.",
    group: "levels",
    unit: "loudness",
    reads: ["samples"],
    settings: {},
    ahead: () => (MOMENTARY_S / 2) * SAMPLE_RATE_HZ,
    start: (_measure, signal) => loudnessReader(MOMENTARY_S, signal),
  }),
  shortTerm: measure({
    label: "Short-term loudness",
    help: "Loudness over 3 seconds in LUFS: how loud a passage is rather than a hit.",
    group: "levels",
    unit: "loudness",
    reads: ["samples"],
    settings: {},
    ahead: () => (SHORT_TERM_S / 2) * SAMPLE_RATE_HZ,
    start: (_measure, signal) => loudnessReader(SHORT_TERM_S, signal),
  }),
};
