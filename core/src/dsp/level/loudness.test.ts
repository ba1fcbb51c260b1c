import { describe, expect, it } from "@jest/globals";
import { SHORT_TERM_S } from "../maths/measureWindows";
import { makeNoise } from "../tone/tone";
import { integratedLoudness, loudnessPerFrame } from "./loudness";

const RATE = 48_000;

/** A 1 kHz tone through stretches of given peak level and length, as the EBU's test signals are described. */
function stretches(...parts: [dbfs: number, seconds: number][]): Float32Array {
  const total = parts.reduce((sum, [, seconds]) => sum + Math.round(seconds * RATE), 0);
  const out = new Float32Array(total);
  let at = 0;
  for (const [dbfs, seconds] of parts) {
    const level = 10 ** (dbfs / 20);
    for (let i = 0; i < Math.round(seconds * RATE); i++, at++)
      out[at] = level * Math.sin((2 * Math.PI * 1000 * at) / RATE);
  }
  return out;
}
const stereo = (...parts: [number, number][]) => {
  const channel = stretches(...parts);
  return [channel, channel];
};

describe("integrated loudness", () => {
  // EBU Tech 3341, minimum requirements test signals 1 to 5; all but the second read −23.
  it.each<[string, Float32Array[], number]>([
    ["1: −23 dBFS", stereo([-23, 20]), -23],
    ["2: −33 dBFS", stereo([-33, 20]), -33],
    ["3: quiet ends are gated out", stereo([-36, 10], [-23, 60], [-36, 10]), -23],
    ["4: and so is near silence", stereo([-72, 10], [-36, 10], [-23, 60], [-36, 10], [-72, 10]), -23],
    ["5: a louder middle", stereo([-26, 20], [-20, 20.1], [-26, 20]), -23],
  ])("reads EBU signal %s", (_name, channels, lufs) => {
    expect(Math.abs(integratedLoudness(channels) - lufs)).toBeLessThan(0.1);
  });

  it("weights surround channels and leaves the low-frequency channel out (EBU signal 6)", () => {
    const [front, centre, surround] = [-28, -24, -30].map((dbfs) => stretches([dbfs, 20]));
    const loud = stretches([0, 20]);
    expect(Math.abs(integratedLoudness([front, front, centre, loud, surround, surround]) + 23)).toBeLessThan(
      0.1,
    );
    expect(Math.abs(integratedLoudness([front, front, centre, surround, surround]) + 23)).toBeLessThan(0.1);
  });

  it("reads a full-scale 997 Hz sine in one channel as −3.01", () => {
    const sine = Float32Array.from({ length: 10 * RATE }, (_, i) => Math.sin((2 * Math.PI * 997 * i) / RATE));
    expect(integratedLoudness([sine])).toBeCloseTo(-3.01, 1);
  });

  it("has nothing to say of silence or of less than 400 ms", () => {
    expect(integratedLoudness([new Float32Array(RATE)])).toBe(Number.NEGATIVE_INFINITY);
    expect(integratedLoudness([stretches([-10, 0.3])])).toBe(Number.NEGATIVE_INFINITY);
    expect(integratedLoudness([new Float32Array(0)])).toBe(Number.NEGATIVE_INFINITY);
  });
});

/**
 * K-weighting as a magnitude response, from the parameters of its two analogue filters and not from the
 * standard's table of digital coefficients (De Man 2014).
 */
function kWeightingPower(hz: number): number {
  const response = (b: number[], a: number[]) => {
    const part = (c: number[]) => {
      const w = (2 * Math.PI * hz) / RATE;
      const re = c[0] + c[1] * Math.cos(w) + c[2] * Math.cos(2 * w);
      const im = -c[1] * Math.sin(w) - c[2] * Math.sin(2 * w);
      return re * re + im * im;
    };
    return part(b) / part(a);
  };
  const shelfGain = 10 ** (3.999843853973347 / 20);
  const bandGain = shelfGain ** 0.4996667741545416;
  const k1 = Math.tan((Math.PI * 1681.974450955533) / RATE);
  const q1 = 0.7071752369554196;
  const head = response(
    [
      shelfGain + (bandGain * k1) / q1 + k1 * k1,
      2 * (k1 * k1 - shelfGain),
      shelfGain - (bandGain * k1) / q1 + k1 * k1,
    ],
    [1 + k1 / q1 + k1 * k1, 2 * (k1 * k1 - 1), 1 - k1 / q1 + k1 * k1],
  );
  const k2 = Math.tan((Math.PI * 38.13547087602444) / RATE);
  const q2 = 0.5003270373238773;
  // The standard leaves the numerator of the second stage at 1, −2, 1.
  const scale = 1 + k2 / q2 + k2 * k2;
  const lowEnd = response([1, -2, 1], [1, (2 * (k2 * k2 - 1)) / scale, (1 - k2 / q2 + k2 * k2) / scale]);
  return head * lowEnd;
}

describe("momentary and short-term loudness", () => {
  it.each([40, 100, 1000, 4000, 12_000])("weights a %d Hz tone as the analogue filters do", (hz) => {
    const tone = Float32Array.from(
      { length: 5 * RATE },
      (_, i) => 0.1 * Math.sin((2 * Math.PI * hz * i) / RATE),
    );
    const expected = -0.691 + 10 * Math.log10(0.005 * kWeightingPower(hz));
    expect(Math.abs(loudnessPerFrame([tone], 0.4)[250] - expected)).toBeLessThan(0.05);
    expect(Math.abs(loudnessPerFrame([tone], SHORT_TERM_S)[250] - expected)).toBeLessThan(0.05);
  });

  it("adds the powers of channels", () => {
    const noise = makeNoise("pink", 2 * RATE, 5);
    const one = loudnessPerFrame([noise])[100];
    expect(loudnessPerFrame([noise, noise])[100] - one).toBeCloseTo(10 * Math.log10(2), 4);
    expect(loudnessPerFrame([noise.map((x) => x / 10)])[100] - one).toBeCloseTo(-20, 3);
  });

  it("centres its window on each frame", () => {
    const burst = new Float32Array(4 * RATE);
    burst.set(stretches([-10, 1]), 1.5 * RATE);
    const momentary = loudnessPerFrame([burst], 0.4);
    const loudest = momentary[200];
    expect(momentary[150]).toBeCloseTo(loudest - 10 * Math.log10(2), 1);
    expect(momentary[129]).toBe(Number.NEGATIVE_INFINITY);
    expect(momentary).toHaveLength(400);
    expect(loudnessPerFrame([burst], SHORT_TERM_S)[200]).toBeCloseTo(loudest - 10 * Math.log10(3), 1);
  });
});
