import { choice, reference, whole } from "../../setting/descriptor";
import { count, number, vector, within } from "../../setting/property";
import type { ObjectKindDeclaration } from "../declaration";
import { blendSetting, glowing, LENGTH, onCamera, SHARE, solid, spokenSettings } from "../shared";

/** A drawing has a place, a colour of its own and a fading trail of its past. */
const drawn = {
  ...solid,
  ...glowing,
  trail: number("Trail length", "s", [0, 5, 0.05], 0, 1, "How long its past stays visible, fading."),
};
const drawnSettings = { blend: blendSetting, ...onCamera("before"), ...spokenSettings };
const width = number("Width", "m", LENGTH, 6, 3, "From end to end; around the circle, if it is bent.");
const thickness = number("Line width", "m", [0.002, 5, 0.002], 0.04, 0.1, "Width of its lines.");
const bend = number("Bend", "", SHARE, 0, 1, "0 is straight, 1 a whole circle.");
const rise = number("Height", "m", [0, 100, 0.01], 2, 2, "Height at a level of 1.");
const level = number(
  "Level",
  "",
  [0, 4, 0.01],
  0.1,
  1,
  "Level of each part: bind a fan, and each takes its band.",
  {
    perCopy: true,
  },
);
const soundId = within(
  "main",
  reference("Sound", "sound", "The sound whose waveform it follows; the first that is heard, if none."),
);
const DRAWING = { placement: "turned", grouped: true, pointable: true } as const;
const ROW = { ...DRAWING, copies: "always" } as const;

/** Lines and shapes that numbers draw. */
export const DRAWINGS = {
  waveform: {
    label: "Waveform",
    help: "A line drawn by a sound’s samples.",
    shelf: "drawings",
    can: DRAWING,
    properties: {
      ...drawn,
      width,
      swing: number("Amplitude", "m", [0, 100, 0.01], 1.2, 1, "Excursion at full scale."),
      span: number("Time span", "ms", [2, 1000, 1], 40, 60, "Length of the sound that is visible at once."),
      thickness,
      bend,
    },
    settings: { soundId, ...drawnSettings },
  },
  spectrum: {
    label: "Spectrum",
    help: "A row of levels as a line, a filled shape or bars.",
    shelf: "drawings",
    can: ROW,
    properties: {
      ...drawn,
      copies: count("Bands", [1, 1024], 48, 48, "Points or bars of the row; a fan is dealt to them."),
      level,
      width,
      rise,
      thickness,
      bend,
    },
    settings: {
      drawnAs: within(
        "main",
        choice(
          "Style",
          { line: "line", filled: "filled shape", bars: "bars" },
          "filled",
          "How the levels are joined.",
        ),
      ),
      ...drawnSettings,
    },
  },
  outlines: {
    label: "Outlines",
    help: "Concentric shapes, each following a band of its own.",
    shelf: "drawings",
    can: ROW,
    properties: {
      ...drawn,
      copies: count("Outlines", [1, 128], 8, 8, "How many there are; a fan is dealt to them."),
      level,
      inner: number("Inner radius", "m", [0, 100, 0.01], 0.4, 0.6, "Radius of the innermost."),
      spacing: number("Spacing", "m", [0, 100, 0.01], 0.25, 0.25, "From each to the next."),
      swell: number("Swell", "m", [0, 100, 0.01], 0.3, 0.5, "How much wider a level of 1 makes one."),
      thickness,
    },
    settings: {
      sides: within("main", whole("Sides", [3, 96], 96, "Corners of each; many make a circle.")),
      ...drawnSettings,
    },
  },
  nest: {
    label: "Nested boxes",
    help: "Frames of boxes inside each other, growing from a corner or the centre.",
    shelf: "drawings",
    can: ROW,
    properties: {
      ...drawn,
      copies: count("Boxes", [1, 128], 8, 8, "How many there are; a fan is dealt to them."),
      level,
      size: vector(
        "Size",
        "m",
        LENGTH,
        [3, 2, 0.01],
        1.5,
        "Width, height and depth of the outermost at a level of 1.",
      ),
      least: number("Minimum size", "", SHARE, 0.5, 0.5, "Share of its size that each keeps in silence."),
      thickness,
    },
    settings: {
      growsFrom: within(
        "main",
        choice(
          "Origin",
          {
            centre: "centre",
            bottomLeft: "bottom left",
            bottomRight: "bottom right",
            topLeft: "top left",
            topRight: "top right",
          },
          "centre",
          "The point that all of them share.",
        ),
      ),
      ...drawnSettings,
    },
  },
  ribbon: {
    label: "Ribbon",
    help: "The recent past of a strand as a band that streams away.",
    shelf: "drawings",
    can: DRAWING,
    properties: {
      ...solid,
      ...glowing,
      level: { ...level, perCopy: undefined, help: "Its height now: bind a strand." },
      rise,
      width: { ...width, min: 0.01, max: 100, default: 0.6, visible: 0.6, help: "From edge to edge." },
      lasting: number("Lifetime", "s", [0.1, 20, 0.1], 4, 4, "How much of the past is visible."),
      flow: vector("Flow", "m/s", [-100, 100, 0.01], [0, 0, -2], 2, "Velocity of the past."),
    },
    settings: drawnSettings,
  },
} as const satisfies Record<string, ObjectKindDeclaration>;
