import type { Scene, StageObject } from "@bumbrel/core/document/scene";
import { MAX_ITEMS, SCENE_FORMAT, SCENE_VERSION } from "@bumbrel/core/document/sceneLimits";
import { OBJECT_KINDS } from "@bumbrel/core/kinds/table";
import type { StagedDocument } from "./stagedDocument";

const AGAIN = "Save the folder for the player again in Deliver, or with bumbrel deliver.";

/**
 * Looks whether a document is whole enough to be shown: it went through other hands since it was checked in full.
 *
 * @returns the document
 * @throws Error saying where the document is broken and what to do
 */
export function checkStaged(document: unknown): StagedDocument & { scene: Scene } {
  if (!isRecord(document)) return broken("", "it is no object");
  const { scene, soundsS } = document;
  if (!isRecord(scene)) return broken("/scene", "it has no scene");
  if (scene.format !== SCENE_FORMAT) return broken("/scene/format", `it is not "${SCENE_FORMAT}"`);
  if (scene.version !== SCENE_VERSION)
    return broken(
      "/scene/version",
      `it is ${scene.version}, and this player shows ${SCENE_VERSION}: install the player that lies beside it`,
    );
  for (const list of Object.keys(MAX_ITEMS)) {
    const items = scene[list];
    if (!Array.isArray(items)) return broken(`/scene/${list}`, "it is no list");
    for (const [i, one] of items.entries())
      if (!isRecord(one)) broken(`/scene/${list}/${i}`, "it is no object");
  }
  for (const key of ["palette", "meeting"] as const satisfies (keyof Scene)[])
    if (!isRecord(scene[key])) broken(`/scene/${key}`, "it is no object");
  if (!isRecord(soundsS)) return broken("/soundsS", "it has no lengths of sounds");
  for (const [id, lengthS] of Object.entries(soundsS))
    if (!Number.isFinite(lengthS)) broken(`/soundsS/${id}`, "it is no number of seconds");
  const checked = document as unknown as StagedDocument & { scene: Scene };
  checkObjects(checked.scene);
  return checked;
}

function checkObjects({ objects, strands, bindings }: Scene): void {
  for (const [i, object] of objects.entries()) {
    const at = `/scene/objects/${i}`;
    if (!Object.hasOwn(OBJECT_KINDS, object.kind))
      broken(`${at}/kind`, `"${object.kind}" is no kind of object`);
    for (const key of ["rest", "settings"] as const satisfies (keyof StageObject)[])
      if (!isRecord(object[key])) broken(`${at}/${key}`, "it is no object");
    for (const [key, value] of Object.entries(object.rest))
      if (![value].flat().every((one) => typeof one === "string" || Number.isFinite(one)))
        broken(`${at}/rest/${key}`, "it is no number, colour or word");
    const { parentId } = object;
    if (parentId !== null && !objects.some(({ id }) => id === parentId))
      broken(`${at}/parentId`, `there is no object "${parentId}"`);
  }
  for (const [i, { objectId, strandId }] of bindings.entries()) {
    const at = `/scene/bindings/${i}`;
    if (!objects.some(({ id }) => id === objectId))
      broken(`${at}/objectId`, `there is no object "${objectId}"`);
    if (!strands.some(({ id }) => id === strandId))
      broken(`${at}/strandId`, `there is no strand "${strandId}"`);
  }
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

function broken(at: string, what: string): never {
  throw new Error(`The scene cannot be shown: at ${at || "the top"} ${what}. ${AGAIN}`);
}
