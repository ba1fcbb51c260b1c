import type { StrandShape } from "@bumbrel/core/document/scene";

/** A strand's hue as a CSS colour that fits the theme. */
export const strandColour = (hue: number): string => `var(--strand-${hue})`;

/** Outlines of the strands' shapes, in a box of 16 by 16. */
export const SHAPE_PATHS: Record<StrandShape, string> = {
  circle: "M8 2.5a5.5 5.5 0 1 0 0 11a5.5 5.5 0 1 0 0-11Z",
  diamond: "M8 1.5 14 8 8 14.5 2 8Z",
  wave: "M1.5 9.5c2-6 4-6 6.5-1.5s4.500 4.500 6.500-1.500l0 3.200c-2 5-4.500 4.500-6.500.500s-4.500-4-6.500 2Z",
  comb: "M2 2.500h12v3.500h-1.600v7.500h-2.200v-7.500h-1.100v7.500h-2.200v-7.500h-1.100v7.500h-2.200v-7.500h-1.600Z",
  triangle: "M8 2 14.500 13.500h-13Z",
  square: "M2.800 2.800h10.400v10.400h-10.400Z",
  cross: "M6 1.800h4v4.200h4.200v4h-4.200v4.200h-4v-4.200h-4.200v-4h4.200Z",
  crescent: "M10.500 1.800a6.400 6.400 0 1 0 0 12.400a7.400 7.400 0 0 1 0-12.400Z",
};

const themeColours = new Map<string, string>();

/** The value of one of the theme's colours now, for drawing on a canvas; asked of the page once a theme. */
export function themeColour(name: string): string {
  const root = document.documentElement;
  const key = `${root.dataset.theme} ${name}`;
  let colour = themeColours.get(key);
  if (colour === undefined) {
    colour = getComputedStyle(root).getPropertyValue(`--${name}`).trim();
    // Before the style sheet has arrived there is nothing to keep.
    if (colour !== "") themeColours.set(key, colour);
  }
  return colour;
}
