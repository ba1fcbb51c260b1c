import { type Static, Type } from "@sinclair/typebox";
import { DEFAULT_FFT_SIZE, FFT_SIZES, frameCount, SAMPLE_RATE_HZ } from "../constants";
import { bandLevel, bandShares } from "../dsp/bands";
import { safeLevel } from "../dsp/decibel";
import { peakPerFrame } from "../dsp/peak";
import { DEFAULT_WINDOW, WINDOW_NAMES } from "../dsp/window";
import { oneOf, tagged } from "../schemaParts";
import type { SpectrumSource } from "./spectrumSource";

const NYQUIST_HZ = SAMPLE_RATE_HZ / 2;

export const BandMeasure = Type.Object(
  {
    kind: Type.Literal("band"),
    lowHz: Type.Number({ minimum: 0, maximum: NYQUIST_HZ }),
    highHz: Type.Number({ minimum: 0, maximum: NYQUIST_HZ }),
    fftSize: oneOf(FFT_SIZES),
    window: oneOf(WINDOW_NAMES),
  },
  { additionalProperties: false },
);

export const PeakMeasure = Type.Object({ kind: Type.Literal("peak") }, { additionalProperties: false });

export const MeasureSchema = tagged([BandMeasure, PeakMeasure]);
export type Measure = Static<typeof MeasureSchema>;
export type MeasureKind = Measure["kind"];

interface MeasureDeclaration<K extends MeasureKind> {
  label: string;
  help: string;
  unit: "level";
  /** Whether it reads a range of frequencies, drawn on the spine. */
  hasRange: boolean;
  defaults: Extract<Measure, { kind: K }>;
  /** Writes one level a frame for the whole sound. */
  run(
    samples: Float32Array,
    measure: Extract<Measure, { kind: K }>,
    spectra: SpectrumSource,
    out: Float32Array,
  ): void;
}

/** Everything a strand can read, declared once for the schema, the interface, the command line and the docs. */
export const MEASURES: { [K in MeasureKind]: MeasureDeclaration<K> } = {
  band: {
    label: "Band",
    help: "The level of a range of frequencies: a full-scale sine inside it reads 0 dBFS.",
    unit: "level",
    hasRange: true,
    defaults: { kind: "band", lowHz: 80, highHz: 160, fftSize: DEFAULT_FFT_SIZE, window: DEFAULT_WINDOW },
    run(samples, measure, spectra, out) {
      const { lowHz, highHz, fftSize, window } = measure;
      const band = bandShares(lowHz, highHz, fftSize);
      const { firstBin, shares } = band;
      const request = { fftSize, window, firstBin, lastBin: firstBin + shares.length - 1 };
      spectra.eachFrame(samples, request, (frame, powers, offset) => {
        out[frame] = bandLevel(powers, offset, band);
      });
    },
  },
  peak: {
    label: "Peak",
    help: "The largest sample of each 10 ms of the sound, full scale = 1.",
    unit: "level",
    hasRange: false,
    defaults: { kind: "peak" },
    run(samples, _measure, _spectra, out) {
      peakPerFrame(samples, out);
    },
  },
};

export const MEASURE_KINDS = Object.keys(MEASURES) as MeasureKind[];

/**
 * Reads a measure over a whole sound.
 *
 * @param samples  mono at 48 kHz, finite
 * @param spectra  where spectra come from; share one to reuse them between strands
 * @returns levels, one a frame (`frameCount(samples.length)`), linear, full-scale sine = 1
 * @throws RangeError for a band that is upside down or off the spectrum
 */
export function measureSound(samples: Float32Array, measure: Measure, spectra: SpectrumSource): Float32Array {
  const out = new Float32Array(frameCount(samples.length));
  const declaration = MEASURES[measure.kind] as MeasureDeclaration<MeasureKind>;
  declaration.run(samples, measure, spectra, out);
  for (let i = 0; i < out.length; i++) out[i] = safeLevel(out[i]);
  return out;
}
