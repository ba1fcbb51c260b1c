import { AssetFormatError } from "../errors";

export type PictureFormat = "png" | "jpeg" | "webp";
export interface PictureFacts {
  format: PictureFormat;
  widthPx: number;
  heightPx: number;
}

/** Larger on a side than this, a picture fits into no graphics card that matters. */
export const MOST_SIDE_PX = 8192;
/** Bytes of a picture or model that are taken at most. */
export const MOST_ASSET_BYTES = 64 * 1024 * 1024;

const trouble = (code: string, what: string, where: string, remedy: string) =>
  new AssetFormatError({ code, what, where, remedy });

/**
 * Reads what a picture file says of itself, without decoding it: PNG, JPEG or WebP.
 *
 * @param bytes  its beginning; for JPEG as much as stands before its first frame
 * @param name  for errors
 * @throws AssetFormatError for anything else, for one that is cut short, and for one too large to show
 */
export function readPicture(bytes: Uint8Array, name: string): PictureFacts {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let facts: PictureFacts | undefined;
  try {
    facts = readPng(view) ?? readJpeg(view) ?? readWebp(view);
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    throw trouble(
      "picture-cut-short",
      "the picture ends before it says how large it is",
      name,
      "Save it again and add that file",
    );
  }
  if (!facts) {
    throw trouble(
      "picture-unknown",
      "this is no PNG, JPEG, WebP or SVG picture, whatever its name says",
      name,
      "Save it as one of these and add that file",
    );
  }
  const { widthPx, heightPx } = facts;
  if (widthPx < 1 || heightPx < 1) {
    throw trouble(
      "picture-empty",
      `the picture is ${widthPx} × ${heightPx} pixels`,
      name,
      "Add one that has pixels",
    );
  }
  if (widthPx > MOST_SIDE_PX || heightPx > MOST_SIDE_PX) {
    throw trouble(
      "picture-too-large",
      `the picture is ${widthPx} × ${heightPx} pixels; up to ${MOST_SIDE_PX} on a side can be shown`,
      name,
      "Make it smaller and add that file",
    );
  }
  return facts;
}

function readPng(view: DataView): PictureFacts | undefined {
  if (view.byteLength < 8 || view.getUint32(0) !== 0x89504e47 || view.getUint32(4) !== 0x0d0a1a0a)
    return undefined;
  return { format: "png", widthPx: view.getUint32(16), heightPx: view.getUint32(20) };
}

function readJpeg(view: DataView): PictureFacts | undefined {
  if (view.byteLength < 4 || view.getUint16(0) !== 0xffd8) return undefined;
  for (let at = 2; ; ) {
    if (view.getUint8(at) !== 0xff) {
      at++;
      continue;
    }
    const marker = view.getUint8(at + 1);
    // Frames of all kinds of coding, but for tables and restarts that share their numbers.
    if (marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc) {
      return { format: "jpeg", heightPx: view.getUint16(at + 5), widthPx: view.getUint16(at + 7) };
    }
    const stands = marker === 0xff || marker === 0x01 || (marker >= 0xd0 && marker <= 0xd9);
    at += stands ? (marker === 0xff ? 1 : 2) : 2 + view.getUint16(at + 2);
  }
}

function readWebp(view: DataView): PictureFacts | undefined {
  if (view.byteLength < 16 || view.getUint32(0) !== 0x52494646 || view.getUint32(8) !== 0x57454250)
    return undefined;
  switch (view.getUint32(12)) {
    case 0x56503858: {
      const whole = (at: number) =>
        view.getUint8(at) | (view.getUint8(at + 1) << 8) | (view.getUint8(at + 2) << 16);
      return { format: "webp", widthPx: whole(24) + 1, heightPx: whole(27) + 1 };
    }
    case 0x56503820:
      return {
        format: "webp",
        widthPx: view.getUint16(26, true) & 0x3fff,
        heightPx: view.getUint16(28, true) & 0x3fff,
      };
    case 0x5650384c: {
      const bits = view.getUint32(21, true);
      return { format: "webp", widthPx: (bits & 0x3fff) + 1, heightPx: ((bits >>> 14) & 0x3fff) + 1 };
    }
    default:
      return undefined;
  }
}

/**
 * The size an SVG asks to be drawn at: its width and height, or its view box.
 *
 * @returns `undefined` when it says neither
 */
export function svgSize(text: string): { width: number; height: number } | undefined {
  const [root = ""] = /<svg[^>]*>/i.exec(text) ?? [];
  const length = (name: string) => {
    const [, number] =
      new RegExp(`\\s${name}\\s*=\\s*["']\\s*([\\d.]+)(?:px)?\\s*["']`, "i").exec(root) ?? [];
    return Number(number);
  };
  const [, box = ""] = /\sviewBox\s*=\s*["']([^"']*)["']/i.exec(root) ?? [];
  const [, , boxWidth, boxHeight] = box
    .trim()
    .split(/[\s,]+/)
    .map(Number);
  const [width, height] = [length("width") || boxWidth, length("height") || boxHeight];
  return width > 0 && height > 0 ? { width, height } : undefined;
}
