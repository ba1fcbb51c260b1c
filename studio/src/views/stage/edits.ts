import type {
  Asset,
  Binding,
  ObjectKind,
  Program,
  RestValue,
  Scene,
  StageObject,
} from "@bumbrel/core/document/scene";
import { newBinding, newObject } from "@bumbrel/core/kinds/create";
import { modelPartProperties } from "@bumbrel/core/kinds/modelParts";
import { paintNew } from "@bumbrel/core/kinds/palette";
import { placeNew } from "@bumbrel/core/kinds/placeNew";
import { programKindOf } from "@bumbrel/core/kinds/programKinds";
import { giveProgram, linkedIn } from "@bumbrel/core/kinds/programs";
import { can, OBJECT_KINDS, propertiesInUse, propertiesOf } from "@bumbrel/core/kinds/table";
import type { SettingValue } from "@bumbrel/core/setting/descriptor";
import { current, isDraft } from "immer";
import { nanoid } from "nanoid";
import type { Workbench } from "../project/workbench";
import { beginProgram } from "./program/programEdits";

/** A name that nothing of the kind has yet: "Box", "Box 2" … */
function freeName(scene: Pick<Scene, "objects">, label: string): string {
  const taken = new Set(scene.objects.map(({ name }) => name));
  if (!taken.has(label)) return label;
  let number = 2;
  while (taken.has(`${label} ${number}`)) number++;
  return `${label} ${number}`;
}

/** Adds an object in the middle of the stage, and gives its id. */
export function addObject(
  workbench: Workbench,
  kind: ObjectKind,
  settings: Record<string, SettingValue> = {},
  name = freeName(workbench.scene, OBJECT_KINDS[kind].label),
): string {
  const id = nanoid(10);
  workbench.edit(`add ${name}`, (scene) => {
    const object = { ...newObject(id, kind, name), settings: { ...settings } };
    paintNew(scene, object);
    placeNew(scene.objects, object);
    scene.objects.push(object);
    // What is nothing without a program begins with a worked one.
    if (programKindOf(kind) !== "surface") beginProgram(scene, object);
  });
  return id;
}

/** Adds an image or model, and an object that shows it; of other files the document only knows from then on. */
export function addAsset(workbench: Workbench, asset: Asset): string {
  const id = nanoid(10);
  if (asset.kind !== "picture" && asset.kind !== "model") {
    workbench.edit(`add ${asset.name}`, (scene) => {
      scene.assets.push(asset);
    });
    return asset.id;
  }
  const { kind } = asset;
  const name = freeName(workbench.scene, asset.name);
  workbench.edit(`add ${name}`, (scene) => {
    scene.assets.push(asset);
    const shows: StageObject["settings"] =
      asset.kind === "picture" ? { pictureId: asset.id } : { modelId: asset.id };
    const object = { ...newObject(id, kind, name), settings: shows, ...ownOf(asset) };
    placeNew(scene.objects, object);
    scene.objects.push(object);
  });
  return id;
}

/** Models with more parts than this have no property for each. */
const MAX_PART_PROPERTIES = 64;

/** Properties of its own that an object gets from what it shows: each part of a model can be shown and hidden. */
function ownOf(asset: Asset | undefined): Pick<StageObject, "own"> {
  if (asset?.kind !== "model") return {};
  const parts = [...new Set(asset.parts)];
  if (parts.length < 2 || parts.length > MAX_PART_PROPERTIES) return {};
  return { own: modelPartProperties(parts) };
}

/** An object as it is in the document now: the interface may hold an older one. */
const currentOf = (workbench: Workbench, object: StageObject): StageObject =>
  workbench.scene.objects.find(({ id }) => id === object.id) ?? object;

/** Puts each part of a model on the stage by itself, together in a group where the model was; gives the group's id. */
export function takeApart(workbench: Workbench, object: StageObject, asset: Asset): string | undefined {
  if (asset.kind !== "model") return undefined;
  const { rest } = currentOf(workbench, object);
  const groupId = nanoid(10);
  workbench.edit(`take ${object.name} apart`, (draft) => {
    const group = newObject(groupId, "group", object.name);
    group.parentId = object.parentId;
    for (const key of ["position", "rotation", "scale"]) {
      if (rest[key] !== undefined) group.rest[key] = structuredClone(rest[key]);
    }
    draft.objects = draft.objects.filter(({ id }) => id !== object.id);
    draft.objects.push(group);
    for (const part of new Set(asset.parts)) {
      draft.objects.push({
        ...newObject(nanoid(10), "model", part.slice(0, 120)),
        parentId: groupId,
        settings: { ...structuredClone(object.settings), part },
      });
    }
    draft.bindings = draft.bindings.flatMap((binding) =>
      binding.objectId !== object.id
        ? [binding]
        : propertiesOf({ kind: "group" })[binding.property]
          ? [{ ...binding, objectId: groupId }]
          : [],
    );
  });
  return groupId;
}

/** Objects and all that is in those of them that are groups. */
export function withInside(scene: Pick<Scene, "objects">, ids: readonly string[]): Set<string> {
  const all = new Set(ids);
  // Groups may stand after what is in them: go over until nothing more is found.
  for (let before = -1; before !== all.size; ) {
    before = all.size;
    for (const { id, parentId } of scene.objects) if (parentId !== null && all.has(parentId)) all.add(id);
  }
  return all;
}

/** Removes objects with what is in them and the bindings that drive them; what used a material has its own again. */
export function removeObjects(workbench: Workbench, ids: readonly string[]): void {
  const gone = withInside(workbench.scene, ids);
  workbench.edit(`remove ${namesOf(workbench.scene, ids)}`, (scene) => {
    scene.objects = scene.objects.filter(({ id }) => !gone.has(id));
    scene.bindings = scene.bindings.filter(({ objectId }) => !gone.has(objectId));
    for (const object of scene.objects) {
      if (gone.has(object.settings.materialId as string)) object.settings.materialId = null;
    }
  });
}

export function namesOf(scene: Pick<Scene, "objects">, ids: readonly string[]): string {
  const [first] = ids;
  if (ids.length === 1) return scene.objects.find(({ id }) => id === first)?.name ?? "it";
  return `${ids.length} objects`;
}

const NAMED = 3;
/** The first of some things by name, and how many more there are. */
export function fewNames(things: readonly { name: string }[]): string {
  const named = things.slice(0, NAMED).map(({ name }) => name);
  const more = things.length - named.length;
  return named.join(", ") + (more > 0 ? ` and ${more} more` : "");
}

/** Adds the object to the document if it is there only because there always is one. */
function ensured(scene: Scene, object: StageObject): StageObject {
  const found = scene.objects.find(({ id }) => id === object.id);
  if (found) return found;
  scene.objects.push({ ...object, rest: { ...object.rest }, settings: { ...object.settings } });
  return scene.objects[scene.objects.length - 1];
}

export function renameObject(workbench: Workbench, object: StageObject, name: string): void {
  workbench.edit(`rename ${object.name}`, (scene) => {
    ensured(scene, object).name = name;
  });
}

/** Changes whether objects are hidden or locked, or which group they are in. */
export function editObjects(
  workbench: Workbench,
  label: string,
  ids: readonly string[],
  change: (object: StageObject) => void,
  gesture?: string,
): void {
  workbench.edit(
    label,
    (scene) => {
      for (const object of scene.objects) if (ids.includes(object.id)) change(object);
    },
    gesture,
  );
}

/** Sets what a property of some objects rests at. */
export function setRest(
  workbench: Workbench,
  objects: readonly StageObject[],
  property: string,
  value: RestValue,
  gesture?: string,
): void {
  workbench.edit(
    `set ${labelOf(objects[0], property)} of ${namesOfAll(objects)}`,
    (scene) => {
      for (const object of objects) ensured(scene, object).rest[property] = structuredClone(value);
    },
    gesture,
  );
}

export function setSetting(
  workbench: Workbench,
  objects: readonly StageObject[],
  setting: string,
  value: SettingValue,
  gesture?: string,
): void {
  workbench.edit(
    `change ${namesOfAll(objects)}`,
    (scene) => {
      for (const object of objects) {
        const target = ensured(scene, object);
        target.settings[setting] = structuredClone(value) as SettingValue;
        if (setting === "modelId") {
          const { own } = ownOf(workbench.scene.assets.find(({ id }) => id === value));
          if (own) target.own = own;
          else delete target.own;
        }
      }
    },
    gesture,
  );
}

const labelOf = (object: StageObject, property: string) =>
  propertiesOf(object)[property]?.label.toLowerCase() ?? property;
const namesOfAll = (objects: readonly StageObject[]) =>
  objects.length === 1 ? objects[0].name : `${objects.length} objects`;

/** Binds a property of some objects to a strand; one that is kicked by it has its cues switched on. */
export function bind(
  workbench: Workbench,
  objects: readonly StageObject[],
  property: string,
  strandId: string,
): void {
  workbench.edit(`bind ${labelOf(objects[0], property)} of ${namesOfAll(objects)}`, (draft) => {
    for (const object of objects) {
      const target = ensured(draft, object);
      if (!propertiesOf(target)[property]) continue;
      const binding = newBinding(nanoid(10), strandId, target, property);
      draft.bindings.push(binding);
      if (binding.mode === "kick") switchCuesOn(draft, strandId);
    }
  });
}

function switchCuesOn(scene: Scene, strandId: string): void {
  const strand = scene.strands.find(({ id }) => id === strandId);
  if (strand) strand.cues.on = true;
}

/** Changes some bindings as one step. */
export function editBindings(
  workbench: Workbench,
  ids: readonly string[],
  label: string,
  change: (binding: Binding) => void,
  gesture?: string,
): void {
  workbench.edit(
    label,
    (draft) => {
      for (const binding of draft.bindings) {
        if (!ids.includes(binding.id)) continue;
        change(binding);
        if (binding.mode === "kick") switchCuesOn(draft, binding.strandId);
      }
    },
    gesture,
  );
}

export function removeBindings(workbench: Workbench, ids: readonly string[]): void {
  workbench.edit(ids.length === 1 ? "remove a binding" : `remove ${ids.length} bindings`, (scene) => {
    scene.bindings = scene.bindings.filter(({ id }) => !ids.includes(id));
  });
}

/** Lets a binding come earlier or later among those of its property. */
export function moveBinding(workbench: Workbench, binding: Binding, by: -1 | 1): void {
  workbench.edit("change the order of bindings", (scene) => {
    const all = scene.bindings;
    const same = all.flatMap((one, i) =>
      one.objectId === binding.objectId && one.property === binding.property ? [i] : [],
    );
    const at = same.findIndex((i) => all[i].id === binding.id);
    const other = same[at + by];
    if (other === undefined) return;
    [all[same[at]], all[other]] = [all[other], all[same[at]]];
  });
}

/** Gives other objects a binding like this one, where they have its property. */
export function copyBinding(workbench: Workbench, binding: Binding, objects: readonly StageObject[]): void {
  workbench.edit(`bind ${namesOfAll(objects)} alike`, (scene) => {
    for (const object of objects) {
      const target = ensured(scene, object);
      if (!(binding.property in propertiesInUse(target))) continue;
      scene.bindings.push({
        ...structuredClone(binding),
        id: nanoid(10),
        objectId: target.id,
      });
    }
  });
}

/** What is copied between projects: objects, and all they need to be what they are. */
export interface Clipping {
  bumbrel: "objects";
  objects: StageObject[];
  bindings: Binding[];
  strands: Scene["strands"];
  assets: Asset[];
  programs: Program[];
}

export function clip(scene: Scene, ids: readonly string[]): Clipping {
  const wanted = withInside(scene, ids);
  for (const { id, settings } of scene.objects) {
    if (wanted.has(id) && typeof settings.materialId === "string") wanted.add(settings.materialId);
  }
  const objects = scene.objects.filter(({ id }) => wanted.has(id));
  const bindings = scene.bindings.filter(({ objectId }) => wanted.has(objectId));
  const used = new Set(bindings.map(({ strandId }) => strandId));
  const shown = new Set(objects.flatMap(({ settings }) => Object.values(settings)));
  const linked = linkedIn({ programs: scene.programs, objects });
  for (const id of [...linked.strand, ...linked.fan]) used.add(id);
  for (const id of linked.picture) shown.add(id);
  return {
    bumbrel: "objects",
    objects,
    bindings,
    strands: scene.strands.filter(({ id }) => used.has(id)),
    assets: scene.assets.filter(({ id }) => shown.has(id)),
    programs: scene.programs.filter(({ id }) => shown.has(id)),
  };
}

/**
 * Puts copied objects on the stage, with new ids. Strands and images that the project does not have come along;
 * such a strand listens to nothing until a sound is chosen for it.
 *
 * @returns ids of the objects that were not in a group among them
 */
export function paste(workbench: Workbench, clipping: Clipping, offset = 0.5): string[] {
  const { objects, bindings, strands, assets, programs } = clipping;
  const ids = new Map(objects.map(({ id }) => [id, nanoid(10)]));
  const tops: string[] = [];
  workbench.edit(`paste ${objects.length === 1 ? objects[0].name : `${objects.length} objects`}`, (draft) => {
    const sounds = new Set([...draft.sounds, ...draft.buses].map(({ id }) => id));
    for (const strand of strands) {
      if (draft.strands.some(({ id }) => id === strand.id)) continue;
      const { listensTo } = strand;
      const isThere =
        listensTo.kind === "strands"
          ? listensTo.ids.every((id) => draft.strands.some((one) => one.id === id))
          : listensTo.kind !== "nothing" && sounds.has(listensTo.id);
      draft.strands.push({
        ...structuredClone(strand),
        listensTo: isThere ? structuredClone(listensTo) : { kind: "nothing" },
      });
    }
    for (const asset of assets) {
      if (!draft.assets.some(({ id }) => id === asset.id)) draft.assets.push(structuredClone(asset));
    }
    for (const program of programs ?? []) {
      if (!draft.programs.some(({ id }) => id === program.id)) draft.programs.push(structuredClone(program));
    }
    for (const object of objects) {
      const copy = structuredClone(object) as StageObject;
      copy.id = ids.get(object.id)!;
      copy.name = freeName(draft, object.name);
      const { materialId } = copy.settings;
      if (typeof materialId === "string") copy.settings.materialId = ids.get(materialId) ?? null;
      const parentId = object.parentId === null ? undefined : ids.get(object.parentId);
      const staysIn = draft.objects.some(({ id, kind }) => id === object.parentId && kind === "group");
      copy.parentId = parentId ?? (staysIn ? object.parentId : null);
      if (parentId === undefined && object.kind !== "material") {
        tops.push(copy.id);
        const at = restingPlace(copy);
        if (at && offset !== 0) copy.rest.position = [at[0] + offset, at[1], at[2] + offset];
      }
      draft.objects.push(copy);
    }
    for (const binding of bindings) {
      draft.bindings.push({
        ...structuredClone(binding),
        id: nanoid(10),
        objectId: ids.get(binding.objectId)!,
      });
    }
  });
  return tops;
}

/** Reads what was copied; nothing for any other text. */
export function readClipping(text: string): Clipping | undefined {
  try {
    const clipping = JSON.parse(text) as Clipping;
    return clipping?.bumbrel === "objects" && Array.isArray(clipping.objects) ? clipping : undefined;
  } catch {
    return undefined;
  }
}

/** Puts objects into a group of their own, about the middle of where they rest; gives its id. */
export function group(workbench: Workbench, objects: readonly StageObject[]): string | undefined {
  const inIt = objects.filter(({ kind }) => can(kind).grouped);
  if (inIt.length === 0) return undefined;
  const id = nanoid(10);
  workbench.edit(`group ${namesOfAll(inIt)}`, (draft) => {
    const made = newObject(id, "group", freeName(draft, OBJECT_KINDS.group.label));
    const parents = new Set(inIt.map(({ parentId }) => parentId));
    made.parentId = parents.size === 1 ? inIt[0].parentId : null;
    const middle = middleOf(
      draft,
      inIt.map((one) => currentOf(workbench, one)),
    );
    if (middle) made.rest.position = middle;
    draft.objects.push(made);
    for (const object of draft.objects) {
      if (!inIt.some((one) => one.id === object.id)) continue;
      object.parentId = id;
      const at = restingPlace(object);
      if (middle && at) object.rest.position = [at[0] - middle[0], at[1] - middle[1], at[2] - middle[2]];
    }
  });
  return id;
}

function restingPlace(object: StageObject): [number, number, number] | undefined {
  const declared = propertiesOf(object).position;
  if (declared?.type !== "vector") return undefined;
  return (object.rest.position as [number, number, number] | undefined) ?? [...declared.default];
}

/** The middle of where objects rest; none while a strand moves one of them to a place of its own. */
function middleOf(scene: Scene, objects: readonly StageObject[]): [number, number, number] | undefined {
  const places = objects.flatMap((object) => [restingPlace(object)].filter((place) => place !== undefined));
  const isMoved = scene.bindings.some(
    ({ objectId, property }) => property === "position" && objects.some(({ id }) => id === objectId),
  );
  if (isMoved || places.length === 0) return undefined;
  const mean = (axis: number) => places.reduce((sum, place) => sum + place[axis], 0) / places.length;
  return [0, 1, 2].map((axis) => Math.round(mean(axis) * 1000) / 1000) as [number, number, number];
}

/** Takes what is in a group out of it, and the group away. */
export function ungroup(workbench: Workbench, object: StageObject): void {
  workbench.edit(`take ${object.name} apart`, (scene) => {
    const shift = (currentOf(workbench, object).rest.position as number[] | undefined) ?? [0, 0, 0];
    for (const one of scene.objects) {
      if (one.parentId !== object.id) continue;
      one.parentId = object.parentId;
      const at = restingPlace(one);
      if (!at) continue;
      one.rest.position = [at[0] + shift[0], at[1] + shift[1], at[2] + shift[2]];
    }
    scene.objects = scene.objects.filter(({ id }) => id !== object.id);
    scene.bindings = scene.bindings.filter(({ objectId }) => objectId !== object.id);
  });
}

/** Gives an object's surface to a material that others may share; gives the material's id. */
export function shareSurface(workbench: Workbench, object: StageObject): string {
  const id = nanoid(10);
  workbench.edit(`make a material of ${object.name}`, (draft) => {
    const target = ensured(draft, object);
    const material = newObject(id, "material", freeName(draft, `${object.name} surface`.slice(0, 110)));
    // The program goes with the surface, and its values with the program.
    const program = draft.programs.find((one) => one.id === target.settings.programId);
    giveProgram(material, program && current(program));
    const owned = propertiesOf(material);
    if (target.links) material.links = { ...target.links };
    for (const [key, value] of Object.entries(target.rest)) if (key in owned) material.rest[key] = value;
    for (const [key, value] of Object.entries(target.settings)) {
      // Lists of a document that is being edited cannot be copied as they are.
      const plain = isDraft(value) ? current(value) : value;
      if (key in OBJECT_KINDS.material.settings) material.settings[key] = plain;
    }
    draft.objects.push(structuredClone(material));
    giveProgram(target, undefined);
    delete target.links;
    target.settings.materialId = id;
    for (const binding of draft.bindings) {
      if (binding.objectId === object.id && binding.property in owned) binding.objectId = id;
    }
  });
  return id;
}

/** Gives an object a surface of its own, as the shared one is. */
export function ownSurface(workbench: Workbench, object: StageObject): void {
  const { objects, bindings } = workbench.scene;
  const material = objects.find(({ id }) => id === object.settings.materialId);
  workbench.edit(`give ${object.name} a surface of its own`, (draft) => {
    const target = ensured(draft, object);
    target.settings.materialId = null;
    if (!material) return;
    Object.assign(target.rest, structuredClone(material.rest));
    Object.assign(target.settings, structuredClone(material.settings));
    giveProgram(
      target,
      workbench.scene.programs.find((one) => one.id === material.settings.programId),
    );
    if (material.links) target.links = { ...material.links };
    for (const binding of bindings.filter(({ objectId }) => objectId === material.id)) {
      draft.bindings.push({ ...structuredClone(binding), id: nanoid(10), objectId: object.id });
    }
  });
}
