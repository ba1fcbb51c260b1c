import { SAMPLE_RATE_HZ } from "../../../constants";
import { hitStrength, rangeOfHits, readHitModel } from "../../../dsp/hits/hitModel";
import { HitScanner } from "../../../dsp/hits/hitScanner";
import { type MeasureReader, single } from "../declaration";

/**
 * Reads how sure it is that a hit of some kind begins at the frame: 0 where none does, else 0.5 to 1.
 *
 * @param learnt  a written model
 * @throws RangeError when it is damaged
 */
export function hitReader(learnt: string): MeasureReader {
  if (learnt === "") return single(() => 0);
  const model = readHitModel(learnt);
  const scanner = new HitScanner();
  return single(({ samples, centre, frame }) => {
    const features = scanner.at(samples, centre, frame);
    return features ? hitStrength(model, features) : 0;
  });
}

/** The range in which learnt hits rise most; all frequencies before any are learnt. */
export const rangeOfLearnt = (learnt: string) =>
  learnt === "" ? { lowHz: 0, highHz: SAMPLE_RATE_HZ / 2 } : rangeOfHits(readHitModel(learnt));
