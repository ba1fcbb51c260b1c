import { Type } from "@sinclair/typebox";
import type { Asset, RestValue, Scene, StageObject } from "../document/scene";
import { copyOf } from "../document/versions/copyOf";
import { newObject, withSingletons } from "../kinds/create";
import { modelPartProperties } from "../kinds/modelParts";
import { paintNew } from "../kinds/palette";
import { placeNew } from "../kinds/placeNew";
import { programKindOf } from "../kinds/programKinds";
import { OBJECT_KIND_NAMES, OBJECT_KINDS, propertiesOf } from "../kinds/table";
import type { SettingValue } from "../setting/descriptor";
import { MAX_NAME_LENGTH, Name, oneOf } from "../setting/schema";
import { freeName, fresh, known, knownMany, merge, namedEdit, nameOf, part, withId } from "./namedEdit";
import { beginProgram } from "./programEdits";

/** Models with more parts than this have no property for each. */
const MAX_PART_PROPERTIES = 64;

/** Properties of its own that an object gets from what it shows: each part of a model can be shown and hidden. */
function ownOf(asset: Asset | undefined): Pick<StageObject, "own"> {
  if (asset?.kind !== "model") return {};
  const parts = [...new Set(asset.parts)];
  if (parts.length < 2 || parts.length > MAX_PART_PROPERTIES) return {};
  return { own: modelPartProperties(parts) };
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

/** The name of an object, or the number of several. */
export function objectNames({ objects }: Pick<Scene, "objects">, ids: readonly string[]): string {
  return ids.length === 1 ? nameOf(withSingletons(objects), ids[0], "it") : `${ids.length} objects`;
}

/** An object of the document; one that every scene has is written into it when it is first changed. */
export function objectOf(draft: Scene, id: string): StageObject | undefined {
  const found = withId(draft.objects, id);
  if (found) return found;
  const unmentioned = withId(withSingletons(draft.objects), id);
  if (!unmentioned) return undefined;
  draft.objects.push(copyOf(unmentioned));
  return draft.objects[draft.objects.length - 1];
}

/** The label of a property of an object, in a sentence. */
export function propertyLabel(scene: Scene, objectId: string, property: string): string {
  const object = withId(withSingletons(scene.objects), objectId);
  return (object && propertiesOf(object)[property]?.label.toLowerCase()) ?? property;
}

/** Edits of objects. */
export const OBJECT_EDITS = {
  addObject: namedEdit({
    help: "Adds an object in the middle of the stage, where nothing stands yet.",
    args: {
      id: fresh("object"),
      kind: oneOf(OBJECT_KIND_NAMES),
      name: Type.Optional(Name),
      settings: Type.Optional(part<Record<string, SettingValue>>("Settings, as the scene has them")),
      programId: Type.Optional(fresh("program")),
    },
    label: (scene, { kind, name }) => `add ${freeName(scene.objects, name ?? OBJECT_KINDS[kind].label)}`,
    apply(draft, { id, kind, name, settings = {}, programId }) {
      const own = freeName(draft.objects, name ?? OBJECT_KINDS[kind].label);
      const object = { ...newObject(id, kind, own), settings: copyOf(settings) };
      paintNew(draft, object);
      placeNew(draft.objects, object);
      draft.objects.push(object);
      // Drawings and picture passes show nothing without a program: begin with a worked one.
      if (programKindOf(kind) !== "surface") beginProgram(draft, object, programId ?? `${id}-p`);
    },
  }),
  addAsset: namedEdit({
    help: "Lists stored bytes in the project; an image or a model is shown by a new object.",
    args: { asset: part<Asset>("The file, as the scene has it"), objectId: Type.Optional(fresh("object")) },
    label: (scene, { asset, objectId }) =>
      `add ${objectId ? freeName(scene.objects, asset.name) : asset.name}`,
    apply(draft, { asset, objectId }) {
      draft.assets.push(copyOf(asset));
      if (objectId === undefined || (asset.kind !== "picture" && asset.kind !== "model")) return;
      const settings: StageObject["settings"] =
        asset.kind === "picture" ? { pictureId: asset.id } : { modelId: asset.id };
      const name = freeName(draft.objects, asset.name);
      const object = { ...newObject(objectId, asset.kind, name), settings, ...ownOf(asset) };
      placeNew(draft.objects, object);
      draft.objects.push(object);
    },
  }),
  takeModelApart: namedEdit({
    help: "Puts each part of a model on the stage by itself, together in a group where the model was.",
    args: { objectId: known("object"), groupId: fresh("object"), partIds: Type.Array(Type.String()) },
    label: (scene, { objectId }) => `take ${objectNames(scene, [objectId])} apart`,
    apply(draft, { objectId, groupId, partIds }) {
      const object = withId(draft.objects, objectId);
      const asset = withId(draft.assets, object?.settings.modelId as string);
      if (!object || asset?.kind !== "model") return;
      const group = newObject(groupId, "group", object.name);
      group.parentId = object.parentId;
      for (const key of ["position", "rotation", "scale"]) {
        if (object.rest[key] !== undefined) group.rest[key] = copyOf(object.rest[key]);
      }
      const settings = copyOf(object.settings);
      draft.objects = draft.objects.filter(({ id }) => id !== objectId);
      draft.objects.push(group);
      for (const [i, name] of [...new Set(asset.parts)].entries()) {
        draft.objects.push({
          ...newObject(partIds[i] ?? `${groupId}-${i}`, "model", name.slice(0, MAX_NAME_LENGTH)),
          parentId: groupId,
          settings: { ...copyOf(settings), part: name },
        });
      }
      draft.bindings = draft.bindings.flatMap((binding) =>
        binding.objectId !== objectId
          ? [binding]
          : propertiesOf({ kind: "group" })[binding.property]
            ? [{ ...binding, objectId: groupId }]
            : [],
      );
    },
  }),
  removeObjects: namedEdit({
    help: "Removes objects with all that is in them and their bindings; users of a material have their own surface again.",
    args: { objectIds: knownMany("object") },
    label: (scene, { objectIds }) => `remove ${objectNames(scene, objectIds)}`,
    apply(draft, { objectIds }) {
      const gone = withInside(draft, objectIds);
      draft.objects = draft.objects.filter(({ id }) => !gone.has(id));
      draft.bindings = draft.bindings.filter(({ objectId }) => !gone.has(objectId));
      for (const object of draft.objects) {
        if (gone.has(object.settings.materialId as string)) object.settings.materialId = null;
      }
    },
  }),
  renameObject: namedEdit({
    help: "Renames an object.",
    args: { objectId: known("object"), name: Name },
    label: (scene, { objectId }) => `rename ${objectNames(scene, [objectId])}`,
    apply(draft, { objectId, name }) {
      const object = objectOf(draft, objectId);
      if (object) object.name = name;
    },
  }),
  changeObjects: namedEdit({
    help: "Changes whether objects are hidden or locked, which group they are in and the like.",
    args: { objectIds: knownMany("object"), values: part<Partial<StageObject>>("As the scene has them") },
    label: (scene, { objectIds }) => `change ${objectNames(scene, objectIds)}`,
    apply(draft, { objectIds, values }) {
      for (const id of objectIds) {
        const object = objectOf(draft, id);
        if (object) merge(object, values);
      }
    },
  }),
  setRest: namedEdit({
    help: "Sets the value that a property of objects rests at.",
    args: { objectIds: knownMany("object"), property: Type.String(), value: part<RestValue>("The value") },
    label: (scene, { objectIds, property }) =>
      `set ${propertyLabel(scene, objectIds[0], property)} of ${objectNames(scene, objectIds)}`,
    apply(draft, { objectIds, property, value }) {
      for (const id of objectIds) {
        const object = objectOf(draft, id);
        if (object) object.rest[property] = copyOf(value);
      }
    },
  }),
  setSetting: namedEdit({
    help: "Sets a setting of objects.",
    args: { objectIds: knownMany("object"), setting: Type.String(), value: part<SettingValue>("The value") },
    label: (scene, { objectIds }) => `change ${objectNames(scene, objectIds)}`,
    apply(draft, { objectIds, setting, value }) {
      for (const id of objectIds) {
        const object = objectOf(draft, id);
        if (!object) continue;
        object.settings[setting] = copyOf(value);
        if (setting !== "modelId") continue;
        const { own } = ownOf(withId(draft.assets, value as string));
        if (own) object.own = own;
        else delete object.own;
      }
    },
  }),
};
