import type { Asset, Scene } from "@bumbrel/core/document/scene";
import type { Take } from "@bumbrel/core/document/take/take";
import { takeFromFile, takeToFile } from "@bumbrel/core/document/take/takeFile";
import { nanoid } from "nanoid";
import { api, assetBytesUrl } from "../../api/client";
import { dispatch, type Editable } from "./dispatch";

export type TakeAsset = Extract<Asset, { kind: "take" }>;

/** The takes that a project keeps, the newest first. */
export const takesOf = (scene: Pick<Scene, "assets">): TakeAsset[] =>
  scene.assets.filter((asset): asset is TakeAsset => asset.kind === "take").reverse();

/** A name that no take has yet. */
function freeName(scene: Scene): string {
  const taken = new Set(takesOf(scene).map(({ name }) => name));
  let number = taken.size + 1;
  while (taken.has(`Take ${number}`)) number++;
  return `Take ${number}`;
}

/** Stores a take and lists it in the project; gives its id. */
export async function keepTake(
  document: Editable,
  take: Take,
  name = freeName(document.scene),
): Promise<string> {
  take.name = name;
  const bytes = new Blob([JSON.stringify(takeToFile(take))], { type: "application/json" });
  const { id: storedId } = await api.addAsset("take", name, bytes);
  const id = nanoid(10);
  const { tryOut, lengthS } = take;
  dispatch(document, "addAsset", { asset: { id, kind: "take", name, storedId, tryOut, lengthS } });
  return id;
}

/** Fetches a take that a project keeps. */
export async function fetchTake({ storedId, name }: TakeAsset): Promise<Take> {
  const response = await fetch(assetBytesUrl(storedId));
  if (!response.ok) throw new Error(`“${name}” did not arrive. Check that the server runs, and try again.`);
  return takeFromFile(await response.json());
}

/** Stores a part of a take in its place. */
export async function trimTake(
  document: Editable,
  asset: TakeAsset,
  fromS: number,
  toS: number,
): Promise<void> {
  const whole = await fetchTake(asset);
  const steps = (timeS: number) => Math.round(timeS * 120);
  const part = whole.trimmed(steps(fromS), Math.min(whole.lengthSteps, steps(toS)));
  part.name = asset.name;
  const bytes = new Blob([JSON.stringify(takeToFile(part))], { type: "application/json" });
  const { id: storedId } = await api.addAsset("take", asset.name, bytes);
  dispatch(document, "trimTake", { assetId: asset.id, storedId, lengthS: part.lengthS });
}

export const renameTake = (document: Editable, { id }: TakeAsset, name: string): void =>
  dispatch(document, "renameAsset", { assetId: id, name });

export const removeTake = (document: Editable, { id }: TakeAsset): void =>
  dispatch(document, "removeTake", { assetId: id });

/** Chooses the take that films and thumbnails show; none with `null`. */
export const chooseTake = (document: Editable, id: string | null): void =>
  dispatch(document, "chooseTake", { assetId: id });
