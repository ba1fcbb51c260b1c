import { mixToMono } from "../dsp/level/mix";
import { speakerWeights } from "../dsp/level/speakers";
import { MeanSamples } from "../dsp/maths/samples";
import { readProjectSound } from "../format/samples/sound";
import type { WavFile } from "../format/samples/wav";
import { WavSamples } from "../format/samples/wavSamples";
import type { SoundData } from "./signal";

/**
 * Reads the bytes of a WAV file.
 *
 * @throws SoundFormatError naming what is wrong with them
 */
export function fileSound(bytes: Uint8Array, name: string): SoundData {
  const { channels, speakers } = readProjectSound(bytes, name);
  return {
    channels,
    mono: mixToMono(channels).samples,
    weights: speakerWeights(channels.length, speakers),
  };
}

/** The sound of a WAV file whose samples are read as they are needed: however long it is, little of it is in memory. */
export function longFileSound(file: WavFile): SoundData {
  const channels = Array.from(
    { length: file.channelCount },
    (_none, channel) => new WavSamples(file, channel),
  );
  return {
    channels,
    mono: new MeanSamples(channels),
    weights: speakerWeights(channels.length, file.speakers),
  };
}
