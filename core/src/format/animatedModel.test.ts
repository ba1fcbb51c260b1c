import { Logger, WebIO } from "@gltf-transform/core";
import {
  EXTMeshGPUInstancing,
  KHRLightsPunctual,
  KHRMaterialsEmissiveStrength,
} from "@gltf-transform/extensions";
import { describe, expect, test } from "@jest/globals";
import validator from "gltf-validator";
import { type AnimatedModel, type ModelMaterial, type ModelNode, writeAnimatedModel } from "./animatedModel";

const still = (...values: number[]) => ({ frames: [0], values });
const place = (x: number) => ({
  translation: still(x, 0, 0),
  rotation: still(0, 0, 0, 1),
  scale: still(1, 1, 1),
});
const TRIANGLE = {
  position: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
  normal: Float32Array.of(0, 0, 1, 0, 0, 1, 0, 0, 1),
  index: Uint16Array.of(0, 1, 2),
};
const material = (name: string): ModelMaterial => ({
  name,
  colour: still(0.5, 0.25, 1, 1),
  emission: still(0, 0, 0),
  roughness: 0.4,
  metalness: 0.1,
  isUnlit: false,
  isSeenFromBehind: true,
  isTransparent: false,
});
const modelOf = (...nodes: ModelNode[]): AnimatedModel => ({
  name: "Quay",
  nodes,
  rateHz: 100,
  extras: { bumbrel: { lengthS: 2 } },
});
/** The JSON of a file. */
function jsonOf(glb: Uint8Array) {
  const length = new DataView(glb.buffer, glb.byteOffset).getUint32(12, true);
  return JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length)));
}
async function errorsOf(glb: Uint8Array): Promise<unknown[]> {
  const { issues } = await validator.validateBytes(glb, { maxIssues: 50 });
  return issues.messages.filter(({ severity }) => severity < 2);
}

describe("writeAnimatedModel", () => {
  test("animates places by channels, and colours and own light by pointers, of which readers without them see the mean", async () => {
    const glow = material("Lantern");
    glow.colour = { frames: [0, 100], values: [0, 0, 0, 1, 1, 0.5, 0, 1] };
    glow.emission = { frames: [0, 50, 100], values: [0, 0, 0, 8, 4, 0, 0, 0, 0] };
    const glb = await writeAnimatedModel(
      modelOf({
        name: "Lantern",
        ...place(0),
        translation: { frames: [0, 100], values: [0, 0, 0, 0, 3, 0] },
        parts: [{ shape: TRIANGLE, material: glow }],
      }),
    );
    expect(await errorsOf(glb)).toEqual([]);
    const { animations, materials, extensionsUsed, extensionsRequired, scenes } = jsonOf(glb);
    expect(extensionsUsed).toEqual(
      expect.arrayContaining(["KHR_animation_pointer", "KHR_materials_emissive_strength"]),
    );
    expect(extensionsRequired).toBe(undefined);
    expect(materials[0].pbrMetallicRoughness.baseColorFactor).toEqual([0.5, 0.25, 0, 1]);
    expect(materials[0].emissiveFactor).toEqual([0.5, 0.25, 0]);
    expect(materials[0].extensions.KHR_materials_emissive_strength.emissiveStrength).toBe(8);
    const pointers = animations[0].channels.flatMap(
      ({ target }: { target: { extensions?: Record<string, { pointer: string }> } }) =>
        target.extensions ? [target.extensions.KHR_animation_pointer.pointer] : [],
    );
    expect(pointers).toEqual([
      "/materials/0/pbrMetallicRoughness/baseColorFactor",
      "/materials/0/emissiveFactor",
    ]);
    expect(animations[0].channels).toHaveLength(3);
    expect(scenes[0].extras).toEqual({ bumbrel: { lengthS: 2 } });
  });

  test("writes no animation for still objects, and no extension that is not used", async () => {
    const glb = await writeAnimatedModel(
      modelOf({ name: "Post", ...place(1), parts: [{ shape: TRIANGLE, material: material("Wood") }] }),
    );
    expect(await errorsOf(glb)).toEqual([]);
    const { animations, extensionsUsed, nodes } = jsonOf(glb);
    expect([animations, extensionsUsed]).toEqual([undefined, undefined]);
    expect(nodes[0].translation).toEqual([1, 0, 0]);
  });

  test("copies, lights, a camera and a shape that changes are read by another library", async () => {
    const glb = await writeAnimatedModel(
      modelOf(
        {
          name: "Row",
          ...place(0),
          parts: [{ shape: TRIANGLE, material: material("Rope") }],
          copies: {
            translations: Float32Array.of(0, 0, 0, 2, 0, 0),
            rotations: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1),
            scales: Float32Array.of(1, 1, 1, 2, 2, 2),
          },
        },
        {
          name: "Ring",
          ...place(3),
          parts: [
            {
              shape: { ...TRIANGLE, morph: Float32Array.of(0, 0, 1, 0, 0, 1, 0, 0, 1) },
              material: material("Ring"),
            },
          ],
          morph: { frames: [0, 10], values: [0, 1] },
        },
        {
          name: "Beam",
          ...place(5),
          parts: [],
          light: {
            kind: "spot",
            colour: still(1, 0.5, 0.25),
            intensity: { frames: [0, 10], values: [0, 40] },
            reachM: 12,
            innerAngle: 0.5,
            outerAngle: 0.5,
          },
        },
        { name: "Eye", ...place(7), parts: [], camera: still(0.8) },
      ),
    );
    expect(await errorsOf(glb)).toEqual([]);
    expect(jsonOf(glb).extensionsRequired).toEqual(["EXT_mesh_gpu_instancing"]);
    const io = new WebIO()
      .setLogger(new Logger(Logger.Verbosity.SILENT))
      .registerExtensions([EXTMeshGPUInstancing, KHRLightsPunctual, KHRMaterialsEmissiveStrength]);
    const root = (await io.readBinary(glb)).getRoot();
    const named = (name: string) => root.listNodes().find((node) => node.getName() === name)!;
    const rows =
      named("Row").getExtension<import("@gltf-transform/extensions").InstancedMesh>(
        "EXT_mesh_gpu_instancing",
      )!;
    expect([...rows.getAttribute("TRANSLATION")!.getArray()!]).toEqual([0, 0, 0, 2, 0, 0]);
    const light =
      named("Beam").getExtension<import("@gltf-transform/extensions").Light>("KHR_lights_punctual")!;
    expect([light.getType(), light.getIntensity(), light.getRange()]).toEqual(["spot", 20, 12]);
    // A cone has an edge: readers refuse one whose middle is as wide as the whole.
    expect(light.getInnerConeAngle()).toBeLessThan(light.getOuterConeAngle());
    expect(named("Eye").getCamera()!.getYFov()).toBeCloseTo(0.8, 6);
    expect(named("Ring").getMesh()!.listPrimitives()[0].listTargets()).toHaveLength(1);
  });
});
