import type { Binding, ObjectKind, RestValue, Scene, StageObject } from "@bumbrel/core/document/scene";
import { newBinding, newObject } from "@bumbrel/core/kinds/create";

/** An output from a number to another. */
export const range = (low: number, high: number) => ({ kind: "range" as const, low, high });

/** Puts objects into a scene and binds strands to them, one after the other. */
export function sceneBuilder(scene: Scene) {
  return {
    /** Adds an object, in place of one with the same id. */
    put(
      id: string,
      kind: ObjectKind,
      name: string,
      rest: Record<string, RestValue>,
      more: Partial<StageObject> = {},
    ): StageObject {
      const object = { ...newObject(id, kind, name), rest, ...more };
      const existing = scene.objects.findIndex((one) => one.id === id);
      if (existing >= 0) scene.objects[existing] = object;
      else scene.objects.push(object);
      return object;
    },
    drive(
      strandId: string,
      object: StageObject,
      property: string,
      output: Binding["output"],
      changes: Partial<Binding> = {},
    ): void {
      const id = `b${scene.bindings.length + 1}`;
      scene.bindings.push({ ...newBinding(id, strandId, object, property), output, ...changes });
    },
  };
}
