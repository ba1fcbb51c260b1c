import { FFT_SIZES, type FftSize, SAMPLE_RATE_HZ } from "../../constants";
import {
  COUNTED_LAYOUTS,
  FAN_COMBINES,
  FAN_LAYOUTS,
  type FanCombine,
  type FanLayout,
  type FanRange,
  fanBands,
  fanReader,
  levelFolder,
  MAX_BANDS,
  OCTAVE_FRACTIONS,
  type ReadBand,
  readBands,
} from "../../dsp/spectrum/fanBands";
import { choice, number, numberChoice } from "../../setting/descriptor";
import { measure, range, SPECTRUM } from "./declaration";

const LAYOUTS: Record<FanLayout, string> = {
  equal: "equal widths",
  octave: "octave fractions",
  doubling: "doubling widths",
  constantQ: "constant Q",
  mel: "mel",
  pitchClasses: "pitch classes",
};
const COMBINES: Record<FanCombine, string> = {
  sum: "band’s level",
  mean: "mean of bins",
  max: "strongest bin",
};
const inOrder = <K extends string>(keys: readonly K[], words: Record<K, string>) =>
  Object.fromEntries(keys.map((key) => [key, words[key]])) as Record<K, string>;
const BY_OCTAVE: FanLayout[] = ["octave", "constantQ"];

/** A band that is to be told from its neighbours is so many bins wide. */
const BINS_A_BAND = 3;

/** Rows of bands that are read from one FFT each, lowest first. */
function fftRuns(measure: FanRange & { fftSize: FftSize; narrowBands: "same" | "longer" }) {
  const bands = readBands(measure);
  // Semitones are narrow: pitch classes are always read from longer FFTs.
  if (measure.narrowBands === "same" && measure.layout !== "pitchClasses")
    return [{ fftSize: measure.fftSize, bands }];
  const runs: { fftSize: FftSize; bands: ReadBand[] }[] = [];
  for (const band of bands) {
    const least = (BINS_A_BAND * SAMPLE_RATE_HZ) / (band.highHz - band.lowHz);
    const fftSize =
      FFT_SIZES.find((size) => size >= Math.max(least, measure.fftSize)) ?? FFT_SIZES[FFT_SIZES.length - 1];
    const run = runs[runs.length - 1];
    if (run?.fftSize === fftSize) run.bands.push(band);
    else runs.push({ fftSize, bands: [band] });
  }
  return runs;
}

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
        when: { setting: "layout", is: [...COUNTED_LAYOUTS] },
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
      narrowBands: {
        ...choice(
          "Narrow bands",
          { same: "one FFT", longer: "longer FFTs" },
          "same",
          "Low bands are narrow: longer FFTs tell them apart, third octaves from 40 Hz on, but follow slowly, and come up to 170 ms late live.",
        ),
        when: { setting: "layout", is: FAN_LAYOUTS.filter((layout) => layout !== "pitchClasses") },
      },
      ...SPECTRUM,
    },
    ahead: (measure) => Math.max(measure.fftSize, ...fftRuns(measure).map(({ fftSize }) => fftSize)) / 2,
    start(measure) {
      const { window, combine, tiltDb, layout } = measure;
      const width = fanBands(measure).length;
      const read = readBands(measure);
      const runs = fftRuns(measure).map(({ fftSize, bands }) => ({
        fftSize,
        count: bands.length,
        take: fanReader(bands, fftSize, combine, tiltDb, measure.fftSize),
      }));
      const levels = new Float32Array(read.length);
      const fold = layout === "pitchClasses" ? levelFolder(read, combine, width) : undefined;
      return {
        width,
        read(cursor, out, at) {
          const to = fold ? levels : out;
          let next = fold ? 0 : at;
          for (const { fftSize, count, take } of runs) {
            cursor.loadSpectrum(fftSize, window);
            take(cursor.powers, cursor.offset, to, next);
            next += count;
          }
          fold?.(levels, out, at);
        },
      };
    },
  }),
};
