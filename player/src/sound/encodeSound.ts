import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { SOUND_BITS_A_SECOND } from "@bumbrel/core/document/film/film";
import { aacLead, containerFormat, leadComment } from "@bumbrel/core/format/film/filmFile";
import { registerAacEncoder } from "@mediabunny/aac-encoder";
import { AudioSample, AudioSampleSource, BufferTarget, canEncodeAudio, Output } from "mediabunny";

/** This browser cannot make such a film or sound. */
export class NoEncoder extends Error {}

/** Samples of silence after the sound: encoders look ahead, and hold as many back. */
const TAIL = 2048;

/**
 * Encodes a sound as it comes, at 48 kHz, as a file of its own.
 *
 * @param numberOfChannels  of what is added
 * @param samples  that will be added, if the sound has to end with a whole packet
 * @throws NoEncoder when this browser cannot
 */
export async function soundEncoder(codec: "aac" | "opus", numberOfChannels = 2, samples?: number) {
  const format = { numberOfChannels, sampleRate: SAMPLE_RATE_HZ };
  const bitrate = SOUND_BITS_A_SECOND;
  // The encoder of AAC comes with the product: few browsers have one, and so films sound the same everywhere.
  if (codec === "aac") registerAacEncoder();
  else if (!(await canEncodeAudio(codec, { ...format, bitrate })))
    throw new NoEncoder("This browser cannot encode Opus. Choose MP4.");
  const target = new BufferTarget();
  const output = new Output({ format: containerFormat(codec === "aac" ? "mp4" : "webm"), target });
  const source = new AudioSampleSource({ codec, bitrate });
  output.addAudioTrack(source);
  const lead = samples !== undefined && codec === "aac" ? aacLead(samples) : 0;
  if (lead > 0) output.setMetadataTags({ comment: leadComment(lead) });
  await output.start();
  const silence = (length: number) =>
    Array.from({ length: numberOfChannels }, () => new Float32Array(length));
  let done = 0;
  const add = async (channels: readonly Float32Array[]) => {
    const { length } = channels[0];
    const data = new Float32Array(numberOfChannels * length);
    channels.forEach((channel, c) => {
      data.set(channel, c * length);
    });
    const timestamp = done / SAMPLE_RATE_HZ;
    const sample = new AudioSample({ data, format: "f32-planar", ...format, timestamp });
    await source.add(sample);
    sample.close();
    done += length;
  };
  if (lead > 0) await add(silence(lead));
  return {
    add,
    finish: async () => {
      await add(silence(TAIL));
      await output.finalize();
      return new Uint8Array(target.buffer!);
    },
    cancel: () => output.cancel(),
  };
}
