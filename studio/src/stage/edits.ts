import { newBinding, newObject } from "@bumbrel/core/scene/create";
import type { Binding, RestValue, Scene, StageObject } from "@bumbrel/core/scene/document";
import { OBJECT_KINDS, type ObjectKind } from "@bumbrel/core/scene/objectKinds";
import { nanoid } from "nanoid";
import type { Workbench } from "../project/workbench";

/** Adds an object in the middle of the stage, and gives its id. */
export function addObject(workbench: Workbench, kind: ObjectKind): string {
  const id = nanoid(10);
  const { label } = OBJECT_KINDS[kind];
  const count = workbench.scene.objects.filter((object) => object.kind === kind).length;
  const name = count === 0 ? label : `${label} ${count + 1}`;
  workbench.edit(`add ${name}`, (scene) => {
    scene.objects.push(newObject(id, kind, name));
  });
  return id;
}

/** Removes an object and the bindings that drive it. */
export function removeObject(workbench: Workbench, object: StageObject): void {
  workbench.edit(`remove ${object.name}`, (scene) => {
    scene.objects = scene.objects.filter(({ id }) => id !== object.id);
    scene.bindings = scene.bindings.filter(({ objectId }) => objectId !== object.id);
  });
}

/** Adds the object to the document if it is there only because there always is one. */
function ensured(scene: Scene, object: StageObject): StageObject {
  const found = scene.objects.find(({ id }) => id === object.id);
  if (found) return found;
  scene.objects.push({ ...object, rest: { ...object.rest } });
  return scene.objects[scene.objects.length - 1];
}

export function renameObject(workbench: Workbench, object: StageObject, name: string): void {
  workbench.edit(`rename ${object.name}`, (scene) => {
    ensured(scene as Scene, object).name = name;
  });
}

export function setRest(
  workbench: Workbench,
  object: StageObject,
  property: string,
  value: RestValue,
  gesture?: string,
): void {
  workbench.edit(
    `set ${property} of ${object.name}`,
    (scene) => {
      ensured(scene as Scene, object).rest[property] = value;
    },
    gesture,
  );
}

export function bind(workbench: Workbench, object: StageObject, property: string, strandId: string): void {
  workbench.edit(`bind ${property} of ${object.name}`, (scene) => {
    const target = ensured(scene as Scene, object);
    scene.bindings.push(newBinding(nanoid(10), strandId, target, property));
  });
}

export function editBinding(
  workbench: Workbench,
  bindingId: string,
  label: string,
  change: (binding: Binding) => void,
  gesture?: string,
): void {
  workbench.edit(
    label,
    (scene) => {
      const binding = scene.bindings.find(({ id }) => id === bindingId);
      if (binding) change(binding as Binding);
    },
    gesture,
  );
}

export function removeBinding(workbench: Workbench, bindingId: string): void {
  workbench.edit("remove a binding", (scene) => {
    scene.bindings = scene.bindings.filter(({ id }) => id !== bindingId);
  });
}
