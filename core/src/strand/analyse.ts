import { type Measure, measureSound } from "./measures";
import { type Shaping, shape } from "./shaping";
import type { SpectrumSource } from "./spectrumSource";
import type { Track } from "./track";

/** A strand over a whole sound, before and after shaping. */
export interface StrandTraces {
  /** Linear levels, full-scale sine = 1. */
  raw: Float32Array;
  shaped: Track;
}

/**
 * Computes a strand over a whole sound: measure, then shaping.
 *
 * @param samples  the sound's mono mix at 48 kHz, finite
 * @throws RangeError for a measure the sound cannot be read with
 */
export function analyseStrand(
  samples: Float32Array,
  strand: { measure: Measure; shaping: Shaping },
  spectra: SpectrumSource,
): StrandTraces {
  const raw = measureSound(samples, strand.measure, spectra);
  return { raw, shaped: { width: 1, values: shape(raw, strand.shaping) } };
}
