import {
  type Accessor,
  type Animation,
  Document,
  type Material,
  type Node,
  WebIO,
} from "@gltf-transform/core";
import {
  EXTMeshGPUInstancing,
  KHRLightsPunctual,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsUnlit,
  type Light,
} from "@gltf-transform/extensions";
import type { Keys } from "../dsp/spectrum/keyframes";
import { platform } from "../platform";

/** Numbers over time; seconds are its frames divided by the rate. */
export type ModelTrack = Keys;

/** A shape: vertices, one metre wide about its own middle unless it is a model's. */
export interface ModelShape {
  position: Float32Array;
  normal: Float32Array;
  uv?: Float32Array;
  /** Linear RGBA of each vertex. */
  colour?: Float32Array;
  index?: Uint32Array | Uint16Array;
  /** Offsets of the positions at a weight of 1. */
  morph?: Float32Array;
}

export interface ModelMaterial {
  name: string;
  /** Linear RGB and opacity, 0..1. */
  colour: ModelTrack;
  /** Linear RGB of its own light; above 1 as well. */
  emission: ModelTrack;
  roughness: number;
  metalness: number;
  isUnlit: boolean;
  isSeenFromBehind: boolean;
  isTransparent: boolean;
  /** A PNG image. */
  image?: Uint8Array;
}

export interface ModelPart {
  shape: ModelShape;
  material: ModelMaterial;
}

/** A light, which shines along its −z where it has a direction. */
export interface ModelLight {
  kind: "point" | "spot" | "directional";
  /** Linear RGB. */
  colour: ModelTrack;
  /** Candela; lux of a directional light. */
  intensity: ModelTrack;
  /** Metres that it reaches; 0 for as far as it goes. */
  reachM: number;
  /** Angles of a spot's cone in radians: as bright as in its middle up to the first, dark from the second on. */
  innerAngle: number;
  outerAngle: number;
}

export interface ModelNode {
  name: string;
  translation: ModelTrack;
  /** Unit quaternions. */
  rotation: ModelTrack;
  /** 0 hides it. */
  scale: ModelTrack;
  parts: ModelPart[];
  /** Weight of the shape's morph. */
  morph?: ModelTrack;
  /** Places of its copies in it: translations, quaternions and scales. */
  copies?: { translations: Float32Array; rotations: Float32Array; scales: Float32Array };
  light?: ModelLight;
  /** Vertical field of view of a camera, radians. */
  camera?: ModelTrack;
}

export interface AnimatedModel {
  name: string;
  nodes: ModelNode[];
  /** Frames a second of its tracks. */
  rateHz: number;
  /** Further facts for readers, as extras of the scene. */
  extras: Record<string, unknown>;
}

const POINTER = "KHR_animation_pointer";
/** A spot's cone is no wider than this, and has an edge of some width. */
const [MOST_CONE, LEAST_EDGE] = [Math.PI / 2, 1e-4];
const CAMERA_NEAR_M = 0.05;
const CAMERA_FAR_M = 2000;

/**
 * Writes a model with baked animation as binary glTF 2.0. Transforms are animated as glTF does; colours, emission, lights and
 * fields of view by KHR_animation_pointer, without which a reader shows their mean.
 *
 * @returns a GLB file
 */
export async function writeAnimatedModel(model: AnimatedModel): Promise<Uint8Array> {
  const writing = new Writing(model);
  for (const node of model.nodes) writing.add(node);
  return writing.finish();
}

class Writing {
  private readonly model: AnimatedModel;
  private readonly document = new Document();
  private readonly buffer = this.document.createBuffer();
  private readonly animation: Animation;
  private readonly strength = this.document.createExtension(KHRMaterialsEmissiveStrength);
  private readonly unlit = this.document.createExtension(KHRMaterialsUnlit);
  private readonly lights = this.document.createExtension(KHRLightsPunctual);
  private readonly instancing = this.document.createExtension(EXTMeshGPUInstancing);
  private readonly shapes = new Map<ModelShape, Record<string, Accessor>>();
  private readonly materials = new Map<ModelMaterial, Material>();
  private readonly images = new Map<Uint8Array, ReturnType<Document["createTexture"]>>();
  private readonly times = new Map<string, Accessor>();
  private lightCount = 0;
  private cameraCount = 0;

  constructor(model: AnimatedModel) {
    this.model = model;
    this.animation = this.document.createAnimation(model.name);
    this.document.createScene(model.name);
  }

  add(told: ModelNode): void {
    const { document } = this;
    const node = document.createNode(told.name);
    document.getRoot().listScenes()[0].addChild(node);
    node.setTranslation(start(told.translation, 3) as [number, number, number]);
    node.setRotation(start(told.rotation, 4) as [number, number, number, number]);
    node.setScale(start(told.scale, 3) as [number, number, number]);
    this.channel(told.translation, "VEC3", node, "translation");
    this.channel(told.rotation, "VEC4", node, "rotation");
    this.channel(told.scale, "VEC3", node, "scale");
    if (told.parts.length > 0) {
      const mesh = document.createMesh(told.name);
      for (const { shape, material } of told.parts) {
        const { position, normal, uv, colour, index, morph } = this.shapeOf(shape);
        const primitive = document
          .createPrimitive()
          .setAttribute("POSITION", position)
          .setAttribute("NORMAL", normal)
          .setMaterial(this.materialOf(material));
        if (uv) primitive.setAttribute("TEXCOORD_0", uv);
        if (colour) primitive.setAttribute("COLOR_0", colour);
        if (index) primitive.setIndices(index);
        if (morph) primitive.addTarget(document.createPrimitiveTarget().setAttribute("POSITION", morph));
        mesh.addPrimitive(primitive);
      }
      if (told.morph) {
        mesh.setWeights(start(told.morph, 1));
        this.channel(told.morph, "SCALAR", node, "weights");
      }
      node.setMesh(mesh);
    }
    if (told.copies) {
      const { translations, rotations, scales } = told.copies;
      const copies = this.instancing
        .setRequired(true)
        .createInstancedMesh()
        .setAttribute("TRANSLATION", this.accessor(translations, "VEC3"))
        .setAttribute("ROTATION", this.accessor(rotations, "VEC4"))
        .setAttribute("SCALE", this.accessor(scales, "VEC3"));
      node.setExtension("EXT_mesh_gpu_instancing", copies);
    }
    if (told.light) node.setExtension("KHR_lights_punctual", this.lightOf(told.light, told.name));
    if (told.camera) {
      node.setCamera(
        document
          .createCamera(told.name)
          .setType("perspective")
          .setYFov(meanOf(told.camera, 1)[0])
          .setZNear(CAMERA_NEAR_M)
          .setZFar(CAMERA_FAR_M),
      );
      this.pointer(told.camera, "SCALAR", `/cameras/${this.cameraCount++}/perspective/yfov`);
    }
  }

  private shapeOf(shape: ModelShape): Record<string, Accessor> {
    let known = this.shapes.get(shape);
    if (!known) {
      const { position, normal, uv, colour, index, morph } = shape;
      known = {
        position: this.accessor(position, "VEC3"),
        normal: this.accessor(normal, "VEC3"),
        ...(uv && { uv: this.accessor(uv, "VEC2") }),
        ...(colour && { colour: this.accessor(colour, "VEC4") }),
        ...(index && { index: this.accessor(index, "SCALAR") }),
        ...(morph && { morph: this.accessor(morph, "VEC3") }),
      };
      this.shapes.set(shape, known);
    }
    return known;
  }

  private materialOf(told: ModelMaterial): Material {
    const known = this.materials.get(told);
    if (known) return known;
    const { document } = this;
    const at = document.getRoot().listMaterials().length;
    const material = document.createMaterial(told.name);
    this.materials.set(told, material);
    const mean = meanOf(told.colour, 4);
    // The factor is at most 1: how strong the light is at its strongest stands beside it.
    const strongest = told.emission.values.reduce((most, one) => Math.max(most, one), 0);
    const share = strongest > 0 ? 1 / strongest : 0;
    const emission = { ...told.emission, values: told.emission.values.map((one) => one * share) };
    const shines = meanOf(emission, 3);
    material
      .setBaseColorFactor(mean as [number, number, number, number])
      .setEmissiveFactor(shines as [number, number, number])
      .setRoughnessFactor(told.roughness)
      .setMetallicFactor(told.metalness)
      .setDoubleSided(told.isSeenFromBehind)
      .setAlphaMode(told.isTransparent ? "BLEND" : "OPAQUE");
    if (strongest > 0)
      material.setExtension(
        "KHR_materials_emissive_strength",
        this.strength.createEmissiveStrength().setEmissiveStrength(strongest),
      );
    if (told.isUnlit) material.setExtension("KHR_materials_unlit", this.unlit.createUnlit());
    if (told.image) {
      let texture = this.images.get(told.image);
      if (!texture) {
        texture = document.createTexture(told.name).setImage(told.image).setMimeType("image/png");
        this.images.set(told.image, texture);
      }
      material.setBaseColorTexture(texture);
    }
    this.pointer(told.colour, "VEC4", `/materials/${at}/pbrMetallicRoughness/baseColorFactor`);
    this.pointer(emission, "VEC3", `/materials/${at}/emissiveFactor`);
    return material;
  }

  private lightOf(told: ModelLight, name: string): Light {
    const light = this.lights
      .createLight(name)
      .setType(told.kind)
      .setColor(meanOf(told.colour, 3) as [number, number, number])
      .setIntensity(meanOf(told.intensity, 1)[0]);
    if (told.reachM > 0 && told.kind !== "directional") light.setRange(told.reachM);
    if (told.kind === "spot") {
      const outer = Math.min(MOST_CONE, told.outerAngle);
      light.setOuterConeAngle(outer).setInnerConeAngle(Math.min(told.innerAngle, outer - LEAST_EDGE));
    }
    const path = `/extensions/KHR_lights_punctual/lights/${this.lightCount++}`;
    this.pointer(told.colour, "VEC3", `${path}/color`);
    this.pointer(told.intensity, "SCALAR", `${path}/intensity`);
    return light;
  }

  private accessor(array: Float32Array | Uint32Array | Uint16Array, type: string): Accessor {
    return this.document
      .createAccessor()
      .setType(type as "VEC3")
      .setArray(array)
      .setBuffer(this.buffer);
  }

  private sampler({ frames, values }: ModelTrack, type: string) {
    const key = frames.join();
    let input = this.times.get(key);
    if (!input) {
      input = this.accessor(
        Float32Array.from(frames, (frame) => frame / this.model.rateHz),
        "SCALAR",
      );
      this.times.set(key, input);
    }
    const sampler = this.document
      .createAnimationSampler()
      .setInput(input)
      .setOutput(this.accessor(Float32Array.from(values), type))
      .setInterpolation("LINEAR");
    this.animation.addSampler(sampler);
    return sampler;
  }

  private channel(
    track: ModelTrack,
    type: string,
    node: Node,
    path: "translation" | "rotation" | "scale" | "weights",
  ): void {
    if (track.frames.length < 2) return;
    this.animation.addChannel(
      this.document
        .createAnimationChannel()
        .setTargetNode(node)
        .setTargetPath(path)
        .setSampler(this.sampler(track, type)),
    );
  }

  /** A channel to a property by its place in the file; where it stands is told once the file is written. */
  private pointer(track: ModelTrack, type: string, pointer: string): void {
    if (track.frames.length < 2) return;
    this.animation.addChannel(
      this.document
        .createAnimationChannel()
        .setTargetPath("pointer" as "weights")
        .setSampler(this.sampler(track, type))
        .setExtras({ pointer }),
    );
  }

  async finish(): Promise<Uint8Array> {
    const { document, animation } = this;
    const root = document.getRoot();
    root.listScenes()[0].setExtras(this.model.extras);
    root.setDefaultScene(root.listScenes()[0]);
    root.getAsset().generator = "Bumbrel";
    if (animation.listChannels().length === 0) animation.dispose();
    if (this.lightCount === 0) this.lights.dispose();
    for (const [extension, isUsed] of [
      [
        this.strength,
        root.listMaterials().some((one) => one.getExtension("KHR_materials_emissive_strength")),
      ],
      [this.unlit, root.listMaterials().some((one) => one.getExtension("KHR_materials_unlit"))],
      [this.instancing, root.listNodes().some((one) => one.getExtension("EXT_mesh_gpu_instancing"))],
    ] as const)
      if (!isUsed) extension.dispose();
    const io = new WebIO().registerExtensions([
      EXTMeshGPUInstancing,
      KHRLightsPunctual,
      KHRMaterialsEmissiveStrength,
      KHRMaterialsUnlit,
    ]);
    return withPointers(await io.writeBinary(document));
  }
}

/** glTF as JSON, as far as pointers touch it. */
interface Json {
  extensionsUsed?: string[];
  animations?: {
    channels: {
      target: { path: string; extensions?: Record<string, unknown> };
      extras?: { pointer?: string };
    }[];
  }[];
}

/** Puts the pointers of a file where KHR_animation_pointer has them. */
function withPointers(glb: Uint8Array): Uint8Array {
  const view = new DataView(glb.buffer, glb.byteOffset, glb.byteLength);
  const jsonLength = view.getUint32(12, true);
  const json = JSON.parse(new platform.TextDecoder().decode(glb.subarray(20, 20 + jsonLength))) as Json;
  let isUsed = false;
  for (const { channels } of json.animations ?? [])
    for (const channel of channels) {
      const { pointer } = channel.extras ?? {};
      if (pointer === undefined) continue;
      delete channel.extras;
      channel.target.extensions = { [POINTER]: { pointer } };
      isUsed = true;
    }
  if (isUsed) json.extensionsUsed = [...(json.extensionsUsed ?? []), POINTER];
  const text = new platform.TextEncoder().encode(JSON.stringify(json));
  const padded = Math.ceil(text.length / 4) * 4;
  const rest = glb.subarray(20 + jsonLength);
  const out = new Uint8Array(20 + padded + rest.length).fill(0x20, 20 + text.length, 20 + padded);
  out.set(glb.subarray(0, 20));
  out.set(text, 20);
  out.set(rest, 20 + padded);
  const head = new DataView(out.buffer);
  head.setUint32(8, out.length, true);
  head.setUint32(12, padded, true);
  return out;
}

const start = ({ values }: ModelTrack, width: number): number[] => values.slice(0, width);

/** Mean of a track over its time, weighted by how long each value lasts. */
function meanOf({ frames, values }: ModelTrack, width: number): number[] {
  if (frames.length === 1) return values.slice(0, width);
  const sum = new Array<number>(width).fill(0);
  for (let i = 1; i < frames.length; i++)
    for (let axis = 0; axis < width; axis++)
      sum[axis] +=
        ((frames[i] - frames[i - 1]) * (values[(i - 1) * width + axis] + values[i * width + axis])) / 2;
  return sum.map((one) => one / (frames.at(-1)! - frames[0]));
}
