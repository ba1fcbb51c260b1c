import { describe, expect, it } from "@jest/globals";
import { writeHitModel } from "../dsp/hits/hitModel";
import { mixToMono } from "../dsp/level/mix";
import { resample } from "../dsp/maths/resample";
import { MeanSamples, PcmSamples } from "../dsp/maths/samples";
import { finish } from "../dsp/maths/slices";
import type { Signal } from "../strand/hearing/signal";
import { DirectSpectra } from "../strand/hearing/spectra";
import { learnHits, readBeginnings } from "../strand/hits/hitLearning";
import { declarationOf, MEASURE_KINDS, MEASURES, measureSound } from "../strand/measures/table";

/** 30 s of two channels with beats and a moving tone at 44.1 kHz: long enough for two blocks. */
function song(): Int16Array {
  const rateHz = 44_100;
  const pcm = new Int16Array(2 * 30 * rateHz);
  for (let i = 0; i < pcm.length / 2; i++) {
    const timeS = i / rateHz;
    const beat = Math.sin(2 * Math.PI * 70 * timeS) * Math.exp(-((timeS * 2) % 1) * 6);
    const tone = Math.sin(2 * Math.PI * (300 + 20 * timeS) * timeS);
    pcm[2 * i] = 14_000 * beat + 6000 * tone;
    pcm[2 * i + 1] = 9000 * beat - 8000 * tone;
  }
  return pcm;
}

describe("measures of long sounds", () => {
  const pcm = song();
  const long = [0, 1].map((channel) => new PcmSamples(pcm, 2, channel, 44_100));
  const wholes = [0, 1].map((channel) =>
    resample(
      Float32Array.from({ length: pcm.length / 2 }, (_, i) => pcm[2 * i + channel] / 32_768),
      44_100,
    ),
  );
  const whole: Signal = { samples: mixToMono(wholes).samples, channels: wholes };
  const kept: Signal = { samples: new MeanSamples(long), channels: long };
  const ofSamples = MEASURE_KINDS.filter((name) => {
    const { reads } = declarationOf(name);
    return (reads as readonly string[]).every((part) => part === "samples");
  });

  /** The first beats, told from what begins later. */
  const learnt = () => {
    const all = finish(readBeginnings(whole.samples));
    return writeHitModel(learnHits(all, all.slice(0, 4), all.slice(-8)));
  };

  it("are many", () => {
    expect(ofSamples.length).toBeGreaterThan(10);
  });

  it.each(ofSamples)("%s: the numbers are those of the sound as a whole", (name) => {
    const measure = name === "hits" ? { kind: name, learnt: learnt() } : MEASURES[name].defaults;
    const expected = measureSound(whole, measure, new DirectSpectra());
    expect(expected.some((value) => value !== 0)).toBe(true);
    expect(measureSound(kept, measure, new DirectSpectra())).toEqual(expected);
  });
});
