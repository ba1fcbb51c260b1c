import type { Binding } from "../document/scene";
import { hashed, smoothNoise } from "../dsp/maths/hash";

export type Deal = Binding["deal"];

/** Metres over which the numbers dealt by place go from one chance to the next. */
const PLACE_GRAIN_M = 1.7;

/**
 * Which band each copy reads: a place among the bands, from 0 to their number less one; between two bands it reads
 * the mean of both, weighted. With more copies than bands, copies between bands read in between; with fewer, the bands
 * in between are not heard.
 *
 * - `order`: the first copy has the lowest band, the last the highest; `reversed` the other way round
 * - `mirrored`: the lowest band at both ends, the highest in the middle
 * - `shuffled`: in order, after the copies have been shuffled by the seed
 * - `place`: by smooth chance from where the copy stands, so that the same place always agrees
 *
 * @param places  x, y, z of each copy on the stage, for `place`
 * @param out  receives `copies` numbers
 */
export function dealBands(
  { kind, seed }: Deal,
  copies: number,
  bands: number,
  places: ArrayLike<number>,
  out: Float32Array,
): void {
  const last = bands - 1;
  const share = (i: number) => (copies > 1 ? i / (copies - 1) : 0.5);
  for (let i = 0; i < copies; i++) {
    switch (kind) {
      case "reversed":
        out[i] = last * (1 - share(i));
        break;
      case "mirrored":
        out[i] = last * (1 - Math.abs(2 * share(i) - 1));
        break;
      case "place":
        out[i] = last * spread(smoothNoise(seed, ...grain(places, i)));
        break;
      default:
        out[i] = last * share(i);
    }
  }
  if (kind !== "shuffled") return;
  for (let i = copies - 1; i > 0; i--) {
    const other = Math.floor(hashed(seed, i) * (i + 1));
    const kept = out[i];
    out[i] = out[other];
    out[other] = kept;
  }
}

const grain = (places: ArrayLike<number>, i: number): [number, number, number] => [
  places[i * 3] / PLACE_GRAIN_M,
  places[i * 3 + 1] / PLACE_GRAIN_M,
  places[i * 3 + 2] / PLACE_GRAIN_M,
];

/** Smooth noise keeps to the middle; this opens it to both ends. */
const spread = (x: number) => Math.min(1, Math.max(0, (x - 0.5) * 1.6 + 0.5));

/** How so many bands and so many copies were brought together, in words. */
export function dealWords({ kind }: Deal, copies: number, bands: number): string {
  if (bands === 1) return "One number for all of them.";
  if (kind === "one") return `The mean of ${bands} bands for all ${copies}.`;
  if (kind === "place") return `Each of ${copies} reads the band its place stands for, of ${bands}.`;
  const reached = kind === "mirrored" ? Math.ceil(copies / 2) : copies;
  if (reached === bands) return `${bands} bands, one for each${kind === "mirrored" ? " pair" : ""}.`;
  if (reached > bands)
    return `${copies} copies share ${bands} bands: those between two bands read in between.`;
  return `${copies} copies are fewer than ${bands} bands: bands in between are not heard.`;
}
