import { finish } from "@bumbrel/core/dsp/maths/slices";
import { csvField } from "@bumbrel/core/format/table";
import { findSectionsSliced } from "@bumbrel/core/strand/sections";
import { type Command, numberFlag, parsed, UsageError, writeText } from "../support/command";
import { readSignal } from "./trace";

export const sections: Command = {
  help: `bumbrel sections FILE.wav [--beats-per-bar N] [--csv OUT|-]

Prints where the sections of a sound begin, as CSV: time_s,letter. Those that sound alike share a letter. Boundaries are peaks of
self-similarity novelty (Foote 2000) over loudness, brightness and pitch classes, at the beginnings of bars where beats
are heard. A sound of less than ten seconds has none.

  --beats-per-bar N  1 to 32 (4)
  --csv OUT          writes to the file OUT; - is standard output, as without it

Example: bumbrel sections song.wav
`,
  run(args, console) {
    const { values, positionals } = parsed(
      args,
      { "beats-per-bar": { type: "string" }, csv: { type: "string" } },
      ["FILE.wav"],
    );
    const beatsPerBar = numberFlag("beats-per-bar", values["beats-per-bar"] ?? "4", 1, 32);
    if (!Number.isInteger(beatsPerBar)) throw new UsageError("--beats-per-bar must be a whole number");
    const found = finish(findSectionsSliced(readSignal(positionals[0], console), beatsPerBar));
    const rows = found.map(({ startS, letter }) => `${startS.toFixed(3)},${csvField(letter)}\n`);
    writeText(values.csv, ["time_s,letter\n", ...rows], console);
    return 0;
  },
};
