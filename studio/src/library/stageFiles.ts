import type { Asset } from "@bumbrel/core/document/scene";
import { BumbrelError } from "@bumbrel/core/errors";
import fontUrl from "@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-600-normal.woff?url";
import { assetBytesUrl } from "../api/client";
import { workerReader } from "./readAsset";

/** Models that have been looked at: what is stored under an id never changes. */
const readModels = new Set<string>();

/** Fetches the file of an image, a model or a take. @throws BumbrelError when it does not arrive, or cannot be read */
export async function fetchAsset({ storedId, kind, name }: Asset): Promise<ArrayBuffer> {
  const response = await fetch(assetBytesUrl(storedId)).catch(() => undefined);
  if (!response?.ok) {
    throw new BumbrelError({
      code: "asset-missing",
      what: "its file did not arrive",
      where: "",
      remedy: "Check that the server runs and open the view again, or add the file again",
    });
  }
  const bytes = await response.arrayBuffer();
  if (kind === "model" && !readModels.has(storedId)) {
    await workerReader.model(new Uint8Array(bytes), name);
    readModels.add(storedId);
  }
  return bytes;
}

/** The font of the words on a stage. */
export const fetchFont = async () => (await fetch(fontUrl)).arrayBuffer();
