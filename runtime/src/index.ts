import { readCurves } from "@bumbrel/core/format/curves";
import { numbersOf } from "./trackNumbers";
import type { Numbers } from "./types";

export type { Cue, Numbers, Strand } from "./types";

/**
 * Opens baked curves: the file `numbers.curves` that Bumbrel writes. Every number is within 1/65536 of its strand's range
 * of what the workbench shows.
 *
 * @throws Error saying what is wrong with the bytes
 * @example
 * const numbers = openBaked(await (await fetch("numbers.curves")).arrayBuffer());
 * const glow = numbers.strand("Glow");
 * // in the loop of the game, with the time of the music:
 * lamp.intensity = glow.at(music.currentTime);
 */
export function openBaked(bytes: ArrayBuffer | Uint8Array): Numbers {
  const { curves, lengthS } = readCurves(bytes instanceof Uint8Array ? bytes : new Uint8Array(bytes));
  return numbersOf(
    curves.map(({ id, name, ...track }) => ({ id, name, track })),
    lengthS,
  );
}
