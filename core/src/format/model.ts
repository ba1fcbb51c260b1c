import { type Document, WebIO } from "@gltf-transform/core";
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
