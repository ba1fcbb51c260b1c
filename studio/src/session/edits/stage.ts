import type { Asset, Binding, ObjectKind, RestValue, Scene, StageObject } from "@bumbrel/core/document/scene";
import { changeBindings } from "@bumbrel/core/edit/bindingEdits";
import { type Clipping, topsOf } from "@bumbrel/core/edit/paste";
import { can } from "@bumbrel/core/kinds/table";
import type { SettingValue } from "@bumbrel/core/setting/descriptor";
import { nanoid } from "nanoid";
import { dispatch, type Editable } from "./dispatch";

const idsOf = (objects: readonly StageObject[]) => objects.map(({ id }) => id);
const freshIds = (list: readonly unknown[]) => list.map(() => nanoid(10));

/** Adds an object in the middle of the stage, and gives its id. */
export function addObject(
  document: Editable,
  kind: ObjectKind,
  settings: Record<string, SettingValue> = {},
  name?: string,
): string {
  const id = nanoid(10);
  dispatch(document, "addObject", { id, kind, settings, programId: nanoid(10), ...(name && { name }) });
  return id;
}

/** Adds an image or model, and an object that shows it; of other files the document only knows from then on. */
export function addAsset(document: Editable, asset: Asset): string {
  const isShown = asset.kind === "picture" || asset.kind === "model";
  const objectId = nanoid(10);
  dispatch(document, "addAsset", { asset, ...(isShown && { objectId }) });
  return isShown ? objectId : asset.id;
}

/** Puts each part of a model on the stage by itself, together in a group where the model was; gives the group's id. */
export function takeApart(document: Editable, object: StageObject, asset: Asset): string | undefined {
  if (asset.kind !== "model") return undefined;
  const groupId = nanoid(10);
  const partIds = freshIds(asset.parts);
  dispatch(document, "takeModelApart", { objectId: object.id, groupId, partIds });
  return groupId;
}

/** Removes objects with what is in them and the bindings that drive them; what used a material has its own again. */
export const removeObjects = (document: Editable, objectIds: readonly string[]): void =>
  dispatch(document, "removeObjects", { objectIds: [...objectIds] });

const NAMED = 3;
/** The first of some things by name, and how many more there are. */
export function fewNames(things: readonly { name: string }[]): string {
  const named = things.slice(0, NAMED).map(({ name }) => name);
  const more = things.length - named.length;
  return named.join(", ") + (more > 0 ? ` and ${more} more` : "");
}

export const renameObject = (document: Editable, { id }: StageObject, name: string): void =>
  dispatch(document, "renameObject", { objectId: id, name });

/** Changes whether objects are hidden or locked, or which group they are in. */
export function editObjects(
  document: Editable,
  label: string,
  ids: readonly string[],
  change: (object: StageObject) => void,
  gesture?: string,
): void {
  const recipe = ({ objects }: Scene) => {
    for (const object of objects) if (ids.includes(object.id)) change(object);
  };
  document.edit(label, recipe, gesture);
}

/** Sets the value that a property of some objects rests at. */
export const setRest = (
  document: Editable,
  objects: readonly StageObject[],
  property: string,
  value: RestValue,
  gesture?: string,
): void => dispatch(document, "setRest", { objectIds: idsOf(objects), property, value }, gesture);

export const setSetting = (
  document: Editable,
  objects: readonly StageObject[],
  setting: string,
  value: SettingValue,
  gesture?: string,
): void => dispatch(document, "setSetting", { objectIds: idsOf(objects), setting, value }, gesture);

/** Binds a property of some objects to a strand; one that is kicked by it has its cues switched on. */
export const bind = (
  document: Editable,
  objects: readonly StageObject[],
  property: string,
  strandId: string,
): void =>
  dispatch(document, "bind", { ids: freshIds(objects), objectIds: idsOf(objects), property, strandId });

/** Changes some bindings as one step. */
export const editBindings = (
  document: Editable,
  ids: readonly string[],
  label: string,
  change: (binding: Binding) => void,
  gesture?: string,
): void => document.edit(label, (draft) => changeBindings(draft, ids, change), gesture);

export const removeBindings = (document: Editable, bindingIds: readonly string[]): void =>
  dispatch(document, "removeBindings", { bindingIds: [...bindingIds] });

/** Lets a binding come earlier or later among those of its property. */
export const moveBinding = (document: Editable, { id }: Binding, by: -1 | 1): void =>
  dispatch(document, "moveBinding", { bindingId: id, by });

/** Gives other objects a binding like this one, where they have its property. */
export const copyBinding = (document: Editable, { id }: Binding, objects: readonly StageObject[]): void =>
  dispatch(document, "copyBinding", {
    bindingId: id,
    objectIds: idsOf(objects),
    ids: freshIds(objects),
  });

/**
 * Puts copied objects on the stage, with new ids.
 *
 * @returns ids of the objects that were not in a group among them
 */
export function paste(document: Editable, clipping: Clipping, offset = 0.5): string[] {
  const copied = [...clipping.objects, ...clipping.bindings];
  const ids = Object.fromEntries(copied.map(({ id }) => [id, nanoid(10)]));
  dispatch(document, "paste", { clipping, ids, offset });
  return topsOf(clipping).map(({ id }) => ids[id]);
}

/** Puts objects into a group of their own, about the middle of where they rest; gives its id. */
export function group(document: Editable, objects: readonly StageObject[]): string | undefined {
  const inside = objects.filter(({ kind }) => can(kind).grouped);
  if (inside.length === 0) return undefined;
  const id = nanoid(10);
  dispatch(document, "group", { id, objectIds: idsOf(inside) });
  return id;
}

/** Takes everything out of a group, and the group away. */
export const ungroup = (document: Editable, { id }: StageObject): void =>
  dispatch(document, "ungroup", { objectId: id });

/** Gives an object's surface to a material that others may share; gives the material's id. */
export function shareSurface(document: Editable, object: StageObject): string {
  const id = nanoid(10);
  dispatch(document, "shareSurface", { id, objectId: object.id });
  return id;
}

/** Gives an object a surface of its own, as the shared one is. */
export function ownSurface(document: Editable, object: StageObject): void {
  const { bindings } = document.scene;
  const shared = bindings.filter(({ objectId }) => objectId === object.settings.materialId);
  dispatch(document, "ownSurface", { objectId: object.id, bindingIds: freshIds(shared) });
}
