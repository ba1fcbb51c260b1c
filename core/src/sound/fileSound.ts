import { mixToMono } from "../dsp/mix";
import { speakerWeights } from "../dsp/speakers";
import { readProjectSound } from "../format/sound";
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
