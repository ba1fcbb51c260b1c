import { type Document, type GLTF, WebIO } from "@gltf-transform/core";
import { AssetFormatError } from "../errors";
import { platform } from "../platform";
import { readImage } from "./image";

export interface ModelFacts {
  /** Names of the parts that are drawn, in the file's order. */
  parts: string[];
  triangles: number;
}

const GLB = 0x46546c67;
/** More than this no budget has room for. */
const MAX_TRIANGLES = 2_000_000;
const MAX_NODES = 4096;
const TRIANGLES = 4;

/** Extensions a model may insist on: those that three.js reads without fetching anything. */
const KNOWN_EXTENSIONS: ReadonlySet<string> = new Set([
  "KHR_materials_unlit",
  "KHR_materials_emissive_strength",
  "KHR_materials_clearcoat",
  "KHR_materials_ior",
  "KHR_materials_specular",
  "KHR_materials_transmission",
  "KHR_materials_volume",
  "KHR_materials_sheen",
  "KHR_mesh_quantization",
  "KHR_texture_transform",
  "KHR_lights_punctual",
]);

/**
 * Checks a binary glTF model and lists its parts: that it is whole, that everything it refers to is inside,
 * and that nothing of it would have to be fetched.
 *
 * @param name  for errors
 * @throws AssetFormatError naming what is wrong and what to do
 */
export async function readModel(bytes: Uint8Array, name: string): Promise<ModelFacts> {
  const fail = (code: string, what: string, remedy = "Export it again as GLB and add that file"): never => {
    throw new AssetFormatError({ code, what, where: name, remedy });
  };
  const tooLarge = (triangles: number) =>
    fail(
      "model-too-large",
      `the model has ${triangles} triangles; up to ${MAX_TRIANGLES} can be shown`,
      "Simplify it and add that file",
    );
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 20 || view.getUint32(0, true) !== GLB) {
    const start = new platform.TextDecoder().decode(bytes.subarray(0, 64)).trim();
    if (start.startsWith("{")) {
      fail(
        "model-not-binary",
        "this glTF keeps its parts in other files",
        "Export it as one GLB file and add that",
      );
    }
    fail("model-unknown", "this is no glTF model (GLB), whatever its name says");
  }
  if (view.getUint32(4, true) !== 2) fail("model-version", `this is glTF ${view.getUint32(4, true)}, not 2`);
  if (view.getUint32(8, true) > bytes.length) fail("model-cut-short", "the model is cut short");
  const io = new WebIO();
  const outside = () =>
    fail(
      "model-fetches",
      "the model points to something outside of itself",
      "Export it as GLB with everything inside and add that file",
    );
  const { json: gltf } = await io.binaryToJSON(bytes).catch((error: Error) => {
    if (error instanceof SyntaxError) return fail("model-not-json", "the model’s description cannot be read");
    return /external/i.test(error.message) ? outside() : fail("model-cut-short", "the model is cut short");
  });
  const unknown = (gltf.extensionsRequired ?? []).find((one) => !KNOWN_EXTENSIONS.has(one));
  if (unknown) {
    fail(
      "model-extension",
      `the model insists on ${unknown}, which cannot be read here`,
      "Export it without compression and add that file",
    );
  }
  const resources = [...(gltf.buffers ?? []), ...(gltf.images ?? [])];
  if (resources.some(({ uri }) => uri !== undefined && !uri.startsWith("data:"))) outside();
  const nodes = gltf.nodes ?? [];
  if (nodes.length > MAX_NODES) {
    fail("model-too-large", `the model has ${nodes.length} parts`, `Join parts: up to ${MAX_NODES} are read`);
  }
  assertTree(nodes, () => fail("model-loops", "a part of the model is in itself"));
  assertAccessors(gltf, () =>
    fail("model-out-of-bounds", "the model claims more numbers than it has bytes for"),
  );
  const declared = (gltf.accessors ?? []).reduce((sum, { count = 0 }) => sum + count, 0);
  if (declared > 3 * MAX_TRIANGLES) tooLarge(Math.floor(declared / 3));
  let model: Document;
  try {
    model = await io.readBinary(bytes);
  } catch {
    return fail("model-out-of-bounds", "the model points past the end of its own data");
  }
  for (const texture of model.getRoot().listTextures()) {
    const image = texture.getImage();
    if (image) readImage(image, `${name}, ${texture.getName() || "an image in it"}`);
  }
  let triangles = 0;
  const parts: string[] = [];
  for (const [i, node] of model.getRoot().listNodes().entries()) {
    const mesh = node.getMesh();
    if (!mesh) continue;
    parts.push((node.getName() || mesh.getName() || `Part ${i + 1}`).slice(0, 200));
    for (const primitive of mesh.listPrimitives()) {
      if (primitive.getMode() < TRIANGLES) continue;
      const position = primitive.getAttribute("POSITION");
      if (!position) fail("model-out-of-bounds", "a part of the model has no corners");
      triangles += Math.floor((primitive.getIndices() ?? position!).getCount() / 3);
    }
  }
  if (parts.length === 0)
    fail("model-empty", "there is nothing to see in the model", "Add one that has meshes");
  if (triangles > MAX_TRIANGLES) tooLarge(triangles);
  return { parts, triangles };
}

/** Bytes of a number by its component type, and numbers of an element by its type: glTF 2.0, 3.6.2.2. */
const COMPONENT_BYTES: Readonly<Record<number, number>> = {
  5120: 1,
  5121: 1,
  5122: 2,
  5123: 2,
  5125: 4,
  5126: 4,
};
const ELEMENT_NUMBERS: Readonly<Record<string, number>> = {
  SCALAR: 1,
  VEC2: 2,
  VEC3: 3,
  VEC4: 4,
  MAT2: 4,
  MAT3: 9,
  MAT4: 16,
};
/** Bytes that the numbers of a model may take in memory. */
const MAX_ACCESSOR_BYTES = 512 * 1024 * 1024;

/**
 * Checks that every list of numbers lies within its part of the data, before memory is taken for any: a file of a few
 * hundred bytes can claim billions.
 */
function assertAccessors(
  { accessors = [], bufferViews = [], buffers = [] }: GLTF.IGLTF,
  fail: () => never,
): void {
  let total = 0;
  for (const { bufferView, byteOffset = 0, componentType, count, type, sparse } of accessors) {
    const bytes = (COMPONENT_BYTES[componentType] ?? 0) * (ELEMENT_NUMBERS[type] ?? 0);
    if (!(bytes > 0 && Number.isInteger(count) && count > 0 && byteOffset >= 0)) fail();
    total += bytes * count;
    if (bufferView === undefined) {
      // All zeros but for what is listed: no model of use leaves most of its corners at zero.
      if (!sparse || count > 64 * sparse.count) fail();
      continue;
    }
    const view = bufferViews[bufferView];
    if (!view) fail();
    const last = byteOffset + (count - 1) * (view.byteStride ?? bytes) + bytes;
    if (!(last <= view.byteLength)) fail();
  }
  for (const { buffer, byteOffset = 0, byteLength } of bufferViews) {
    if (!(byteOffset >= 0 && byteOffset + byteLength <= (buffers[buffer]?.byteLength ?? 0))) fail();
  }
  if (total > MAX_ACCESSOR_BYTES) fail();
}

/** Each part has at most one parent, so that none is in itself. */
function assertTree(nodes: readonly { children?: number[] }[], fail: () => never): void {
  const hasParent = new Set<number>();
  for (const { children = [] } of nodes) {
    for (const child of children) {
      if (hasParent.has(child) || !nodes[child]) fail();
      hasParent.add(child);
    }
  }
  if (nodes.length > 0 && hasParent.size === nodes.length) fail();
}
