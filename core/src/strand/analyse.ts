import { type Measure, measureSound } from "./measures";
import { type Shaping, shape } from "./shaping";
import type { Signal } from "./signal";
import type { SpectrumSource } from "./spectrumSource";
import type { Track } from "./track";

/** A strand over a whole sound, before and after shaping. */
export interface StrandTraces {
  /** Linear levels, full-scale sine = 1, or shares. */
  raw: Float32Array;
  shaped: Track;
}

/**
 * Computes a strand over a whole sound: measure, then shaping.
 *
 * @param signal  the sound's mono mix at 48 kHz, finite, with its beats and notes if it has them
 * @throws RangeError for a measure the sound cannot be read with
 */
export function analyseStrand(
  signal: Signal,
  strand: { measure: Measure; shaping: Shaping },
  spectra: SpectrumSource,
): StrandTraces {
  const raw = measureSound(signal, strand.measure, spectra);
  return { raw, shaped: { width: 1, values: shape(raw, strand.shaping) } };
}
