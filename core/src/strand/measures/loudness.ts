import { SAMPLE_RATE_HZ } from "../../constants";
import { LoudnessMeter, MOMENTARY_S, SHORT_TERM_S } from "../../dsp/loudness";
import type { Signal } from "../signal";
import { type MeasureReader, measure, single } from "./declaration";

function loudnessReader(windowS: number, { channels, weights }: Signal): MeasureReader {
  const meter = new LoudnessMeter(windowS, weights ?? channels?.map(() => 1) ?? [1]);
  return single((cursor) => meter.levelAt(cursor.channels ?? [cursor.samples], cursor.centre, cursor.frame));
}

/** Loudness by ITU-R BS.1770-5. */
export const LOUDNESS = {
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
