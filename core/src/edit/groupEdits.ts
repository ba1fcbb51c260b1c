import { Type } from "@sinclair/typebox";
import type { Scene, StageObject } from "../document/scene";
import { copyOf } from "../document/versions/copyOf";
import { newObject } from "../kinds/create";
import { giveProgram } from "../kinds/programs";
import { can, OBJECT_KINDS, propertiesOf } from "../kinds/table";
import { MAX_NAME_LENGTH } from "../setting/schema";
import { freeName, fresh, known, knownMany, namedEdit, withId } from "./namedEdit";
import { objectNames, objectOf } from "./objectEdits";

/** The place an object rests at, metres; none for kinds that have no place. */
export function restingPlace(object: StageObject): [number, number, number] | undefined {
  const declared = propertiesOf(object).position;
  if (declared?.type !== "vector") return undefined;
  const [x, y, z] = (object.rest.position as [number, number, number] | undefined) ?? declared.default;
  return [x, y, z];
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

/** Edits of groups on the stage, and of surfaces that objects share. */
export const GROUP_EDITS = {
  group: namedEdit({
    help: "Puts objects into a group of their own, about the middle of where they rest.",
    args: { id: fresh("object"), objectIds: knownMany("object") },
    label: (scene, { objectIds }) => `group ${objectNames(scene, objectIds)}`,
    apply(draft, { id, objectIds }) {
      const inside = draft.objects.filter((one) => objectIds.includes(one.id) && can(one.kind).grouped);
      if (inside.length === 0) return;
      const made = newObject(id, "group", freeName(draft.objects, OBJECT_KINDS.group.label));
      const parents = new Set(inside.map(({ parentId }) => parentId));
      made.parentId = parents.size === 1 ? inside[0].parentId : null;
      const middle = middleOf(draft, inside);
      if (middle) made.rest.position = middle;
      for (const object of inside) {
        object.parentId = id;
        const at = restingPlace(object);
        if (middle && at) object.rest.position = [at[0] - middle[0], at[1] - middle[1], at[2] - middle[2]];
      }
      draft.objects.push(made);
    },
  }),
  ungroup: namedEdit({
    help: "Takes everything out of a group, and the group away.",
    args: { objectId: known("object") },
    label: (scene, { objectId }) => `take ${objectNames(scene, [objectId])} apart`,
    apply(draft, { objectId }) {
      const group = withId(draft.objects, objectId);
      if (!group) return;
      const { parentId } = group;
      const shift = (group.rest.position as number[] | undefined) ?? [0, 0, 0];
      for (const one of draft.objects) {
        if (one.parentId !== objectId) continue;
        one.parentId = parentId;
        const at = restingPlace(one);
        if (at) one.rest.position = [at[0] + shift[0], at[1] + shift[1], at[2] + shift[2]];
      }
      draft.objects = draft.objects.filter(({ id }) => id !== objectId);
      draft.bindings = draft.bindings.filter((binding) => binding.objectId !== objectId);
    },
  }),
  shareSurface: namedEdit({
    help: "Gives an object's surface to a material that others may share.",
    args: { id: fresh("object"), objectId: known("object") },
    label: (scene, { objectId }) => `make a material of ${objectNames(scene, [objectId])}`,
    apply(draft, { id, objectId }) {
      const object = objectOf(draft, objectId);
      if (!object) return;
      const name = `${object.name} surface`.slice(0, MAX_NAME_LENGTH - 10);
      const material = newObject(id, "material", freeName(draft.objects, name));
      // The program goes with the surface, and its values with the program.
      const program = withId(draft.programs, object.settings.programId as string);
      giveProgram(material, program && copyOf(program));
      const owned = propertiesOf(material);
      if (object.links) material.links = { ...object.links };
      for (const [key, value] of Object.entries(object.rest))
        if (key in owned) material.rest[key] = copyOf(value);
      for (const [key, value] of Object.entries(object.settings)) {
        if (key in OBJECT_KINDS.material.settings) material.settings[key] = copyOf(value);
      }
      draft.objects.push(copyOf(material));
      giveProgram(object, undefined);
      delete object.links;
      object.settings.materialId = id;
      for (const binding of draft.bindings) {
        if (binding.objectId === objectId && binding.property in owned) binding.objectId = id;
      }
    },
  }),
  ownSurface: namedEdit({
    help: "Gives an object a surface of its own, as the shared one is.",
    args: { objectId: known("object"), bindingIds: Type.Array(fresh("binding")) },
    label: (scene, { objectId }) => `give ${objectNames(scene, [objectId])} a surface of its own`,
    apply(draft, { objectId, bindingIds }) {
      const object = objectOf(draft, objectId);
      if (!object) return;
      const material = withId(draft.objects, object.settings.materialId as string);
      object.settings.materialId = null;
      if (!material) return;
      Object.assign(object.rest, copyOf(material.rest));
      Object.assign(object.settings, copyOf(material.settings));
      giveProgram(object, withId(draft.programs, material.settings.programId as string));
      if (material.links) object.links = { ...material.links };
      const shared = draft.bindings.filter((binding) => binding.objectId === material.id);
      for (const [i, binding] of shared.entries()) {
        draft.bindings.push({ ...copyOf(binding), id: bindingIds[i] ?? `${objectId}-${i}`, objectId });
      }
    },
  }),
};
