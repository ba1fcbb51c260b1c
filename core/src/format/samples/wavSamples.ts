import { resampledLength, resampleStretch } from "../../dsp/maths/resample";
import { LongSamples, type PackedSamples, samplesFrom } from "../../dsp/maths/samples";
import type { WavFile } from "./wav";

/** A channel of a WAV file at 48 kHz, which is read as it is needed. */
export class WavSamples extends LongSamples {
  readonly length: number;
  private readonly file: WavFile;
  private readonly channel: number;

  constructor(file: WavFile, channel: number) {
    super();
    this.file = file;
    this.channel = channel;
    this.length = resampledLength(file.length, file.sampleRateHz);
  }

  read(from: number, out: Float32Array): void {
    const { file, channel } = this;
    resampleStretch(file.sampleRateHz, file.length, from, out, (first, input) => {
      file.read(channel, first, input);
    });
  }

  /** All of it: a file that is open here cannot be read elsewhere. */
  pack(): PackedSamples {
    return samplesFrom(this, 0, this.length);
  }
}
