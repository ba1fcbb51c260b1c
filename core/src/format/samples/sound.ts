import { SAMPLE_RATE_HZ } from "../../constants";
import { gatedLoudness, WeightedEnergy } from "../../dsp/level/loudness";
import { mixToMono } from "../../dsp/level/mix";
import { BandPrinter } from "../../dsp/level/overview";
import { peakOf } from "../../dsp/level/peak";
import { speakerLayout, speakerWeights } from "../../dsp/level/speakers";
import { resample } from "../../dsp/maths/resample";
import { readWav, type WavSound } from "./wav";

/** Facts about a sound that are known without playing it; stored beside its bytes. */
export interface SoundFacts {
  /** The rate of the file that was brought in, before it became 48 kHz. */
  originalRateHz: number;
  channels: number;
  /** How the speakers of more than two channels stand, and whether that is assumed. */
  layout?: string;
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
  /** Positions of their speakers, see `dsp/speakers`. */
  speakers?: number;
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
export function toProjectSound(
  wav: Pick<WavSound, "channels" | "sampleRateHz"> & { speakers?: number },
): ProjectSound {
  return {
    channels: wav.channels.map((channel) => resample(channel, wav.sampleRateHz)),
    originalRateHz: wav.sampleRateHz,
    speakers: wav.speakers ?? 0,
  };
}

/** Measures the facts of a sound. */
export function describeSound({ channels, originalRateHz, speakers }: ProjectSound): SoundFacts {
  const describer = new SoundDescriber(channels.length, originalRateHz, speakers);
  describer.push(channels);
  return describer.facts();
}

/** Measures the facts of a sound that arrives in blocks. */
export class SoundDescriber {
  private readonly channelCount: number;
  private readonly originalRateHz: number;
  private readonly layout: string | undefined;
  private readonly energy: WeightedEnergy;
  private readonly printer = new BandPrinter();
  private length = 0;
  private peak = 0;

  /** @param speakers  where the channels' speakers stand, see `dsp/speakers` */
  constructor(channelCount: number, originalRateHz: number, speakers = 0) {
    this.channelCount = channelCount;
    this.originalRateHz = originalRateHz;
    this.layout = speakerLayout(channelCount, speakers);
    this.energy = new WeightedEnergy(speakerWeights(channelCount, speakers));
  }

  /** @param channels  blocks of equal length at 48 kHz */
  push(channels: readonly Float32Array[]): void {
    this.length += channels[0].length;
    this.peak = Math.max(this.peak, peakOf(channels));
    this.energy.push(channels);
    this.printer.push(mixToMono(channels).samples);
  }

  facts(): SoundFacts {
    this.energy.end();
    const lufs = gatedLoudness(this.energy.hops, this.length);
    return {
      originalRateHz: this.originalRateHz,
      channels: this.channelCount,
      ...(this.layout !== undefined && { layout: this.layout }),
      durationS: this.length / SAMPLE_RATE_HZ,
      peak: this.peak,
      integratedLufs: Number.isFinite(lufs) ? lufs : null,
      bandPrint: this.printer.heights(),
    };
  }
}
