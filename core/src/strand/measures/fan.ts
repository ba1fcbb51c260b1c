import {
  FAN_COMBINES,
  FAN_LAYOUTS,
  type FanCombine,
  type FanLayout,
  fanBands,
  fanReader,
  MAX_BANDS,
  OCTAVE_FRACTIONS,
} from "../../dsp/fanBands";
import { choice, number, numberChoice } from "../../setting/descriptor";
import { halfWindow, measure, range, SPECTRUM } from "./declaration";

const LAYOUTS: Record<FanLayout, string> = {
  equal: "equal widths",
  octave: "octave fractions",
  doubling: "doubling widths",
  constantQ: "constant Q",
  mel: "mel",
};
const COMBINES: Record<FanCombine, string> = {
  sum: "band’s level",
  mean: "mean of bins",
  max: "strongest bin",
};
const inOrder = <K extends string>(keys: readonly K[], words: Record<K, string>) =>
  Object.fromEntries(keys.map((key) => [key, words[key]])) as Record<K, string>;
const BY_OCTAVE: FanLayout[] = ["octave", "constantQ"];

/** Whether a layout has as many bands as its range holds, rather than as many as are asked for. */
export const isByOctave = (layout: FanLayout): boolean => BY_OCTAVE.includes(layout);

/** A row of levels. */
export const FANS = {
  fan: measure({
    label: "Fan",
    help: "A row of levels, one a band.",
    group: "levels",
    unit: "level",
    reads: ["samples"],
    settings: {
      layout: choice("Layout", inOrder(FAN_LAYOUTS, LAYOUTS), "octave", "How the bands are laid out."),
      bands: {
        ...number("Bands", "bands", [1, MAX_BANDS, 1], 32, "Number of bands.", { chars: 4 }),
        whole: true,
        when: { setting: "layout", is: ["equal", "doubling", "mel"] },
      },
      perOctave: {
        ...numberChoice("Bands per octave", OCTAVE_FRACTIONS, 3, "Bands in an octave.", (n) =>
          n === 1 ? "octaves" : `1/${n} octaves`,
        ),
        when: { setting: "layout", is: BY_OCTAVE },
      },
      ...range(40, 16_000),
      combine: choice(
        "Band value",
        inOrder(FAN_COMBINES, COMBINES),
        "sum",
        "How a band’s bins give its number.",
      ),
      tiltDb: number("Tilt", "dB/octave", [-24, 24, 0.5], 0, "Added per octave, 0 at 1 kHz.", { chars: 4 }),
      ...SPECTRUM,
    },
    ahead: halfWindow,
    start(measure) {
      const { fftSize, window, combine, tiltDb } = measure;
      const bands = fanBands(measure);
      const take = fanReader(bands, fftSize, combine, tiltDb);
      return {
        width: bands.length,
        read(cursor, out, at) {
          cursor.loadSpectrum(fftSize, window);
          take(cursor.powers, cursor.offset, out, at);
        },
      };
    },
  }),
};
