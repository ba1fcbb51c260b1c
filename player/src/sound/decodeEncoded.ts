import { mixToMono } from "@bumbrel/core/dsp/level/mix";
import { speakerWeights } from "@bumbrel/core/dsp/level/speakers";
import { Resampler } from "@bumbrel/core/dsp/maths/resample";
import { SoundFormatError } from "@bumbrel/core/errors";
import type { SoundData } from "@bumbrel/core/sound/signal";
import { ALL_FORMATS, AudioSampleSink, BlobSource, Input } from "mediabunny";

/** A block of decoded samples, at the sound's own rate. */
export interface DecodedBlock {
  channels: Float32Array[];
  rateHz: number;
  /** Share of the sound that has been decoded, 0..1. */
  share: number;
}

/**
 * Decodes an encoded sound block by block.
 *
 * @throws NoDecoder when this browser has no decoder for it
 */
export async function* decodedBlocks(file: Blob, name: string): AsyncGenerator<DecodedBlock> {
  const input = new Input({ formats: ALL_FORMATS, source: new BlobSource(file) });
  try {
    const track = await input.getPrimaryAudioTrack().catch(() => null);
    if (!track || !(await track.canDecode())) throw new NoDecoder(name);
    const durationS = await track.computeDuration();
    for await (const sample of new AudioSampleSink(track).samples()) {
      const { sampleRate, numberOfChannels, numberOfFrames, timestamp } = sample;
      // Samples that an encoder put before the beginning of the sound have negative times.
      const skipped = Math.min(numberOfFrames, Math.max(0, Math.round(-timestamp * sampleRate)));
      const channels = Array.from({ length: numberOfChannels }, (_, planeIndex) => {
        const plane = new Float32Array(numberOfFrames);
        sample.copyTo(plane, { planeIndex, format: "f32-planar" });
        return plane.subarray(skipped);
      });
      sample.close();
      yield { channels, rateHz: sampleRate, share: Math.min(1, timestamp / durationS) };
    }
  } finally {
    input.dispose();
  }
}

/** This browser cannot decode a sound. */
export class NoDecoder extends SoundFormatError {
  constructor(name: string) {
    super({
      code: "sound-no-decoder",
      what: "this browser has no decoder for it",
      where: name,
      remedy: "Use WAV, MP3, OGG, FLAC, M4A or MIDI, or export it again",
    });
  }
}

/** Brings blocks to 48 kHz as they come. */
export class BlockResampler {
  private resamplers: Resampler[] = [];

  /** The block's channels at 48 kHz: what of them is certain. */
  push({ channels, rateHz }: Pick<DecodedBlock, "channels" | "rateHz">): Float32Array[] {
    if (this.resamplers.length === 0) this.resamplers = channels.map(() => new Resampler(rateHz));
    return this.resamplers.map((resampler, c) => resampler.push(channels[c]));
  }

  /** The remaining samples at the end. */
  end(): Float32Array[] {
    return this.resamplers.map((resampler) => resampler.end());
  }
}

/** Whole channels from their blocks. */
export function joinBlocks(
  blocks: readonly Float32Array[][],
  make: (length: number) => Float32Array = (length) => new Float32Array(length),
): Float32Array[] {
  const count = blocks[0]?.length ?? 0;
  const length = blocks.reduce((sum, block) => sum + block[0].length, 0);
  return Array.from({ length: count }, (_, c) => {
    const out = make(length);
    let at = 0;
    for (const block of blocks) {
      out.set(block[c], at);
      at += block[c].length;
    }
    return out;
  });
}

/** An encoded sound as a project holds it. */
export async function decodeSound(bytes: Uint8Array, name: string): Promise<SoundData> {
  const resampler = new BlockResampler();
  const blocks: Float32Array[][] = [];
  for await (const block of decodedBlocks(new Blob([bytes as Uint8Array<ArrayBuffer>]), name)) {
    blocks.push(resampler.push(block));
  }
  blocks.push(resampler.end());
  const channels = joinBlocks(blocks);
  return { channels, mono: mixToMono(channels).samples, weights: speakerWeights(channels.length) };
}
