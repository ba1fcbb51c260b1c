import { frameCount, HOP_SAMPLES } from "../constants";

/** Largest magnitude in any channel, full scale = 1; 0 for silence. */
export function peakOf(channels: readonly Float32Array[]): number {
  let peak = 0;
  for (const channel of channels) {
    for (let i = 0; i < channel.length; i++) peak = Math.max(peak, Math.abs(channel[i]));
  }
  return peak;
}

/**
 * Largest magnitude in the hop centred on each frame: samples `480·k − 240` up to, not including,
 * `480·k + 240`. Neighbouring hops meet without overlap, so no sample counts twice and none is missed before
 * the last half hop.
 *
 * @param samples  mono at 48 kHz, finite
 * @param out  `frameCount(samples.length)` levels, full scale = 1
 */
export function peakPerFrame(samples: Float32Array, out: Float32Array): void {
  const frames = frameCount(samples.length);
  for (let frame = 0; frame < frames; frame++) {
    const from = Math.max(0, frame * HOP_SAMPLES - HOP_SAMPLES / 2);
    const to = Math.min(samples.length, frame * HOP_SAMPLES + HOP_SAMPLES / 2);
    let peak = 0;
    for (let i = from; i < to; i++) {
      const magnitude = Math.abs(samples[i]);
      if (magnitude > peak) peak = magnitude;
    }
    out[frame] = peak;
  }
}
