import { HOP_SAMPLES } from "../../constants";
import { HIT_LAG, HIT_MODEL_CHARS, HIT_SPECTRA } from "../../dsp/maths/measureWindows";
import { text } from "../../setting/descriptor";
import { measure } from "./declaration";
import { hitReader, rangeOfLearnt } from "./readers/hitReader";

/** Hits that were learnt from marks. */
export const HITS = {
  hits: measure({
    label: "Caught hits",
    help: "Hits that a catch has learnt to tell from others by their levels in twelve bands: 0.5 to 1 where one begins, as sure as it is, else 0. Live it comes 100 ms later.",
    group: "character",
    unit: "share",
    reads: ["samples"],
    settings: {
      learnt: text("Learnt", "", "What a catch has learnt of the hits, as text.", HIT_MODEL_CHARS),
    },
    ahead: () => HIT_SPECTRA.fftSize / 2 + HIT_LAG * HOP_SAMPLES,
    hitsIn: ({ learnt }) => rangeOfLearnt(learnt),
    start: ({ learnt }) => hitReader(learnt),
  }),
};
