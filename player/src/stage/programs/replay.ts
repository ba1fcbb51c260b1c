import { CANVAS_OFFERS, GRADIENTS, RECORDING_HEAD, SPECIAL } from "@bumbrel/core/program/offers/canvasOffers";

type Canvas2D = OffscreenCanvasRenderingContext2D;
/** A canvas by the names of what is called and set. */
type Named = Record<string, unknown> & Record<string, (...all: unknown[]) => void>;

interface Step {
  name: string;
  numbers: number;
  kind: "call" | "words" | "number" | "text";
}
const STEPS: readonly Step[] = CANVAS_OFFERS.map(({ name, records }) =>
  "value" in records
    ? { name, numbers: 1, kind: typeof records.value === "number" ? "number" : "text" }
    : { name, numbers: records.numbers, kind: records.words ? "words" : "call" },
);

/**
 * Does on a canvas what a drawing has recorded.
 *
 * @param tape  as the recorder in the sandbox writes it
 * @param words  texts and colours by their numbers
 * @param pictures  images by their numbers
 */
export function replay(
  canvas: Canvas2D,
  tape: Float64Array,
  words: readonly string[],
  pictures: readonly (CanvasImageSource | undefined)[],
): void {
  const named = canvas as unknown as Named;
  const end = Math.min(tape.length, tape[0]);
  for (let at = RECORDING_HEAD; at < end; ) {
    const number = tape[at++];
    const step = STEPS[number];
    if (!step) {
      at = special(canvas, number, tape, at, words, pictures);
      continue;
    }
    const { name, numbers, kind } = step;
    if (kind === "number") named[name] = tape[at] as never;
    else if (kind === "text") named[name] = words[tape[at]] as never;
    else if (kind === "words") named[name](words[tape[at]], tape[at + 1], tape[at + 2]);
    else if (numbers === 4) named[name](tape[at], tape[at + 1], tape[at + 2], tape[at + 3]);
    else if (numbers === 2) named[name](tape[at], tape[at + 1]);
    else if (numbers === 0) named[name]();
    else callWithMany(canvas, name, tape, at, numbers);
    at += numbers + (kind === "words" ? 1 : 0);
  }
}

function callWithMany(canvas: Canvas2D, name: string, tape: Float64Array, at: number, numbers: number): void {
  const values: (number | boolean)[] = [...tape.subarray(at, at + numbers)];
  // The last of these says which way it goes; without it the number is none.
  if (name === "arc" || name === "ellipse") values[numbers - 1] = values[numbers - 1] === 1;
  try {
    (canvas as unknown as Named)[name](...values);
  } catch {
    // A radius below 0 draws nothing.
  }
}

/** @returns where the next step begins */
function special(
  canvas: Canvas2D,
  number: number,
  tape: Float64Array,
  at: number,
  words: readonly string[],
  pictures: readonly (CanvasImageSource | undefined)[],
): number {
  const length = tape[at];
  const values = tape.subarray(at + 1, at + 1 + length);
  try {
    if (number === SPECIAL.lineDash) canvas.setLineDash([...values]);
    if (number === SPECIAL.image) {
      const picture = pictures[values[0]];
      if (picture) canvas.drawImage(picture, values[1], values[2], values[3], values[4]);
    }
    if (number === SPECIAL.gradient) useGradient(canvas, values, words);
  } catch {
    // A call that the canvas rejects draws nothing.
  }
  return at + 1 + length;
}

function useGradient(canvas: Canvas2D, values: Float64Array, words: readonly string[]): void {
  const { name, numbers } = GRADIENTS[values[1]];
  const make = (canvas as unknown as Record<string, (...all: number[]) => CanvasGradient>)[name];
  const gradient = make.apply(canvas, [...values.subarray(2, 2 + numbers)]);
  for (let i = 2 + numbers; i + 1 < values.length; i += 2) {
    gradient.addColorStop(values[i], words[values[i + 1]]);
  }
  if (values[0] === 0) canvas.fillStyle = gradient;
  else canvas.strokeStyle = gradient;
}
