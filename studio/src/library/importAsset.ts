import type { Asset } from "@bumbrel/core/document/scene";
import { AssetFormatError } from "@bumbrel/core/errors";
import { MAX_ASSET_BYTES, readImage, svgSize } from "@bumbrel/core/format/image";
import { nanoid } from "nanoid";
import { api } from "../api/client";

/** Pixels on the longer side that an SVG, which has none of its own, is drawn at. */
const SVG_SIDE_PX = 2048;
/** Text of an SVG that is read at most. */
const MAX_SVG_BYTES = 8 * 1024 * 1024;

/** What files a person may choose for each. */
export const ASSET_TYPES = {
  picture: "image/png,image/jpeg,image/webp,image/svg+xml,.png,.jpg,.jpeg,.webp,.svg",
  model: "model/gltf-binary,.glb,.gltf",
};

/**
 * Brings an image or model in: checks it, stores it, and gives what the document keeps of it. An SVG is drawn once,
 * where neither its scripts nor its links do anything, and only the pixels are kept.
 *
 * @throws AssetFormatError for what is broken, too large or not what it says
 */
export async function importAsset(file: File, kind: Asset["kind"]): Promise<Asset> {
  const name = (file.name.replace(/\.[^.]+$/, "") || kind).slice(0, 120);
  if (file.size > MAX_ASSET_BYTES) {
    throw new AssetFormatError({
      code: "asset-too-large",
      what: `the file has ${Math.round(file.size / 2 ** 20)} MB; up to ${MAX_ASSET_BYTES / 2 ** 20} MB are taken`,
      where: file.name,
      remedy: "Make it smaller and add that file",
    });
  }
  const common = { id: nanoid(10), name };
  if (kind === "model") {
    // Models are rare: their reader is loaded with the first.
    const { readModel } = await import("@bumbrel/core/format/model");
    const { parts, triangles } = await readModel(new Uint8Array(await file.arrayBuffer()), file.name);
    const { id: storedId } = await api.addAsset("model", name, file);
    return { ...common, kind, storedId, parts, triangles };
  }
  const isSvg = /\.svg$/i.test(file.name) || file.type === "image/svg+xml";
  const image = isSvg ? await drawSvg(file) : file;
  const bytes = new Uint8Array(await image.arrayBuffer());
  const { widthPx, heightPx } = readImage(bytes, file.name);
  await assertDecodes(image, file.name);
  const { id: storedId } = await api.addAsset("picture", name, image);
  return { ...common, kind, storedId, widthPx, heightPx };
}

/** The headers of an image can be right and the rest broken. */
async function assertDecodes(image: Blob, name: string): Promise<void> {
  try {
    (await createImageBitmap(image)).close();
  } catch {
    throw new AssetFormatError({
      code: "image-broken",
      what: "the image is broken: it begins as one but cannot be decoded",
      where: name,
      remedy: "Save it again and add that file",
    });
  }
}

async function drawSvg(file: File): Promise<Blob> {
  const fail = (what: string) =>
    new AssetFormatError({
      code: "svg-unreadable",
      what,
      where: file.name,
      remedy: "Save it as PNG and add that file",
    });
  if (file.size > MAX_SVG_BYTES) throw fail("the SVG is too large to be drawn");
  const text = await file.text();
  const size = svgSize(new TextEncoder().encode(text));
  if (!size) throw fail("the SVG does not say how large it is");
  const scale = SVG_SIDE_PX / Math.max(size.width, size.height);
  const canvas = document.createElement("canvas");
  canvas.width = Math.max(1, Math.round(size.width * scale));
  canvas.height = Math.max(1, Math.round(size.height * scale));
  const url = URL.createObjectURL(new Blob([text], { type: "image/svg+xml" }));
  try {
    const image = new Image();
    await new Promise<void>((resolve, reject) => {
      image.onload = () => resolve();
      image.onerror = () => reject(fail("the SVG is broken and cannot be drawn"));
      image.src = url;
    });
    canvas.getContext("2d")!.drawImage(image, 0, 0, canvas.width, canvas.height);
  } finally {
    URL.revokeObjectURL(url);
  }
  return new Promise((resolve, reject) =>
    canvas.toBlob((blob) => (blob ? resolve(blob) : reject(fail("the SVG cannot be drawn"))), "image/png"),
  );
}
