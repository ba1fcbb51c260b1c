import { type CueSettings, defaultCues, pickCues } from "@bumbrel/core/strand/cues";
import { DirectSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { HIT_GAP_MS, hitTuning, topDb } from "@bumbrel/core/strand/hits/catch";
import { timedCues } from "@bumbrel/core/strand/hits/hitTime";
import { MEASURES, measureSound } from "@bumbrel/core/strand/measures/table";
import { shape } from "@bumbrel/core/strand/shape/shaping";
import { cueTable } from "@bumbrel/core/strand/tables";
import { type Command, numberFlag, parsed, UsageError, writeText } from "../support/command";
import { readSignal } from "./trace";

export const cues: Command = {
  help: `bumbrel cues FILE.wav --low HZ --high HZ [--mark DB] [--gap MS] [--csv OUT|-]

Prints time_s,strength: a row for each peak of the band's level, in order of time.

The band's level (as trace --measure band gives it) in dB is mapped to 0..1 over the 48 dB up to the loudest it gets in
this sound, and falls no faster than a release of 80 ms. A peak is a frame that is the largest within 30 ms on either
side. Strength is that number, 0 to 1: the largest within the 50 ms after the peak.

  --mark DB    level a peak must reach, in dBFS, as catch prints it. Without it a peak must stand out: above
               median + 1.4826 · median deviation of the half second on either side, and above 0.2
  --gap MS     least time between two cues (${HIT_GAP_MS}); of two that are nearer the first counts
  --csv OUT    writes to the file OUT; - is standard output

A sound in which the band is silent has no cues: only the header is printed.
`,
  run(args, console) {
    const { values, positionals } = parsed(
      args,
      {
        low: { type: "string" },
        high: { type: "string" },
        mark: { type: "string" },
        gap: { type: "string" },
        csv: { type: "string" },
      },
      ["FILE.wav"],
    );
    const lowHz = numberFlag("low", values.low, 0, 24_000);
    const highHz = numberFlag("high", values.high, 0, 24_000);
    if (lowHz >= highHz) throw new UsageError(`--low (${lowHz}) must be lower than --high (${highHz})`);
    const markDb = values.mark === undefined ? undefined : numberFlag("mark", values.mark, -200, 24);
    const gapMs = values.gap === undefined ? HIT_GAP_MS : numberFlag("gap", values.gap, 0, 5000);
    const signal = readSignal(positionals[0], console);
    const raw = measureSound(signal, { ...MEASURES.band.defaults, lowHz, highHz }, new DirectSpectra());
    const tuning = hitTuning(lowHz, highHz, markDb ?? 0, topDb(raw), gapMs);
    const standingOut: CueSettings = {
      ...defaultCues(),
      on: true,
      rule: "peak",
      mark: 0.2,
      sensitivity: 1,
      gapMs,
    };
    const settings = markDb === undefined ? standingOut : tuning.cues;
    // A mark above the loudest there is must catch nothing.
    const found =
      markDb !== undefined && markDb > topDb(raw)
        ? []
        : timedCues(
            pickCues(shape(raw, tuning.shaping), 1, settings),
            settings,
            tuning.measure,
            signal.samples,
          );
    const csv = cueTable(found);
    writeText(values.csv, [csv], console);
    return 0;
  },
};
