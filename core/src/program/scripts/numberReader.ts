import { FRAME_RATE_HZ } from "../../constants";
import { valuesInLayout } from "../exposed";
import { exposedNumbers } from "../exposedNumbers";
import { bandLevels } from "../offers/levels";
import {
  MEMORY_COLUMNS,
  MEMORY_ROWS,
  SPECTRUM_FFT_SIZE,
  VALUE_NUMBERS,
  WAVE_SAMPLES,
} from "../offers/memory";
import { Sandbox } from "./sandbox";

/** A strand that a program makes its numbers of. */
export interface NumberIngredient {
  width: number;
  valueAt(timeS: number, band: number): number;
}

/** Position of a program in a sound: as much of a cursor over frames as it needs. */
interface Place {
  readonly samples: Float32Array;
  readonly centre: number;
  readonly frame: number;
  loadSpectrum(fftSize: number, window: "hann"): void;
  readonly powers: Float32Array;
  readonly offset: number;
}

/**
 * Begins a number program. Frames go in one after the other, from the first.
 *
 * @param bands  numbers it gives each time
 * @param set  what it lets be set, by name; what is missing is at its default
 * @param strands  what it is made of; without them it hears the sound that it is read along
 * @throws ScriptError when it cannot be read, and from `read` when it fails
 */
export function startNumbers(
  code: string,
  bands: number,
  set: Readonly<Record<string, number>>,
  strands?: readonly NumberIngredient[],
) {
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
    values: valuesInLayout(exposed),
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
    read(place: Place, out: Float32Array, at: number): void {
      const timeS = place.frame / FRAME_RATE_HZ;
      const row = Math.floor(place.frame) % MEMORY_ROWS;
      strands?.forEach((source, i) => {
        const numbers = sandbox.floats("numbers");
        const start = row * columns + places[i].first;
        for (let band = 0; band < source.width; band++) numbers[start + band] = source.valueAt(timeS, band);
      });
      if (readsLevels) {
        place.loadSpectrum(SPECTRUM_FFT_SIZE, "hann");
        const levels = sandbox.floats("spectrum0").subarray(row * MEMORY_COLUMNS, (row + 1) * MEMORY_COLUMNS);
        bandLevels(place.powers, place.offset, levels);
      }
      if (readsWave) readWave(place, sandbox.floats("waves"));
      sandbox.run(step++, timeS);
      out.set(sandbox.floats("out"), at);
    },
    dispose: (): void => sandbox.dispose(),
  };
}

/** Samples around the instant; what lies outside of the sound is silent. */
function readWave({ samples, centre }: Place, out: Float32Array): void {
  const first = centre - WAVE_SAMPLES / 2;
  for (let i = 0; i < WAVE_SAMPLES; i++) out[i] = samples[first + i] ?? 0;
}
