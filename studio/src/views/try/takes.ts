import type { Asset, Scene } from "@bumbrel/core/document/scene";
import type { Take } from "@bumbrel/core/document/take";
import { takeFromFile, takeToFile } from "@bumbrel/core/document/takeFile";
import { nanoid } from "nanoid";
import { api, assetBytesUrl } from "../../api/client";
import type { Workbench } from "../project/workbench";

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
  workbench: Workbench,
  take: Take,
  name = freeName(workbench.scene),
): Promise<string> {
  take.name = name;
  const bytes = new Blob([JSON.stringify(takeToFile(take))], { type: "application/json" });
  const { id: storedId } = await api.addAsset("take", name, bytes);
  const id = nanoid(10);
  const { tryOut, lengthS } = take;
  workbench.edit(`keep ${name}`, (scene) => {
    scene.assets.push({ id, kind: "take", name, storedId, tryOut, lengthS });
  });
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
  workbench: Workbench,
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
  workbench.edit(`trim ${asset.name}`, (scene) => {
    const kept = scene.assets.find(({ id }) => id === asset.id);
    if (kept?.kind === "take") Object.assign(kept, { storedId, lengthS: part.lengthS });
  });
}

export function renameTake(workbench: Workbench, asset: TakeAsset, name: string): void {
  workbench.edit(`rename ${asset.name}`, (scene) => {
    const kept = scene.assets.find(({ id }) => id === asset.id);
    if (kept) kept.name = name;
  });
}

export function removeTake(workbench: Workbench, asset: TakeAsset): void {
  workbench.edit(`remove ${asset.name}`, (draft) => {
    draft.assets = draft.assets.filter(({ id }) => id !== asset.id);
    if (draft.takeId === asset.id) draft.takeId = null;
  });
}

/** Chooses the take that films and thumbnails show; none with `null`. */
export function chooseTake(workbench: Workbench, id: string | null): void {
  workbench.edit(id === null ? "show no take" : "show a take", (scene) => {
    scene.takeId = id;
  });
}
