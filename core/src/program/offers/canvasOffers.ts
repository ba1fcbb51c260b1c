import type { Offer } from "./glslOffers";

/** Something that a drawing may do with its canvas: the standard's own 2D context, as far as it is the same everywhere. */
export interface CanvasOffer extends Omit<Offer, "code"> {
  /** Recorded form: a call with so many numbers, one with words before them, or a value that is set. */
  records: { numbers: number; words?: true } | { value: number | string };
}

const call = (name: string, parameters: string, help: string, words?: true): CanvasOffer => ({
  name,
  signature: `${name}(${parameters}): void`,
  help,
  records: {
    numbers: parameters === "" ? 0 : parameters.split(",").length - (words ? 1 : 0),
    ...(words && { words }),
  },
});
const value = (name: string, type: string, start: number | string, help: string): CanvasOffer => ({
  name,
  signature: `${name}: ${type}`,
  help,
  records: { value: start },
});
const list = (...names: string[]) => names.map((name) => `${name}: number`).join(", ");

/**
 * Canvas calls that drawings may make, in the order it is numbered in recordings: the one table that the recorder in
 * the sandbox, the player, completion, type checks and docs read.
 */
export const CANVAS_OFFERS: readonly CanvasOffer[] = [
  call("fillRect", list("x", "y", "width", "height"), "Fills a rectangle."),
  call("strokeRect", list("x", "y", "width", "height"), "Draws the outline of a rectangle."),
  call("clearRect", list("x", "y", "width", "height"), "Empties a rectangle."),
  call("beginPath", "", "Begins another path."),
  call("closePath", "", "Closes the path back to where it began."),
  call("moveTo", list("x", "y"), "Goes to a point without a line."),
  call("lineTo", list("x", "y"), "Draws a line to a point."),
  call("quadraticCurveTo", list("cx", "cy", "x", "y"), "Draws a curve with one handle."),
  call("bezierCurveTo", list("ax", "ay", "bx", "by", "x", "y"), "Draws a curve with two handles."),
  call(
    "arc",
    `${list("x", "y", "radius", "from", "to")}, backwards?: boolean`,
    "Draws part of a circle; angles are in radians.",
  ),
  call("arcTo", list("ax", "ay", "bx", "by", "radius"), "Draws a rounded corner."),
  call(
    "ellipse",
    `${list("x", "y", "radiusX", "radiusY", "rotation", "from", "to")}, backwards?: boolean`,
    "Draws part of an ellipse; angles are in radians.",
  ),
  call("rect", list("x", "y", "width", "height"), "Adds a rectangle to the path."),
  call("roundRect", list("x", "y", "width", "height", "radius"), "Adds a rectangle with round corners."),
  call("fill", "", "Fills the path."),
  call("stroke", "", "Draws the path’s outline."),
  call("clip", "", "Draws only inside the path from now on."),
  call("save", "", "Remembers styles, transform and clip."),
  call("restore", "", "Goes back to what was remembered last."),
  call("translate", list("x", "y"), "Moves what is drawn from now on."),
  call("rotate", list("angle"), "Turns what is drawn from now on, in radians."),
  call("scale", list("x", "y"), "Scales what is drawn from now on."),
  call("transform", list("a", "b", "c", "d", "e", "f"), "Multiplies the transform by a matrix."),
  call("setTransform", list("a", "b", "c", "d", "e", "f"), "Sets the transform to a matrix."),
  call("resetTransform", "", "Sets the transform back."),
  call("fillText", `text: string, ${list("x", "y")}`, "Writes words.", true),
  call("strokeText", `text: string, ${list("x", "y")}`, "Writes the outlines of words.", true),
  value("fillStyle", "string | Gradient", "#000000", "What is filled with: a colour or a gradient."),
  value("strokeStyle", "string | Gradient", "#000000", "What lines are drawn with: a colour or a gradient."),
  value("lineWidth", "number", 1, "Width of lines, in pixels."),
  value("lineCap", '"butt" | "round" | "square"', "butt", "Ends of lines."),
  value("lineJoin", '"bevel" | "round" | "miter"', "miter", "Corners of lines."),
  value("miterLimit", "number", 10, "How far pointed corners may reach."),
  value("lineDashOffset", "number", 0, "Where dashes begin, in pixels."),
  value("globalAlpha", "number", 1, "Opacity of everything, 0 to 1."),
  value(
    "globalCompositeOperation",
    "string",
    "source-over",
    "How it joins what is there: lighter, screen, multiply …",
  ),
  value("shadowColor", "string", "#00000000", "Colour of shadows."),
  value("shadowBlur", "number", 0, "Blur of shadows, in pixels."),
  value("shadowOffsetX", "number", 0, "Shadows to the right, in pixels."),
  value("shadowOffsetY", "number", 0, "Shadows down, in pixels."),
  value("font", "string", "10px sans-serif", "Font of words: 32px sans-serif."),
  value("textAlign", '"left" | "center" | "right"', "left", "Where words stand across."),
  value(
    "textBaseline",
    '"top" | "middle" | "alphabetic" | "bottom"',
    "alphabetic",
    "Where words stand up and down.",
  ),
];

/** Calls that take more than numbers, after those of {@link CANVAS_OFFERS} in recordings. */
export const CANVAS_SPECIALS = [
  {
    name: "setLineDash",
    signature: "setLineDash(lengths: readonly number[]): void",
    help: "Lengths of dashes and gaps, in pixels; none for whole lines.",
  },
  {
    name: "drawImage",
    signature: `drawImage(picture: Picture, ${list("x", "y", "width", "height")}): void`,
    help: "Draws an image of the project.",
  },
  {
    name: "createLinearGradient",
    signature: `createLinearGradient(${list("x0", "y0", "x1", "y1")}): Gradient`,
    help: "A gradient along a line.",
  },
  {
    name: "createRadialGradient",
    signature: `createRadialGradient(${list("x0", "y0", "r0", "x1", "y1", "r1")}): Gradient`,
    help: "A gradient between two circles.",
  },
  {
    name: "createConicGradient",
    signature: `createConicGradient(${list("angle", "x", "y")}): Gradient`,
    help: "A gradient around a point.",
  },
] as const satisfies readonly Omit<Offer, "code">[];
/** The kinds of gradient in recordings, by how many numbers each takes. */
export const GRADIENTS = [
  { name: "createLinearGradient", numbers: 4 },
  { name: "createRadialGradient", numbers: 6 },
  { name: "createConicGradient", numbers: 3 },
] as const;

const FIRST_SPECIAL = CANVAS_OFFERS.length;
/** Numbers of what is recorded beside {@link CANVAS_OFFERS}: each is followed by how long it is, and then its numbers. */
export const SPECIAL = {
  lineDash: FIRST_SPECIAL,
  image: FIRST_SPECIAL + 1,
  /** Sets fillStyle (0) or strokeStyle (1) to a gradient: its kind, its numbers, then place and colour of each stop. */
  gradient: FIRST_SPECIAL + 2,
} as const;

/** Numbers of a recording at most; it begins with how many there are, then how many words have been used. */
export const MOST_RECORDED = 1 << 17;
export const RECORDING_HEAD = 2;
