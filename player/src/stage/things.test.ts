import { newBinding, newObject, newScene, newStrand } from "@bumbrel/core/scene/create";
import type { RestValue, Scene } from "@bumbrel/core/scene/document";
import { Evaluator } from "@bumbrel/core/scene/evaluate";
import { OBJECT_KIND_NAMES, type ObjectKind, propertiesOf } from "@bumbrel/core/scene/objectKinds";
import { describe, expect, it } from "@jest/globals";
import { type InstancedMesh, Matrix4, type Mesh, type Object3D, Quaternion, Vector3 } from "three";
import { THING_MAKERS, type Thing } from "./things";

/** Puts one object on a stage of its own, and gives a way to set the strand that drives it. */
function put(kind: ObjectKind, rest: Record<string, RestValue> = {}, bound: string[] = []) {
  const scene: Scene = newScene("Quay");
  scene.strands.push(newStrand(scene, "s", "S", { kind: "nothing" }));
  const object = { ...newObject("thing", kind, "Thing"), rest };
  scene.objects = [object];
  scene.bindings = bound.map((property) => newBinding(`b-${property}`, "s", object, property));
  const evaluator = new Evaluator(scene);
  const values = new Float64Array(evaluator.size);
  const thing: Thing = THING_MAKERS[kind]((property) => evaluator.slot("thing", property)!.offset);
  const at = (strandValue: number) => {
    evaluator.evaluateInto(new Map([["s", { width: 1, values: Float32Array.of(strandValue) }]]), 0, values);
    thing.apply(values);
  };
  at(0);
  return { thing, at, evaluator, values };
}

/** Every matrix of a ring's copies, taken apart. */
function copiesOf(root: Object3D) {
  const mesh = root.children[0] as InstancedMesh;
  return Array.from({ length: mesh.count }, (_, i) => {
    const matrix = new Matrix4();
    mesh.getMatrixAt(i, matrix);
    const [position, turn, scale] = [new Vector3(), new Quaternion(), new Vector3()];
    matrix.decompose(position, turn, scale);
    return { position, facing: new Vector3(0, 0, 1).applyQuaternion(turn), scale };
  });
}

const PROPERTIES = OBJECT_KIND_NAMES.flatMap((kind) =>
  Object.keys(propertiesOf(kind)).map((key) => [kind, key] as const),
);

describe("things on the stage", () => {
  it.each(PROPERTIES)("a %s shows its %s at rest and when it is driven", (kind, property) => {
    const { thing, at, evaluator, values } = put(kind, {}, [property]);
    const slot = evaluator.slot("thing", property)!;
    const shown = () => [thing.read(property)].flat() as number[];
    const evaluated = () => [...values.subarray(slot.offset, slot.offset + slot.width)];
    const rest = shown();
    rest.forEach((x, i) => {
      expect(x).toBeCloseTo(evaluated()[i], 5);
    });
    at(1);
    const driven = shown();
    expect(driven).not.toEqual(rest);
    driven.forEach((x, i) => {
      expect(x).toBeCloseTo(property === "count" ? Math.round(evaluated()[i]) : evaluated()[i], 5);
    });
    thing.dispose();
  });

  it("knows nothing of properties it does not have", () => {
    expect(put("box").thing.read("wings")).toBeUndefined();
  });

  it("stands a box on its base and a sphere about its centre", () => {
    const extent = (kind: ObjectKind, rest: Record<string, RestValue>) => {
      const { thing } = put(kind, rest);
      const mesh = thing.root.children[0] as Mesh;
      mesh.geometry.computeBoundingBox();
      thing.root.updateMatrixWorld(true);
      return mesh.geometry.boundingBox!.clone().applyMatrix4(mesh.matrixWorld);
    };
    const box = extent("box", { position: [1, 2, 3], size: [2, 4, 6], scale: [1, 0.5, 1] });
    expect([box.min.y, box.max.y, box.min.x, box.max.x]).toEqual([2, 4, 0, 2]);
    const ball = extent("sphere", { position: [0, 5, 0], radius: 2 });
    expect(ball.min.y).toBeCloseTo(3, 6);
    expect(ball.max.y).toBeCloseTo(7, 6);
  });

  it("places a ring's copies evenly, on their bases, facing outwards", () => {
    const { thing } = put("ring", { count: 12, radius: 3, size: [0.2, 1.5, 0.4], growth: 2 });
    const copies = copiesOf(thing.root);
    expect(copies).toHaveLength(12);
    copies.forEach(({ position, facing, scale }, i) => {
      expect(Math.hypot(position.x, position.z)).toBeCloseTo(3, 5);
      expect(position.y).toBe(0);
      expect(Math.atan2(position.x, position.z)).toBeCloseTo(
        i <= 6 ? (i * Math.PI) / 6 : (i * Math.PI) / 6 - 2 * Math.PI,
        5,
      );
      expect(facing.dot(position.clone().normalize())).toBeCloseTo(1, 5);
      expect(scale.x).toBeCloseTo(0.2, 5);
      expect(scale.y).toBeCloseTo(3, 5);
      expect(scale.z).toBeCloseTo(0.4, 5);
    });
    const { geometry } = thing.root.children[0] as InstancedMesh;
    geometry.computeBoundingBox();
    expect(geometry.boundingBox!.min.y).toBe(0);
  });

  it("holds from 1 to 512 copies", () => {
    expect(copiesOf(put("ring", { count: 1 }).thing.root)).toHaveLength(1);
    expect(copiesOf(put("ring", { count: 512 }).thing.root)).toHaveLength(512);
  });

  it("sends a ring's matrices to the screen only when they change", () => {
    const { thing, at } = put("ring", { count: 8 }, ["growth"]);
    const { instanceMatrix } = thing.root.children[0] as InstancedMesh;
    const version = instanceMatrix.version;
    at(0);
    expect(instanceMatrix.version).toBe(version);
    at(0.7);
    expect(instanceMatrix.version).toBe(version + 1);
  });

  it("looks from the camera's place at its target", () => {
    const { thing } = put("camera", { position: [0, 0, 5], target: [5, 0, 5] });
    const forward = new Vector3();
    thing.root.getWorldDirection(forward);
    // A camera looks along its own −z.
    expect(Math.abs(forward.x)).toBeCloseTo(1, 6);
    expect(thing.read("target")).toEqual([5, 0, 5]);
  });
});
