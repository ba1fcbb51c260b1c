import { FRAME_RATE_HZ } from "../../constants";
import { MAX_BANDS } from "../../dsp/spectrum/fanBands";
import { number, whole } from "../../setting/descriptor";
import type { Signal } from "../hearing/signal";
import { type Track, trackValueAt } from "../track";
import { type MeasureReader, measure, single } from "./declaration";

/** Numbers of several strands at the same instant; of unequal rows the shorter ones are stretched. */
function combined({ strands = [] }: Signal, join: (sum: number, value: number) => number): MeasureReader {
  const width = Math.max(1, ...strands.map((track) => track.width));
  return {
    width,
    read({ frame }, out, at) {
      for (let band = 0; band < width; band++) {
        let value = 0;
        strands.forEach((track, i) => {
          const one = strandValue(track, frame, Math.floor((band * track.width) / width));
          value = i === 0 ? one : join(value, one);
        });
        out[at + band] = value;
      }
    },
  };
}

function strandValue(track: Track, frame: number, band: number): number {
  return trackValueAt(track, frame / FRAME_RATE_HZ, band);
}

const basics = { group: "strands", unit: "share", reads: ["strands"], ahead: () => 0 } as const;

/** Numbers made of other strands. */
export const COMBINED = {
  product: measure({
    ...basics,
    label: "Product",
    help: "The strands multiplied: high only while all of them are.",
    settings: {},
    start: (_measure, signal) => combined(signal, (all, one) => all * one),
  }),
  sum: measure({
    ...basics,
    label: "Sum",
    help: "The strands added up.",
    settings: {},
    start: (_measure, signal) => combined(signal, (all, one) => all + one),
  }),
  maximum: measure({
    ...basics,
    label: "Maximum",
    help: "Whichever of the strands is highest.",
    settings: {},
    start: (_measure, signal) => combined(signal, Math.max),
  }),
  difference: measure({
    ...basics,
    label: "Difference",
    help: "The first strand less all the others, not below 0.",
    settings: {},
    start: (_measure, signal) => combined(signal, (all, one) => all - one),
  }),
  ducked: measure({
    ...basics,
    label: "Ducked",
    help: "The first strand, held down while any of the others is high: a pad under the kick.",
    settings: {
      depth: number("Depth", "", [0, 1, 0.01], 1, "How far it is held down by a 1: 1 leaves nothing.", {
        chars: 4,
      }),
    },
    start: ({ depth }, signal) =>
      combined(signal, (all, one) => all * (1 - depth * Math.min(1, Math.max(0, one)))),
  }),
  bands: measure({
    ...basics,
    label: "Some bands",
    help: "The mean of some of a fan's bands; one of them alone when first and last are the same.",
    settings: {
      first: whole("First band", [1, MAX_BANDS], 1, "First band, counted from 1.", {
        chars: 4,
        before: "bands",
      }),
      last: whole("Last band", [1, MAX_BANDS], 1, "Last band, counted from 1.", { chars: 4, before: "to" }),
    },
    start({ first, last }, { strands = [] }) {
      const [fan] = strands;
      return single(({ frame }) => {
        if (!fan) return 0;
        const from = Math.min(fan.width, Math.min(first, last)) - 1;
        const to = Math.min(fan.width, Math.max(first, last)) - 1;
        let sum = 0;
        for (let band = from; band <= to; band++) sum += strandValue(fan, frame, band);
        return sum / (to - from + 1);
      });
    },
  }),
};
