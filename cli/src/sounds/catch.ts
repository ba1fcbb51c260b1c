import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { readTimes } from "@bumbrel/core/format/table";
import { CachedSpectra } from "@bumbrel/core/strand/hearing/spectra";
import { HitFinder, LEAST_MARKS } from "@bumbrel/core/strand/hits/catch";
import { type Command, parsed, readBytes, UsageError } from "../support/command";
import { readSignal } from "./trace";

export const catchCommand: Command = {
  help: `bumbrel catch FILE.wav --marks MARKS.csv

MARKS.csv has a column time_s: the times of ${LEAST_MARKS} or more hits, within 50 ms each. Between the first and the last mark
every hit of that kind must be marked; that is the marked stretch.

Of all ranges of whole third octaves from 31.5 Hz to 16 kHz and all marks, takes the one with the best F-measure on
the marked stretch (a peak within 50 ms of a mark meets it, one to one), and among equals the one whose mark stands in
the widest gap, in dB, between all peaks of the whole sound.

Prints JSON: lowHz, highHz, mark (dBFS, as cues --mark takes it), precision and recall (on the marked stretch),
cues: [{timeS, strength}] over the whole file.
`,
  run(args, console) {
    const { values, positionals } = parsed(args, { marks: { type: "string" } }, ["FILE.wav"]);
    if (values.marks === undefined) throw new UsageError("--marks is missing");
    const marks = readTimes(readBytes(values.marks), values.marks);
    const { samples } = readSignal(positionals[0], console);
    const endS = samples.length / SAMPLE_RATE_HZ;
    if (marks.length < LEAST_MARKS) {
      throw new UsageError(
        `${values.marks}: catching needs at least ${LEAST_MARKS} different times, not ${marks.length}`,
      );
    }
    const outside = marks.find((timeS) => timeS < 0 || timeS >= endS);
    if (outside !== undefined) {
      throw new UsageError(
        `${values.marks}: the mark at ${outside} s lies outside the sound, which ends at ${endS.toFixed(2)} s`,
      );
    }
    const { by, precision, recall, cues, tuning } = new HitFinder(samples, new CachedSpectra()).find(marks);
    const times = cues.map((cue) => ({ ...cue, timeS: Number(cue.timeS.toFixed(4)) }));
    // A scene takes the learnt text as the setting of a strand.
    const learnt = tuning.measure.kind === "hits" ? { learnt: tuning.measure.learnt } : {};
    const found = { ...by, precision, recall, cues: times, ...learnt };
    console.out(`${JSON.stringify(found, null, 2)}\n`);
    return 0;
  },
};
