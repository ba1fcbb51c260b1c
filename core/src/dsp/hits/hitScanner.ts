import { HOP_SAMPLES } from "../../constants";
import { HIT_LAG, HIT_SPECTRA } from "../maths/measureWindows";
import { PowerSpectrum } from "../spectrum/spectrum";
import { HitFeatures } from "./hitFeatures";

/** Looks for hits at one instant after another; it looks {@link HIT_LAG} frames ahead of each. */
export class HitScanner {
  private readonly finder = new HitFeatures();
  private readonly spectrum = new PowerSpectrum(HIT_SPECTRA.fftSize, HIT_SPECTRA.window);
  private readonly powers = new Float32Array(this.spectrum.binCount);
  private next = 0;

  /**
   * @param samples  around the instant; those before 0 and after the end count as 0
   * @param centre  index of the instant
   * @param frame  its number; frames follow one another, from 0 on
   * @returns features of a hit that begins there, the same array each time; `undefined` where none does
   */
  at(samples: Float32Array, centre: number, frame: number): Float64Array | undefined {
    const { finder, spectrum, powers } = this;
    let isHit = false;
    for (; this.next <= frame + HIT_LAG; this.next++) {
      spectrum.at(samples, centre + (this.next - frame) * HOP_SAMPLES, powers);
      isHit = finder.push(powers, 0);
    }
    return isHit ? finder.features : undefined;
  }
}
