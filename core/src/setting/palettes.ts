import { hashed } from "../dsp/maths/hash";
import { type HexColour, hexToLinear, linearToOklch } from "./colour";

/** Colours that go together: a sky, a floor, the light of lamps, and inks for whatever stands before them. */
export interface Palette {
  label: string;
  help: string;
  /** Colours of the backdrop. */
  sky: { top: HexColour; horizon: HexColour; bottom: HexColour };
  /** Ground and water. */
  floor: HexColour;
  /** The light of lamps. */
  lamp: HexColour;
  /** Each stands off every colour of the sky by 3:1 or more, and is told from the others by colour-blind eyes too. */
  inks: readonly [HexColour, HexColour, HexColour, HexColour, HexColour, HexColour];
}

/**
 * The part of a palette that a colour of an object uses: the object's ink, one of the next two inks, the light of lamps, a
 * part of the sky, the floor, or the lines on the floor.
 */
export type PaletteRole =
  | "ink"
  | "secondInk"
  | "thirdInk"
  | "lamp"
  | "top"
  | "horizon"
  | "bottom"
  | "floor"
  | "line";

/** Palettes a scene can have; a test checks their contrasts. */
export const PALETTES = {
  slackwater: {
    label: "Slackwater",
    help: "Brass and paper on ink teal.",
    sky: { top: "#001016", horizon: "#02353a", bottom: "#00090e" },
    floor: "#071e23",
    lamp: "#f7d293",
    inks: ["#cea54d", "#f2eddf", "#4fb9ad", "#de6b4f", "#c0d987", "#5188cd"],
  },
  lanterns: {
    label: "Paper lanterns",
    help: "Warm paper lights at dusk.",
    sky: { top: "#0b081b", horizon: "#442241", bottom: "#0b0614" },
    floor: "#181224",
    lamp: "#ffc893",
    inks: ["#fb983b", "#fcf0ca", "#e9504d", "#ecd065", "#c669a0", "#63bdce"],
  },
  kelp: {
    label: "Kelp",
    help: "Sea greens with a red buoy.",
    sky: { top: "#02140d", horizon: "#073a29", bottom: "#000d08" },
    floor: "#072018",
    lamp: "#e1e3a6",
    inks: ["#4ac072", "#edfbcd", "#e9523f", "#cfd159", "#3e9297", "#92e2dc"],
  },
  embers: {
    label: "Embers",
    help: "Fire over coal.",
    sky: { top: "#0f0705", horizon: "#421d13", bottom: "#090504" },
    floor: "#1c110d",
    lamp: "#ffbb76",
    inks: ["#fa7c20", "#f6e8b3", "#e02822", "#f7be2b", "#baa392", "#957ec0"],
  },
  ice: {
    label: "Winter harbour",
    help: "Cold blues and one warm window.",
    sky: { top: "#051223", horizon: "#133951", bottom: "#030b1a" },
    floor: "#0d2131",
    lamp: "#cceeff",
    inks: ["#9cd8f0", "#ebf8fc", "#0f9eff", "#eba941", "#9cafae", "#9276c1"],
  },
  signal: {
    label: "Signal flags",
    help: "Clear flag colours on navy.",
    sky: { top: "#040d29", horizon: "#132b5a", bottom: "#02071d" },
    floor: "#0e1a32",
    lamp: "#f6eed8",
    inks: ["#ffd63d", "#f8f5ee", "#f53e39", "#0a91e5", "#4fce74", "#e29adc"],
  },
  plum: {
    label: "Plum dusk",
    help: "Violet evening, rose and mint.",
    sky: { top: "#130521", horizon: "#4f1d41", bottom: "#0f051d" },
    floor: "#1e122a",
    lamp: "#ffc4de",
    inks: ["#e88bc1", "#fff5fb", "#86e4c2", "#b371e0", "#ffbe64", "#6a7f8e"],
  },
  copper: {
    label: "Copper sail",
    help: "Copper, verdigris and bone.",
    sky: { top: "#140b05", horizon: "#372818", bottom: "#0e0804" },
    floor: "#1f160f",
    lamp: "#f3d2a4",
    inks: ["#de844f", "#f3ead9", "#59b2a0", "#f4c352", "#bb5f5b", "#b7ccb2"],
  },
  phosphor: {
    label: "Sea sparkle",
    help: "Glowing plankton in black water.",
    sky: { top: "#00070f", horizon: "#002635", bottom: "#000409" },
    floor: "#00121c",
    lamp: "#9ef0ea",
    inks: ["#31e8d6", "#c7fce8", "#549ffc", "#8dd347", "#b451c9", "#f2ea85"],
  },
  saltmarsh: {
    label: "Saltmarsh",
    help: "Reeds, mud and a pale sky before dawn.",
    sky: { top: "#101c28", horizon: "#4f3724", bottom: "#161107" },
    floor: "#241f11",
    lamp: "#fdd7ac",
    inks: ["#d2c17f", "#fff8eb", "#7aad84", "#f48034", "#6dc0e0", "#ffceca"],
  },
  noon: {
    label: "Noon paper",
    help: "Ink on bright paper.",
    sky: { top: "#cae3ed", horizon: "#f6f1e7", bottom: "#ded6c9" },
    floor: "#d7d0c3",
    lamp: "#fff8ea",
    inks: ["#007696", "#182834", "#bf2504", "#006044", "#4e2a7d", "#a1661f"],
  },
  fog: {
    label: "Morning fog",
    help: "Soft pigments in white air.",
    sky: { top: "#bdced4", horizon: "#dde7e7", bottom: "#bac7c9" },
    floor: "#b3c1c3",
    lamp: "#f9f5ea",
    inks: ["#00757d", "#162025", "#962a00", "#2f378b", "#5b6e23", "#5b304c"],
  },
} as const satisfies Record<string, Palette>;
export type PaletteId = keyof typeof PALETTES;
export const PALETTE_IDS = Object.keys(PALETTES) as PaletteId[];
export const DEFAULT_PALETTE: PaletteId = "slackwater";

const LIGHT_SKY_FROM = 0.6;
/** True if a palette's sky is light, and its inks are dark. */
export const isLightPalette = (id: PaletteId): boolean =>
  linearToOklch(hexToLinear(PALETTES[id].sky.horizon))[0] > LIGHT_SKY_FROM;

/** Inks of a palette in the order that a seed gives them; seed 1 leaves them in theirs. */
export function inksOf(id: PaletteId, seed: number): HexColour[] {
  const inks: HexColour[] = [...PALETTES[id].inks];
  if (seed === 1) return inks;
  for (let i = inks.length - 1; i > 0; i--) {
    const j = Math.floor(hashed(seed, i) * (i + 1));
    [inks[i], inks[j]] = [inks[j], inks[i]];
  }
  return inks;
}

/** A colour of a role; `ink` is the number of the object's ink, counted on over the end. */
export function colourFor(role: PaletteRole, id: PaletteId, seed: number, ink: number): HexColour {
  const { sky, floor, lamp } = PALETTES[id];
  const inks = inksOf(id, seed);
  switch (role) {
    case "ink":
      return inks[ink % inks.length];
    case "secondInk":
      return inks[(ink + 1) % inks.length];
    case "thirdInk":
      return inks[(ink + 2) % inks.length];
    case "lamp":
      return lamp;
    case "floor":
      return floor;
    case "line":
      return inks[1];
    default:
      return sky[role];
  }
}
