import { SAMPLE_RATE_HZ } from "../constants";
import { integratedLoudness } from "../dsp/loudness";
import { mixToMono } from "../dsp/mix";
import { bandPrint } from "../dsp/overview";
import { peakOf } from "../dsp/peak";
import { resample } from "../dsp/resample";
import { readWav, type WavSound } from "./wav";

/** What is known of a sound without playing it; stored beside its bytes. */
export interface SoundFacts {
  /** The rate of the file that was brought in, before it became 48 kHz. */
  originalRateHz: number;
  channels: number;
  durationS: number;
  /** Largest magnitude in any channel, full scale = 1. */
  peak: number;
  /** ITU-R BS.1770-5; `null` for silence and for less than 400 ms. */
  integratedLufs: number | null;
  /** See `bandPrint`. */
  bandPrint: number[];
}

/** A sound as projects hold it: every channel at 48 kHz. */
export interface ProjectSound {
  channels: Float32Array[];
  originalRateHz: number;
}

/**
 * Reads a WAV file into a project's form.
 *
 * @throws SoundFormatError as {@link readWav}
 */
export function readProjectSound(bytes: Uint8Array, where?: string): ProjectSound {
  return toProjectSound(readWav(bytes, where));
}

/** Brings every channel to 48 kHz. */
export function toProjectSound(wav: Pick<WavSound, "channels" | "sampleRateHz">): ProjectSound {
  return {
    channels: wav.channels.map((channel) => resample(channel, wav.sampleRateHz)),
    originalRateHz: wav.sampleRateHz,
  };
}

/** Measures the facts of a sound. */
export function describeSound({ channels, originalRateHz }: ProjectSound): SoundFacts {
  const lufs = integratedLoudness(channels);
  return {
    originalRateHz,
    channels: channels.length,
    durationS: channels[0].length / SAMPLE_RATE_HZ,
    peak: peakOf(channels),
    integratedLufs: Number.isFinite(lufs) ? lufs : null,
    bandPrint: bandPrint(mixToMono(channels).samples),
  };
}
