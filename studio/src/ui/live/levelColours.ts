import { hexToLinear, linearToHex } from "@bumbrel/core/setting/colour";

/** Stops from silence to full scale: dark water, teal, lamplight. Lightness rises (or falls) all the way. */
const STOPS: Record<string, [share: number, hex: string][]> = {
  dark: [
    [0, "#06141a"],
    [0.35, "#0e3a48"],
    [0.6, "#1f8078"],
    [0.78, "#d9a441"],
    [1, "#fff6df"],
  ],
  light: [
    [0, "#fdfaf3"],
    [0.35, "#cfe0dc"],
    [0.6, "#4d9a97"],
    [0.78, "#8a5a12"],
    [1, "#20140a"],
  ],
};
const tables = new Map<string, Uint32Array>();

/** 256 colours for the bytes of a spectrogram, as pixels of an image. */
export function levelColours(theme: string): Uint32Array {
  let table = tables.get(theme);
  if (!table) {
    const stops = STOPS[theme];
    table = Uint32Array.from({ length: 256 }, (_, i) => {
      const share = i / 255;
      const next = Math.max(
        1,
        stops.findIndex(([at]) => at >= share),
      );
      const [from, a] = stops[next - 1];
      const [to, b] = stops[next];
      const mix = (share - from) / (to - from);
      const low = hexToLinear(a);
      const hex = linearToHex(hexToLinear(b).map((c, k) => low[k] + (c - low[k]) * mix));
      const rgb = Number.parseInt(hex.slice(1), 16);
      return (0xff000000 | ((rgb & 0xff) << 16) | (rgb & 0xff00) | (rgb >> 16)) >>> 0;
    });
    tables.set(theme, table);
  }
  return table;
}
