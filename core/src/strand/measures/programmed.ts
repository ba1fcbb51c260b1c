import { FRAME_RATE_HZ } from "../../constants";
import { exposedNumbers } from "../../program/exposedNumbers";
import { MEMORY_COLUMNS, MEMORY_ROWS, WAVE_SAMPLES } from "../../program/glslOffers";
import { bandLevels, SPECTRUM_FFT_SIZE } from "../../program/levels";
import { MOST_SCRIPT_BANDS } from "../../program/scriptOffers";
import { VALUE_NUMBERS } from "../../program/scriptPrelude";
import { theScripts } from "../../program/scripts";
import { reference, type ValuesSetting, whole } from "../../setting/descriptor";
import type { FrameCursor } from "../cursor";
import type { Signal } from "../signal";
import { trackValueAt } from "../track";
import { type MeasureReader, measure } from "./declaration";

const VALUES: ValuesSetting = {
  type: "values",
  label: "Values",
  help: "What the program lets you set.",
  default: {},
};

/** Numbers of a program of the user's own. */
export const PROGRAMMED = {
  program: measure({
    label: "Program",
    help: "Code of your own that gives the numbers, from a sound or from other strands.",
    group: "programs",
    unit: "share",
    reads: ["samples", "strands"],
    settings: {
      programId: reference("Program", "program", "Code of your own that gives the numbers."),
      bands: whole("Numbers", [1, MOST_SCRIPT_BANDS], 1, "Numbers each time: more than one make a fan."),
      values: VALUES,
    },
    ahead: () => SPECTRUM_FFT_SIZE / 2,
    start: ({ bands, values }, signal) => startProgram(bands, values, signal),
  }),
};

function startProgram(bands: number, set: Readonly<Record<string, number>>, signal: Signal): MeasureReader {
  const { code, strands } = signal;
  if (code === undefined) throw new RangeError("It has no program. Choose one, or write one");
  const { Sandbox } = theScripts();
  let columns = 0;
  const places = (strands ?? []).map(({ width }) => {
    const first = columns;
    columns += width;
    return { first, count: width };
  });
  const exposed = exposedNumbers(code);
  const sandbox = new Sandbox(code, {
    kind: "number",
    columns,
    sounds: strands ? 0 : 1,
    bands,
    values: exposed.map(({ name, type, property }) => ({ name, type, words: property.words })),
    strands: places,
  });
  exposed.forEach(({ name, property: { min, max, default: start } }, i) => {
    sandbox.floats("values")[i * VALUE_NUMBERS] = Math.min(max, Math.max(min, set[name] ?? start));
  });
  // Nothing is computed that the code cannot ask for.
  const readsLevels = !strands && /\blevel\b/.test(code);
  const readsWave = !strands && /\bwave\b/.test(code);
  let step = 0;
  return {
    width: bands,
    read(cursor, out, at) {
      const timeS = cursor.frame / FRAME_RATE_HZ;
      const row = Math.floor(cursor.frame) % MEMORY_ROWS;
      strands?.forEach((track, i) => {
        const numbers = sandbox.floats("numbers");
        const start = row * columns + places[i].first;
        for (let band = 0; band < track.width; band++) {
          numbers[start + band] = trackValueAt(track, timeS, band);
        }
      });
      if (readsLevels) {
        cursor.loadSpectrum(SPECTRUM_FFT_SIZE, "hann");
        const levels = sandbox.floats("spectrum0").subarray(row * MEMORY_COLUMNS, (row + 1) * MEMORY_COLUMNS);
        bandLevels(cursor.powers, cursor.offset, levels);
      }
      if (readsWave) readWave(cursor, sandbox.floats("waves"));
      sandbox.run(step++, timeS);
      out.set(sandbox.floats("out"), at);
    },
    dispose: () => sandbox.dispose(),
  };
}

/** Samples around the instant; what lies outside of the sound is silent. */
function readWave({ samples, centre }: FrameCursor, out: Float32Array): void {
  const first = centre - WAVE_SAMPLES / 2;
  for (let i = 0; i < WAVE_SAMPLES; i++) out[i] = samples[first + i] ?? 0;
}
