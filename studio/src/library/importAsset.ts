import type { Asset } from "@bumbrel/core/document/scene";
import { takeFromFile } from "@bumbrel/core/document/take/takeFile";
import { AssetFormatError } from "@bumbrel/core/errors";
import { MAX_ASSET_BYTES, readImage } from "@bumbrel/core/format/image";
import { nanoid } from "nanoid";
import { api } from "../api/client";
import { type AssetReader, workerReader } from "./readAsset";

/** Text of an SVG that is read at most. */
const MAX_SVG_BYTES = 8 * 1024 * 1024;

/** Files that can be chosen for each. */
export const ASSET_TYPES = {
  picture: "image/png,image/jpeg,image/webp,image/svg+xml,.png,.jpg,.jpeg,.webp,.svg",
  model: "model/gltf-binary,.glb,.gltf",
  panorama: ".hdr,.exr,.ktx2",
  lut: ".cube",
};

/**
 * Brings an image or model in: checks it, stores it, and gives what the document keeps of it. An SVG is drawn once,
 * where neither its scripts nor its links do anything, and only the pixels are kept.
 *
 * @throws AssetFormatError for what is broken, too large or not what it says
 */
export async function importAsset(
  file: File,
  kind: Asset["kind"],
  signal?: AbortSignal,
  reader: AssetReader = workerReader,
): Promise<Asset> {
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
    const bytes = new Uint8Array(await file.arrayBuffer());
    const { parts, triangles } = await reader.model(bytes, file.name, signal);
    const { id: storedId } = await api.addAsset("model", name, file, signal);
    return { ...common, kind, storedId, parts, triangles };
  }
  if (kind === "take") return { ...common, ...(await importTake(file, name, signal)) };
  if (kind === "panorama" || kind === "lut") {
    if (kind === "lut") assertLut(await file.slice(0, 4096).text(), file.name);
    const { id: storedId } = await api.addAsset(kind, name, file, signal);
    return { ...common, kind, storedId };
  }
  const isSvg = /\.svg$/i.test(file.name) || file.type === "image/svg+xml";
  const image = isSvg ? await drawn(file, reader, signal) : file;
  const bytes = new Uint8Array(await image.arrayBuffer());
  const { widthPx, heightPx } = readImage(bytes, file.name);
  await assertDecodes(image, file.name);
  const { id: storedId } = await api.addAsset("picture", name, image, signal);
  return { ...common, kind, storedId, widthPx, heightPx };
}

/** Takes are checked by the server, which reads them whole. */
async function importTake(file: File, name: string, signal?: AbortSignal) {
  const { id: storedId } = await api.addAsset("take", name, file, signal);
  const take = takeFromFile(JSON.parse(await file.text()));
  return { kind: "take", storedId, lengthS: take.lengthS, tryOut: take.tryOut } as const;
}

/** Its size stands near the beginning of a LUT file. */
function assertLut(start: string, name: string): void {
  if (/^\s*LUT_3D_SIZE\s+\d+/m.test(start)) return;
  throw new AssetFormatError({
    code: "lut-unknown",
    what: "this is no three-dimensional LUT: it has no line with LUT_3D_SIZE",
    where: name,
    remedy: "Save it as a 3D LUT in the .cube format and add that file",
  });
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

async function drawn(file: File, reader: AssetReader, signal?: AbortSignal): Promise<Blob> {
  if (file.size > MAX_SVG_BYTES) {
    throw new AssetFormatError({
      code: "svg-too-large",
      what: "the SVG is too large to be drawn",
      where: file.name,
      remedy: "Save it as PNG and add that file",
    });
  }
  const png = await reader.svg(await file.text(), file.name, signal);
  return new Blob([png as Uint8Array<ArrayBuffer>], { type: "image/png" });
}
