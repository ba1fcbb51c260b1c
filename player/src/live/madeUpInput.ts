import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { makeVoice } from "@bumbrel/core/dsp/tone/voice";

/** Name of the device that ships with Bumbrel. */
export const MADE_UP_INPUT = "Made-up microphone";
const SECONDS = 8;
const SEED = 27;

/** The made-up microphone's stream: it comes, runs and ends as that of a real one does. */
export function openMadeUpInput(context: AudioContext): { stream: MediaStream; stop(): void } {
  const samples = makeVoice(SECONDS, SEED);
  const buffer = context.createBuffer(1, samples.length, SAMPLE_RATE_HZ);
  buffer.getChannelData(0).set(samples);
  const source = context.createBufferSource();
  source.buffer = buffer;
  source.loop = true;
  const out = context.createMediaStreamDestination();
  source.connect(out);
  source.start();
  return {
    stream: out.stream,
    stop: () => {
      source.stop();
      source.disconnect();
    },
  };
}
