import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { makeVoice } from "@bumbrel/core/dsp/tone/voice";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { bell } from "./music/voices";
import { type DrumHit, makeRegattaNight, STEM_NAMES } from "./scenes/regattaNight";

/** Length of what is heard around the music: four bars, so that the bell keeps out of the silent one. */
const AROUND_S = 9.6;
const BELL_HZ = 494;

/** The seed of the example that ships with Bumbrel. */
export const REGATTA_SEED = 1871;

/** Drum hits as a table: `time_s,drum,velocity`, times to the sample. */
export function hitsCsv(hits: readonly DrumHit[]): string {
  const rows = hits.map(({ timeS, drum, velocity }) => `${timeS.toFixed(6)},${drum},${velocity}`);
  return `time_s,drum,velocity\n${rows.join("\n")}\n`;
}

/**
 * Everything of *Regatta Night* as files.
 *
 * @returns bytes by file name: `mix.wav` (stereo), one WAV for each stem, `bell.wav`, `caller.wav` and `hits.csv`
 */
export function regattaFiles(seed: number = REGATTA_SEED): Map<string, Uint8Array<ArrayBuffer>> {
  const piece = makeRegattaNight(seed);
  const files = new Map<string, Uint8Array<ArrayBuffer>>();
  files.set("mix.wav", writeWav(piece.mix, SAMPLE_RATE_HZ, "pcm16"));
  for (const name of STEM_NAMES)
    files.set(`${name}.wav`, writeWav([piece.stems[name]], SAMPLE_RATE_HZ, "pcm16"));
  const bellSound = new Float32Array(AROUND_S * SAMPLE_RATE_HZ);
  bell({ samples: bellSound, start: 0 }, BELL_HZ, 1);
  files.set("bell.wav", writeWav([bellSound], SAMPLE_RATE_HZ, "pcm16"));
  files.set("caller.wav", writeWav([makeVoice(AROUND_S, seed)], SAMPLE_RATE_HZ, "pcm16"));
  files.set("hits.csv", new TextEncoder().encode(hitsCsv(piece.hits)) as Uint8Array<ArrayBuffer>);
  return files;
}
