import { AssetFormatError } from "@bumbrel/core/errors";
import { svgSize } from "@bumbrel/core/format/image";
import { initWasm, Resvg } from "@resvg/resvg-wasm";

/** Pixels on the longer side that an SVG, which has none of its own, is drawn at. */
const SVG_SIDE_PX = 2048;

let ready: Promise<void> | undefined;

/**
 * Draws an SVG once, where neither its scripts nor its links do anything.
 *
 * @param wasm  the module that draws
 * @param font  what its texts are set in, whatever they ask for
 * @returns a PNG
 * @throws AssetFormatError when it does not say how large it is, or cannot be drawn
 */
export async function drawSvg(
  text: string,
  name: string,
  wasm: Uint8Array,
  font: Uint8Array,
): Promise<Uint8Array> {
  const fail = (what: string) =>
    new AssetFormatError({
      code: "svg-unreadable",
      what,
      where: name,
      remedy: "Save it as PNG and add that file",
    });
  const size = svgSize(new TextEncoder().encode(text));
  if (!size) throw fail("the SVG does not say how large it is");
  ready ??= initWasm(wasm as Uint8Array<ArrayBuffer>);
  await ready;
  const isWide = size.width >= size.height;
  try {
    const image = new Resvg(text, {
      fitTo: { mode: isWide ? "width" : "height", value: SVG_SIDE_PX },
      font: { fontBuffers: [font], defaultFontFamily: "Atkinson Hyperlegible Next" },
    }).render();
    return image.asPng();
  } catch {
    throw fail("the SVG is broken, or too intricate, and cannot be drawn");
  }
}
