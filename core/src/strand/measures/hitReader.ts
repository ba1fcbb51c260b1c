import { HOP_SAMPLES, SAMPLE_RATE_HZ } from "../../constants";
import { HitFeatures } from "../../dsp/hitFeatures";
import { rangeOfHits, readHitModel, scoreHit } from "../../dsp/hitModel";
import { HIT_LAG, HIT_SPECTRA } from "../../dsp/measureWindows";
import { PowerSpectrum } from "../../dsp/spectrum";
import { type MeasureReader, single } from "./declaration";

/**
 * Reads how sure it is that a hit of some kind begins at the frame: 0 where none does, else 0.5 to 1.
 *
 * @param learnt  a written model
 * @throws RangeError when it is damaged
 */
export function hitReader(learnt: string): MeasureReader {
  if (learnt === "") return single(() => 0);
  const model = readHitModel(learnt);
  const finder = new HitFeatures();
  const spectrum = new PowerSpectrum(HIT_SPECTRA.fftSize, HIT_SPECTRA.window);
  const powers = new Float32Array(spectrum.binCount);
  let next = 0;
  return single(({ samples, centre, frame }) => {
    let isHit = false;
    for (; next <= frame + HIT_LAG; next++) {
      spectrum.at(samples, centre + (next - frame) * HOP_SAMPLES, powers);
      isHit = finder.push(powers, 0);
    }
    if (!isHit) return 0;
    const score = scoreHit(model, finder.features);
    return score > 0 ? 1 / (1 + Math.exp(-score)) : 0;
  });
}

/** The range in which learnt hits rise most; all frequencies before any are learnt. */
export const rangeOfLearnt = (learnt: string) =>
  learnt === "" ? { lowHz: 0, highHz: SAMPLE_RATE_HZ / 2 } : rangeOfHits(readHitModel(learnt));
