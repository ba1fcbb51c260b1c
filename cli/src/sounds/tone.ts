import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { dbToLevel } from "@bumbrel/core/dsp/level/decibel";
import { noteToHz } from "@bumbrel/core/dsp/tone/note";
import {
  makeNoise,
  makeTone,
  NOISE_KINDS,
  type NoiseKind,
  type Sweep,
  TONE_KINDS,
  type ToneKind,
} from "@bumbrel/core/dsp/tone/tone";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { type Command, choiceFlag, numberFlag, parsed, UsageError, writeBytes } from "../support/command";

/** Half an hour: as long as a sound may be. */
const MAX_SECONDS = 1800;

export const tone: Command = {
  help: `bumbrel tone --kind KIND --seconds S --out FILE.wav [options]

Writes mono 32-bit float WAV at 48 kHz.

  --kind KIND     ${[...TONE_KINDS, ...NOISE_KINDS].join(", ")}; triangle, square and sawtooth are band-limited
  --seconds S     length, up to ${MAX_SECONDS}
  --out FILE      where to write
  --hz HZ         frequency of a tone, below 24000, or a note such as A4 or C#3 (440 unless said)
  --to HZ         makes a sweep that ends here, as Hz or a note
  --sweep KIND    how a sweep goes: logarithmic (unless said) or linear
  --seed N        chooses a noise (1 unless said); the same seed gives the same bytes
  --level DB      0 unless said: tones peak at full scale, white noise fills it, pink and brown noise have an RMS
                  of −14 dBFS, less where their peak would pass full scale

Pink noise falls by 3 dB an octave, brown by 6.

Example: bumbrel tone --kind sine --hz 40 --to 8000 --seconds 20 --out sweep.wav
`,
  run(args, console) {
    const { values } = parsed(
      args,
      {
        kind: { type: "string" },
        seconds: { type: "string" },
        out: { type: "string" },
        hz: { type: "string" },
        to: { type: "string" },
        sweep: { type: "string" },
        seed: { type: "string" },
        level: { type: "string" },
      },
      [],
    );
    const { out } = values;
    const kind = choiceFlag("kind", values.kind, [...TONE_KINDS, ...NOISE_KINDS]);
    if (out === undefined) throw new UsageError("--out is missing");
    const count = Math.round(
      numberFlag("seconds", values.seconds, 1 / SAMPLE_RATE_HZ, MAX_SECONDS) * SAMPLE_RATE_HZ,
    );
    const level = dbToLevel(numberFlag("level", values.level ?? "0", -200, 24));
    const isNoise = NOISE_KINDS.some((known) => known === kind);
    refuseMeaningless(values, isNoise ? ["hz", "to", "sweep"] : ["seed"], kind);
    const samples = isNoise
      ? makeNoise(kind as NoiseKind, count, numberFlag("seed", values.seed ?? "1", 0, 4_294_967_295), level)
      : makeTone(kind as ToneKind, frequency(values), count, level);
    writeBytes(out, writeWav([samples], SAMPLE_RATE_HZ, "float32"));
    console.out(`${out}: ${count / SAMPLE_RATE_HZ} s of ${kind}\n`);
    return 0;
  },
};

function refuseMeaningless(values: Record<string, string | undefined>, flags: string[], kind: string): void {
  const flag = flags.find((one) => values[one] !== undefined);
  if (flag) throw new UsageError(`--${flag} has no meaning for --kind ${kind}`);
}

function frequency(values: { hz?: string; to?: string; sweep?: string }): number | Sweep {
  const fromHz = hzFlag("hz", values.hz ?? "440");
  if (values.to === undefined) {
    if (values.sweep !== undefined) throw new UsageError("--sweep needs --to");
    return fromHz;
  }
  const sweep = values.sweep ?? "logarithmic";
  if (sweep !== "linear" && sweep !== "logarithmic") {
    throw new UsageError(`--sweep must be linear or logarithmic, not "${sweep}"`);
  }
  return { fromHz, toHz: hzFlag("to", values.to), sweep };
}

function hzFlag(flag: string, text: string): number {
  const hz = noteToHz(text) ?? Number(text);
  if (text.trim() === "" || !(hz > 0 && hz < SAMPLE_RATE_HZ / 2)) {
    throw new UsageError(
      `--${flag} must be above 0 and below ${SAMPLE_RATE_HZ / 2} Hz, or a note, not "${text}"`,
    );
  }
  return hz;
}
