import { choice, text, toggle, type ValuesOf } from "../setting/descriptor";

/** How a delivered page behaves. */
export const PAGE_SETTINGS = {
  controls: toggle("Controls", true, "Play button, position and time at the bottom."),
  loops: choice(
    "At its end",
    { asTape: "as on the tape", again: "begins again", ends: "stops" },
    "asTape",
    "What happens when the tape is over.",
  ),
  kiosk: toggle(
    "Kiosk",
    false,
    "For a screen that nobody works at: it starts by itself where the browser lets it, begins again, hides controls and pointer, and keeps the screen awake.",
  ),
  numbers: choice(
    "Numbers",
    { computed: "computed when it opens", baked: "baked in" },
    "computed",
    "Baked numbers start at once; computed ones take a moment and are equal to the bit.",
  ),
  sounds: choice(
    "Sounds",
    { asTheyCame: "as they came", opus: "Opus", aac: "AAC", wav: "WAV" },
    "asTheyCame",
    "Opus and AAC are small; numbers are baked in then, so that they are those of the sound as it came.",
  ),
  description: text("Description", "", "A sentence for search engines and for links to it.", 300),
};
export type PageSettings = ValuesOf<typeof PAGE_SETTINGS>;

/** The settings that the page itself reads. */
export type PageOptions = Pick<PageSettings, "controls" | "kiosk"> & {
  /** Samples of sounds that were encoded anew, by their ids: encoders add some at the ends. */
  soundSamples: Readonly<Record<string, number>>;
};

/** True when a page's numbers are baked in: by choice, or because lossy sounds would change computed ones. */
export const bakesNumbers = ({ numbers, sounds }: PageSettings): boolean =>
  numbers === "baked" || sounds === "opus" || sounds === "aac";

/** True when the tape of a page begins again at its end. */
export const loopsInPage = ({ loops, kiosk }: PageSettings, onTape: boolean): boolean =>
  kiosk || loops === "again" || (loops === "asTape" && onTape);
