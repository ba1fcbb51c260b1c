import { imageSize } from "image-size";
import { AssetFormatError } from "../errors";
import { platform } from "../platform";

export interface ImageFacts {
  format: "png" | "jpeg" | "webp";
  widthPx: number;
  heightPx: number;
}
const FORMATS: Readonly<Record<string, ImageFacts["format"]>> = { png: "png", jpg: "jpeg", webp: "webp" };

/** An image that is larger on a side fits into no common graphics card. */
export const MAX_SIDE_PX = 8192;
/** Most bytes of an image or model that are accepted. */
export const MAX_ASSET_BYTES = 64 * 1024 * 1024;

/**
 * Reads an image file's format and size without decoding it: PNG, JPEG or WebP.
 *
 * @param bytes  its beginning; for JPEG up to its first frame
 * @param name  for errors
 * @throws AssetFormatError for anything else, for one that is cut short, and for one too large to show
 */
export function readImage(bytes: Uint8Array, name: string): ImageFacts {
  const fail = (code: string, what: string, remedy: string) =>
    new AssetFormatError({ code, what, where: name, remedy });
  let size: ReturnType<typeof imageSize>;
  try {
    size = imageSize(bytes);
  } catch (error) {
    const isUnknown = bytes.length === 0 || /unsupported file type/i.test((error as Error).message);
    throw isUnknown
      ? fail(
          "image-unknown",
          "this is no PNG, JPEG, WebP or SVG image, whatever its name says",
          "Save it as one of these and add that file",
        )
      : fail("image-cut-short", "the image ends before its size", "Save it again and add that file");
  }
  const { width: widthPx, height: heightPx, type = "" } = size;
  const format = FORMATS[type];
  if (!format) {
    throw fail(
      "image-unknown",
      `images of the kind ${type || "unknown"} are not read`,
      "Save it as PNG, JPEG or WebP and add that file",
    );
  }
  if (widthPx < 1 || heightPx < 1) {
    throw fail("image-empty", `the image is ${widthPx} × ${heightPx} pixels`, "Add one that has pixels");
  }
  if (widthPx > MAX_SIDE_PX || heightPx > MAX_SIDE_PX) {
    throw fail(
      "image-too-large",
      `the image is ${widthPx} × ${heightPx} pixels; up to ${MAX_SIDE_PX} on a side can be shown`,
      "Make it smaller and add that file",
    );
  }
  return { format, widthPx, heightPx };
}

/** Letters of an SVG's opening tag, and of what may stand before it, that are read. */
const MAX_SVG_HEAD = 16_384;

/**
 * The size an SVG asks to be drawn at: its width and height, or its view box.
 *
 * @param bytes  UTF-8 text
 * @returns `undefined` when it has neither
 */
export function svgSize(bytes: Uint8Array): { width: number; height: number } | undefined {
  // Only the opening tag is read: looking for it takes time that grows with the square of the length.
  const head = new platform.TextDecoder().decode(bytes.subarray(0, MAX_SVG_HEAD));
  const start = head.search(/<svg[\s>]/);
  const end = head.indexOf(">", start);
  if (start < 0 || end < 0) return undefined;
  try {
    const tag = new platform.TextEncoder().encode(`${head.slice(start, end + 1)}</svg>`);
    const { width, height, type } = imageSize(tag);
    return type === "svg" && width > 0 && height > 0 ? { width, height } : undefined;
  } catch {
    return undefined;
  }
}
