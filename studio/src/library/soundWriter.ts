import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { mixToMono } from "@bumbrel/core/dsp/level/mix";
import { WaveformStream } from "@bumbrel/core/dsp/level/overview";
import { Resampler } from "@bumbrel/core/dsp/maths/resample";
import { SoundFormatError } from "@bumbrel/core/errors";
import { SoundDescriber, type SoundFacts } from "@bumbrel/core/format/samples/sound";
import { wavData, wavHeader } from "@bumbrel/core/format/samples/wav";

/** A sound in a project's form, and what is known of it. */
export interface WrittenSound {
  facts: SoundFacts;
  wav: Blob;
}

/** Samples that are measured and written together: about 3 s. */
const WRITTEN_AT_ONCE = 1 << 17;

/**
 * Takes a sound as it comes, brings it to 48 kHz and writes it down: what has been written is the browser's to
 * keep on disk, so that long sounds need little memory.
 */
export class SoundWriter {
  private readonly channelCount: number;
  private readonly describer: SoundDescriber;
  private readonly resamplers: Resampler[];
  private readonly parts: Blob[] = [];
  private readonly keeps: boolean;
  private readonly name: string;
  private readonly onPart: (pairs: Float32Array) => void;
  private readonly waveform = new WaveformStream();
  private length = 0;
  /** Blocks that wait until there are enough of them to be worth writing. */
  private waiting: Float32Array[][] = [];
  private waitingLength = 0;

  /**
   * @param onPart  called with the waveform of each part, hop by hop
   * @param keeps  whether to write samples; off when a file is stored as it came
   * @param name  of the file, for errors
   * @param speakers  where the speakers of the channels stand, see `dsp/speakers` of the core
   */
  constructor(
    channelCount: number,
    rateHz: number,
    onPart: (pairs: Float32Array) => void = () => {},
    keeps = true,
    name = "the sound",
    speakers = 0,
  ) {
    this.name = name;
    this.channelCount = channelCount;
    this.describer = new SoundDescriber(channelCount, rateHz, speakers);
    this.resamplers = Array.from({ length: channelCount }, () => new Resampler(rateHz));
    this.onPart = onPart;
    this.keeps = keeps;
  }

  /** @param channels  blocks of equal length at the sound's own rate */
  push(channels: readonly Float32Array[]): void {
    const block = channels.map((channel, c) => this.resamplers[c].push(channel));
    this.waiting.push(block);
    this.waitingLength += block[0].length;
    if (this.waitingLength >= WRITTEN_AT_ONCE) this.flush();
  }

  end(): WrittenSound {
    this.waiting.push(this.resamplers.map((resampler) => resampler.end()));
    this.flush();
    this.give(this.waveform.end());
    if (this.length === 0) {
      throw new SoundFormatError({
        code: "sound-empty",
        what: "it holds no samples",
        where: this.name,
        remedy: "Choose another file",
      });
    }
    const header = wavHeader(this.channelCount, this.length, SAMPLE_RATE_HZ, "float32");
    return {
      facts: this.describer.facts(),
      wav: new Blob(this.keeps ? [header, ...this.parts] : [], { type: "audio/wav" }),
    };
  }

  private flush(): void {
    const joined = this.resamplers.map((_, c) => {
      const out = new Float32Array(this.waiting.reduce((sum, block) => sum + block[c].length, 0));
      let at = 0;
      for (const block of this.waiting) {
        out.set(block[c], at);
        at += block[c].length;
      }
      return out;
    });
    this.waiting = [];
    this.waitingLength = 0;
    this.take(joined);
  }

  private take(channels: Float32Array[]): void {
    if (channels[0].length === 0) return;
    this.length += channels[0].length;
    this.describer.push(channels);
    if (this.keeps) this.parts.push(new Blob([wavData(channels, "float32")]));
    const mono = mixToMono(channels).samples;
    this.give(this.waveform.push(mono));
  }

  private give(pairs: Float32Array): void {
    if (pairs.length > 0) this.onPart(pairs);
  }
}
