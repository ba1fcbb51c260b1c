import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { describeSound, type SoundFacts, toProjectSound } from "@bumbrel/core/format/sound";
import { readWav, writeWav } from "@bumbrel/core/format/wav";

/** A file to bring into project form: a WAV's bytes, or what the browser decoded of another format. */
export type PrepareRequest =
  | { kind: "wav"; name: string; bytes: ArrayBuffer }
  | { kind: "decoded"; name: string; channels: Float32Array[]; sampleRateHz: number };

export type PrepareAnswer =
  | { kind: "ready"; facts: SoundFacts; wav: ArrayBuffer }
  | { kind: "failed"; message: string };

addEventListener("message", ({ data }: MessageEvent<PrepareRequest>) => {
  let answer: PrepareAnswer;
  try {
    answer = prepare(data);
  } catch (error) {
    answer = { kind: "failed", message: (error as Error).message };
  }
  postMessage(answer, { transfer: answer.kind === "ready" ? [answer.wav] : [] });
});

function prepare(request: PrepareRequest): PrepareAnswer {
  const source =
    request.kind === "wav"
      ? readWav(new Uint8Array(request.bytes), request.name)
      : { channels: request.channels, sampleRateHz: request.sampleRateHz };
  const sound = toProjectSound(source);
  // A WAV that is at 48 kHz already is kept as it came, bit for bit.
  const asItCame = request.kind === "wav" && source.sampleRateHz === SAMPLE_RATE_HZ;
  const wav = asItCame ? request.bytes : writeWav(sound.channels, SAMPLE_RATE_HZ, "float32").buffer;
  return { kind: "ready", facts: describeSound(sound), wav };
}
