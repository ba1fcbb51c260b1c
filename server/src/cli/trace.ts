import {
  DEFAULT_FFT_SIZE,
  FFT_SIZES,
  type FftSize,
  FRAME_RATE_HZ,
  SAMPLE_RATE_HZ,
} from "@bumbrel/core/constants";
import { mixToMono } from "@bumbrel/core/dsp/mix";
import { DEFAULT_WINDOW } from "@bumbrel/core/dsp/window";
import { readProjectSound } from "@bumbrel/core/format/sound";
import { MEASURE_KINDS, MEASURES, type Measure, measureSound } from "@bumbrel/core/strand/measures";
import { DirectSpectra } from "@bumbrel/core/strand/spectrumSource";
import { type Command, choiceFlag, numberFlag, parsed, readBytes, UsageError, writeBytes } from "./command";

export const trace: Command = {
  name: "trace",
  summary: "prints a measure of a sound, 100 rows a second",
  help: `bumbrel trace FILE.wav --measure MEASURE [options]

Prints time_s,value for each frame: frame k describes the instant k / 100 s, and every instant before the
end of the sound has one. Values are linear levels: a full-scale sine reads 1. The sound is brought to
48 kHz and its channels are averaged first; samples before its start and after its end count as 0.

  --measure band   sqrt(2 · sum of P) over a range of frequencies, where P are the powers of a Hann-windowed
                   spectrum centred on the instant and a bin counts by the share of its width inside;
                   needs --low and --high
  --measure peak   the largest magnitude among the 480 samples centred on the instant
  --low HZ         low end of the band, from 0
  --high HZ        high end of the band, up to 24000
  --fft SIZE       samples in a spectrum: ${FFT_SIZES.join(", ")} (${DEFAULT_FFT_SIZE} unless said)
  --csv OUT        writes to the file OUT; - is standard output, as without it

Example: bumbrel trace song.wav --measure band --low 80 --high 160 --csv kick.csv
`,
  run(args, console) {
    const { values, positionals } = parsed(
      args,
      {
        measure: { type: "string" },
        low: { type: "string" },
        high: { type: "string" },
        fft: { type: "string" },
        csv: { type: "string" },
      },
      ["FILE.wav"],
    );
    const measure = measureFromFlags(values);
    const [path] = positionals;
    const { samples } = mixToMono(readProjectSound(readBytes(path), path).channels);
    const levels = measureSound({ samples }, measure, new DirectSpectra());
    const rows = ["time_s,value"];
    levels.forEach((level, frame) => {
      rows.push(`${(frame / FRAME_RATE_HZ).toFixed(2)},${Number(level.toPrecision(9))}`);
    });
    const csv = `${rows.join("\n")}\n`;
    if (values.csv === undefined || values.csv === "-") console.out(csv);
    else writeBytes(values.csv, csv);
    return 0;
  },
};

function measureFromFlags(flags: { measure?: string; low?: string; high?: string; fft?: string }): Measure {
  const kind = choiceFlag("measure", flags.measure, MEASURE_KINDS);
  if (kind === "peak") {
    for (const flag of ["low", "high", "fft"] as const) {
      if (flags[flag] !== undefined) throw new UsageError(`--${flag} has no meaning for --measure peak`);
    }
    return MEASURES.peak.defaults;
  }
  const fftSize = flags.fft === undefined ? DEFAULT_FFT_SIZE : (Number(flags.fft) as FftSize);
  if (!FFT_SIZES.includes(fftSize)) {
    throw new UsageError(`--fft must be one of ${FFT_SIZES.join(", ")}, not "${flags.fft}"`);
  }
  const lowHz = numberFlag("low", flags.low, 0, SAMPLE_RATE_HZ / 2);
  const highHz = numberFlag("high", flags.high, 0, SAMPLE_RATE_HZ / 2);
  if (lowHz >= highHz) throw new UsageError(`--low (${lowHz}) must be lower than --high (${highHz})`);
  return { kind: "band", lowHz, highHz, fftSize, window: DEFAULT_WINDOW };
}
