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
 * @param samples  as long as they are; is filled
 * @throws RangeError without channels or when their lengths differ
 */
export function mixToMono(
  channels: readonly Float32Array[],
  samples: Float32Array = new Float32Array(channels[0]?.length ?? 0),
): MonoMix {
  if (channels.length === 0) throw new RangeError("a mix needs at least one channel");
  const length = channels[0].length;
  if (channels.some((channel) => channel.length !== length)) {
    throw new RangeError("all channels of a sound must be equally long");
  }
  const share = 1 / channels.length;
  const [left, right] = channels;
  let badSampleCount = 0;
  for (let i = 0; i < length; i++) {
    let sum = left[i];
    if (channels.length === 2) sum += right[i];
    else for (let c = 1; c < channels.length; c++) sum += channels[c][i];
    if (!Number.isFinite(sum)) {
      sum = 0;
      for (const channel of channels) {
        if (Number.isFinite(channel[i])) sum += channel[i];
        else badSampleCount++;
      }
    }
    samples[i] = sum * share;
  }
  return { samples, badSampleCount };
}
