import { SAMPLE_RATE_HZ } from "../../constants";
import { MEMORY_COLUMNS, SPECTRUM_FFT_SIZE, SPECTRUM_HIGH_HZ, SPECTRUM_LOW_HZ } from "./memory";

/** A full-scale sine reads 1: what a Hann window takes from its peak is given back. */
const PEAK_SCALE = 2 * 1.5;
const BIN_HZ = SAMPLE_RATE_HZ / SPECTRUM_FFT_SIZE;

const binOf = (band: number) =>
  (SPECTRUM_LOW_HZ * (SPECTRUM_HIGH_HZ / SPECTRUM_LOW_HZ) ** (band / (MEMORY_COLUMNS - 1))) / BIN_HZ;
/** Each band in bins: its lower end, its middle, its upper end. */
const BANDS = Float64Array.from({ length: 3 * MEMORY_COLUMNS }, (_, i) =>
  binOf(Math.floor(i / 3) + ((i % 3) - 1) / 2),
);

/**
 * Levels of bands that lie evenly in octaves: of narrow ones between two bins, of wide ones of the strongest bin within.
 *
 * @param powers  of a spectrum of {@link SPECTRUM_FFT_SIZE} samples, from an offset on
 * @param out  `MEMORY_COLUMNS` levels; a full-scale sine reads 1
 */
export function bandLevels(powers: Float32Array, offset: number, out: Float32Array): void {
  const bins = SPECTRUM_FFT_SIZE / 2 + 1;
  for (let band = 0; band < MEMORY_COLUMNS; band++) {
    const low = BANDS[3 * band];
    const at = BANDS[3 * band + 1];
    const high = BANDS[3 * band + 2];
    let power = 0;
    if (high - low < 1) {
      const bin = Math.floor(at);
      const below = powers[offset + bin];
      const above = bin + 1 < bins ? powers[offset + bin + 1] : 0;
      power = below + (above - below) * (at - bin);
    }
    for (let bin = Math.ceil(low); bin <= high && bin < bins; bin++) {
      power = Math.max(power, powers[offset + bin]);
    }
    out[band] = Math.sqrt(PEAK_SCALE * power);
  }
}
