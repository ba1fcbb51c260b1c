import { reference, whole } from "../../setting/descriptor";
import { number, within } from "../../setting/property";
import type { ObjectKindDeclaration } from "../declaration";
import { BODY, blendSetting, body, bodySettings, LENGTH, SHARE, untinted } from "../shared";

/** A past that fades more slowly would not be forgotten within the steps that are drawn again after a seek. */
export const MOST_FADE = 0.95;
const fade = number(
  "Fading past",
  "",
  [0, MOST_FADE, 0.01],
  0,
  0.9,
  "Share of the last picture that stays, 60 times a second; at 0 it is cleared.",
);
const pixels = within(
  "main",
  whole("Pixels across", [64, 2048], 512, "How finely it is drawn: pixels of its longer side.", { chars: 5 }),
);
const programId = (help: string) => within("main", reference("Program", "program", help));
const drawnBy = programId("Code of your own that draws it.");
const amount = (help: string) => number("Amount", "", SHARE, 1, 0.6, help);

/** Kinds of object that programs draw. */
export const PROGRAMMED_KINDS = {
  drawing: {
    label: "Drawing",
    help: "A sheet that code of your own draws on.",
    shelf: "programs",
    can: BODY,
    body: { size: (read) => [read("width"), read("height"), 1], isFlat: true },
    properties: {
      ...body({
        width: number("Width", "m", LENGTH, 2, 1, "Width at scale 1."),
        height: number("Height", "m", LENGTH, 2, 1, "Height at scale 1."),
        fade,
      }),
      ...untinted,
    },
    settings: {
      ...bodySettings,
      programId: drawnBy,
      pixels,
      unlit: { ...bodySettings.unlit, default: true },
    },
  },
  drawingOver: {
    label: "Overlay drawing",
    help: "What code of your own draws, over the whole picture.",
    shelf: "programs",
    can: {},
    properties: { amount: amount("How much of it is seen."), fade },
    settings: { programId: drawnBy, pixels, blend: { ...blendSetting, section: "main" } },
  },
  picturePass: {
    label: "Picture pass",
    help: "Changes the finished picture by code of your own; passes follow each other.",
    shelf: "programs",
    can: {},
    properties: { amount: amount("From the picture without it, at 0, to the picture with it.") },
    settings: { programId: programId("Code of your own that changes the picture.") },
  },
} as const satisfies Record<string, ObjectKindDeclaration>;
