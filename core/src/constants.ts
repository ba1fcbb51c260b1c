/** Every sound inside a project has this rate, so one analysis serves all of them. */
export const SAMPLE_RATE_HZ = 48_000;

/** Samples between two analysis frames: 10 ms, finer than the eye and coarse enough to store. */
export const HOP_SAMPLES = 480;

/** Analysis frames a second. */
export const FRAME_RATE_HZ = SAMPLE_RATE_HZ / HOP_SAMPLES;

/** Sizes a spectrum may have; 512 follows fast hits, 16 384 separates low notes. */
export const FFT_SIZES = [512, 1024, 2048, 4096, 8192, 16384] as const;
export type FftSize = (typeof FFT_SIZES)[number];
export const DEFAULT_FFT_SIZE: FftSize = 2048;

/**
 * Frames in a sound: frame k describes the instant k / 100 s, and the sound has every instant that
 * lies before its end.
 *
 * @param sampleCount  samples at `SAMPLE_RATE_HZ`
 */
export function frameCount(sampleCount: number): number {
  return Math.ceil(sampleCount / HOP_SAMPLES);
}

/** Sounds, notes and tables that are longer are refused: most likely their times are in another unit. */
export const MAX_SOUND_S = 6 * 3600;
