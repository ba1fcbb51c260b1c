/** Samples made safe for analysis, and how many had to be. */
export interface MonoMix {
  samples: Float32Array;
  /** Samples that were NaN or infinite in any channel; they count as 0. */
  badSampleCount: number;
}

/**
 * Mean of all channels, the signal every measure reads.
 *
 * @param channels  one or more arrays of equal length; read, not changed
 * @throws RangeError without channels or when their lengths differ
 */
export function mixToMono(channels: readonly Float32Array[]): MonoMix {
  if (channels.length === 0) throw new RangeError("a mix needs at least one channel");
  const length = channels[0].length;
  if (channels.some((channel) => channel.length !== length)) {
    throw new RangeError("all channels of a sound must be equally long");
  }
  const samples = new Float32Array(length);
  const share = 1 / channels.length;
  let badSampleCount = 0;
  for (let i = 0; i < length; i++) {
    let sum = 0;
    for (let c = 0; c < channels.length; c++) {
      const value = channels[c][i];
      if (Number.isFinite(value)) sum += value;
      else badSampleCount++;
    }
    samples[i] = sum * share;
  }
  return { samples, badSampleCount };
}
