import { levelToDb } from "@bumbrel/core/dsp/level/decibel";
import { integratedLoudness } from "@bumbrel/core/dsp/level/loudness";
import { peakOf } from "@bumbrel/core/dsp/level/peak";
import { speakerLayout, speakerWeights } from "@bumbrel/core/dsp/level/speakers";
import { toProjectSound } from "@bumbrel/core/format/samples/sound";
import { readWav } from "@bumbrel/core/format/samples/wav";
import { type Command, parsed, readBytes } from "../support/command";

export const facts: Command = {
  help: `bumbrel facts FILE.wav

Prints JSON with sampleRateHz and channels (the file's own), layout (where the speakers of more than two channels stand), durationS, peakDbfs (the largest sample in any
channel, as the file has it) and integratedLufs (ITU-R BS.1770-5, gated, after the sound is brought to 48 kHz).
badSamples, where there are any, are those that were no finite numbers: they count as 0.
Silence has no level: its peakDbfs and integratedLufs are null, and so is the loudness of less than 400 ms.
`,
  run(args, console) {
    const [path] = parsed(args, {}, ["FILE.wav"]).positionals;
    const wav = readWav(readBytes(path), path);
    const { channels } = toProjectSound(wav);
    const layout = speakerLayout(channels.length, wav.speakers);
    const weights = speakerWeights(channels.length, wav.speakers);
    const rounded = (db: number) => (Number.isFinite(db) ? Math.round(db * 1000) / 1000 : null);
    const known = {
      sampleRateHz: wav.sampleRateHz,
      channels: wav.channels.length,
      ...(layout !== undefined && { layout }),
      durationS: wav.channels[0].length / wav.sampleRateHz,
      ...(wav.badSamples > 0 && { badSamples: wav.badSamples }),
      peakDbfs: rounded(levelToDb(peakOf(wav.channels))),
      integratedLufs: rounded(integratedLoudness(channels, weights)),
    };
    console.out(`${JSON.stringify(known, null, 2)}\n`);
    return 0;
  },
};
