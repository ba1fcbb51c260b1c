/** Phases of the interpolating filter of BS.1770-5, annex 2: four times as many samples, twelve taps each. */
const PHASES = [
  [
    0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625,
    0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
  ],
  [
    -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625,
    0.77978515625, -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
  ],
  [
    -0.0189208984375, 0.0330810546875, -0.0582275390625, 0.1015625, -0.2003173828125, 0.77978515625,
    0.465087890625, -0.16650390625, 0.089111328125, -0.0517578125, 0.029296875, -0.0291748046875,
  ],
  [
    -0.00830078125, 0.014892578125, -0.026611328125, 0.047607421875, -0.102294921875, 0.97216796875,
    0.1373291015625, -0.0594482421875, 0.033203125, -0.0196533203125, 0.010986328125, 0.001708984375,
  ],
];
const TAPS = PHASES[0].length;

/**
 * The highest level that a sound reaches between its samples too, by ITU-R BS.1770-5, annex 2: the largest magnitude after
 * interpolation to four times the rate.
 *
 * @param samples  one channel at 48 kHz, full scale = 1; samples that are no numbers count as 0
 * @returns linear; `20 · log10` of it is dBTP. 0 for silence
 * @example truePeak(tone) // 1.41 for a square wave at 0 dBFS that rings between its samples
 */
export function truePeak(samples: ArrayLike<number>): number {
  let most = 0;
  const last = samples.length + TAPS - 1;
  for (let end = 0; end < last; end++) {
    for (const phase of PHASES) {
      let sum = 0;
      for (let tap = 0; tap < TAPS; tap++) {
        const at = end - tap;
        const sample = at >= 0 && at < samples.length ? samples[at] : 0;
        if (Number.isFinite(sample)) sum += phase[tap] * sample;
      }
      const magnitude = Math.abs(sum);
      if (magnitude > most) most = magnitude;
    }
  }
  return most;
}
