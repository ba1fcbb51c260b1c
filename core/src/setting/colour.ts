import { convertLrgbToRgb, convertRgbToLrgb, parseHex, serializeHex } from "culori/fn";
/** A colour as the document holds it: sRGB, six hexadecimal digits, such as "#e8b04a". */
export type HexColour = string;
/** Linear-light RGB with sRGB primaries, each 0..1. */
export type LinearRgb = [number, number, number];
export const HEX_COLOUR_PATTERN = "^#[0-9a-fA-F]{6}$";

export const COLOUR_MIXES = ["oklch", "linear"] as const;
export type ColourMix = (typeof COLOUR_MIXES)[number];

/** @throws RangeError unless `hex` is "#rrggbb" */
export function hexToLinear(hex: HexColour): LinearRgb {
  const colour = new RegExp(HEX_COLOUR_PATTERN).test(hex) ? parseHex(hex) : undefined;
  if (!colour) throw new RangeError(`"${hex}" is not a colour like #e8b04a`);
  const { r, g, b } = convertRgbToLrgb(colour);
  return [r, g, b];
}

/** Nearest "#rrggbb"; what lies outside 0..1 is cut off. */
export function linearToHex([r, g, b]: ArrayLike<number> & Iterable<number>): HexColour {
  return serializeHex(convertLrgbToRgb({ r, g, b }));
}

/** For frames, which a library would allocate for: linear RGB to OKLCH: lightness 0..1, chroma, hue in radians (Ottosson 2020). */
export function linearToOklch(rgb: ArrayLike<number>): [number, number, number] {
  const l = Math.cbrt(0.4122214708 * rgb[0] + 0.5363325363 * rgb[1] + 0.0514459929 * rgb[2]);
  const m = Math.cbrt(0.2119034982 * rgb[0] + 0.6806995451 * rgb[1] + 0.1073969566 * rgb[2]);
  const s = Math.cbrt(0.0883024619 * rgb[0] + 0.2817188376 * rgb[1] + 0.6299787005 * rgb[2]);
  const lightness = 0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s;
  const a = 1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s;
  const b = 0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s;
  return [lightness, Math.hypot(a, b), Math.atan2(b, a)];
}

export function oklchToLinear(
  lightness: number,
  chroma: number,
  hue: number,
  out: Float64Array | Float32Array,
  at: number,
): void {
  const a = chroma * Math.cos(hue);
  const b = chroma * Math.sin(hue);
  const l = (lightness + 0.3963377774 * a + 0.2158037573 * b) ** 3;
  const m = (lightness - 0.1055613458 * a - 0.0638541728 * b) ** 3;
  const s = (lightness - 0.0894841775 * a - 1.291485548 * b) ** 3;
  out[at] = Math.min(1, Math.max(0, 4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s));
  out[at + 1] = Math.min(1, Math.max(0, -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s));
  out[at + 2] = Math.min(1, Math.max(0, -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s));
}

/** Chroma below which a colour is grey and has no hue of its own. */
const GREY_CHROMA = 1e-4;

/** A mix of two colours, prepared so that each call writes three numbers and allocates nothing. */
export type ColourBlend = (share: number, out: Float64Array | Float32Array, at: number) => void;

/**
 * Prepares mixing between two colours.
 *
 * @param mix  "oklch" keeps lightness and saturation even and takes the shorter way round the hues;
 *   "linear" mixes light
 * @returns a function writing linear RGB for share 0 (`from`) to 1 (`to`)
 */
export function colourBlend(from: HexColour, to: HexColour, mix: ColourMix): ColourBlend {
  const a = hexToLinear(from);
  const b = hexToLinear(to);
  if (mix === "linear") {
    return (share, out, at) => {
      for (let i = 0; i < 3; i++) out[at + i] = a[i] + (b[i] - a[i]) * share;
    };
  }
  const [l0, c0, h0] = linearToOklch(a);
  const [l1, c1, h1] = linearToOklch(b);
  const startHue = c0 < GREY_CHROMA ? h1 : h0;
  const endHue = c1 < GREY_CHROMA ? startHue : h1;
  let turn = (endHue - startHue) % (2 * Math.PI);
  if (turn > Math.PI) turn -= 2 * Math.PI;
  if (turn < -Math.PI) turn += 2 * Math.PI;
  return (share, out, at) =>
    oklchToLinear(l0 + (l1 - l0) * share, c0 + (c1 - c0) * share, startHue + turn * share, out, at);
}

/** A gradient of any number of colours, prepared so that each call writes three numbers and allocates nothing. */
export function colourRamp(stops: readonly { at: number; colour: HexColour }[], mix: ColourMix): ColourBlend {
  const sorted = [...stops].sort((a, b) => a.at - b.at);
  if (sorted.length === 1) return colourBlend(sorted[0].colour, sorted[0].colour, "linear");
  const blends = sorted.slice(1).map(({ colour }, i) => colourBlend(sorted[i].colour, colour, mix));
  const places = Float64Array.from(sorted, ({ at }) => at);
  const last = blends.length - 1;
  return (share, out, at) => {
    let i = 0;
    while (i < last && share > places[i + 1]) i++;
    const width = places[i + 1] - places[i];
    // Two colours at one place are an edge.
    const within = width > 0 ? (share - places[i]) / width : share >= places[i + 1] ? 1 : 0;
    blends[i](Math.min(1, Math.max(0, within)), out, at);
  };
}

/**
 * A gradient as a table.
 *
 * @returns linear RGB at `steps` places evenly from 0 to 1, three numbers each
 */
export function rampTable(
  stops: readonly { at: number; colour: HexColour }[],
  steps: number,
  mix: ColourMix = "oklch",
): Float32Array {
  const blend = colourRamp(stops, mix);
  const table = new Float32Array(steps * 3);
  for (let i = 0; i < steps; i++) blend(i / (steps - 1), table, i * 3);
  return table;
}

/** Turns the hue of a linear RGB colour in place; `angle` in radians. What leaves the screen's colours is cut off. */
export function hueTurned(rgb: Float64Array, at: number, angle: number): void {
  const [l, c, h] = linearToOklch(rgb.subarray(at, at + 3));
  oklchToLinear(l, c, h + angle, rgb, at);
}
