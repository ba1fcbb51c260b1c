import { AssetFormatError } from "../errors";
import { platform } from "../platform";
import { readPicture } from "./picture";

export interface ModelFacts {
  /** Names of the parts that are drawn, in the file's order. */
  parts: string[];
  triangles: number;
}

const GLB = 0x46546c67;
const JSON_CHUNK = 0x4e4f534a;
const BINARY_CHUNK = 0x004e4942;
/** More than this no budget has room for. */
const MOST_TRIANGLES = 2_000_000;
const MOST_NODES = 4096;
const TRIANGLES = 4;

/** What is read of a glTF document (Khronos glTF 2.0). */
interface Gltf {
  asset?: { version?: string };
  extensionsRequired?: string[];
  nodes?: { name?: string; mesh?: number; children?: number[] }[];
  meshes?: {
    name?: string;
    primitives?: { mode?: number; indices?: number; attributes?: Record<string, number> }[];
  }[];
  accessors?: {
    count?: number;
    bufferView?: number;
    componentType?: number;
    type?: string;
    byteOffset?: number;
  }[];
  bufferViews?: { buffer?: number; byteOffset?: number; byteLength?: number }[];
  buffers?: { uri?: string; byteLength?: number }[];
  images?: { uri?: string; bufferView?: number; name?: string }[];
}

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
 * Checks a binary glTF model and tells its parts: that it is whole, that everything it points to is there and inside,
 * and that nothing of it would have to be fetched.
 *
 * @param name  for errors
 * @throws AssetFormatError naming what is wrong and what to do
 */
export function readModel(bytes: Uint8Array, name: string): ModelFacts {
  const fail = (code: string, what: string, remedy = "Export it again as GLB and add that file"): never => {
    throw new AssetFormatError({ code, what, where: name, remedy });
  };
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
  let json: Gltf | undefined;
  let binaryLength = 0;
  let binary: Uint8Array = new Uint8Array(0);
  for (let at = 12; at + 8 <= bytes.length; ) {
    const length = view.getUint32(at, true);
    const kind = view.getUint32(at + 4, true);
    if (at + 8 + length > bytes.length) fail("model-cut-short", "the model is cut short");
    const chunk = bytes.subarray(at + 8, at + 8 + length);
    if (kind === JSON_CHUNK && !json) {
      try {
        json = JSON.parse(new platform.TextDecoder().decode(chunk));
      } catch {
        fail("model-not-json", "the model’s description cannot be read");
      }
    } else if (kind === BINARY_CHUNK) {
      binaryLength = length;
      binary = chunk;
    }
    at += 8 + length + ((4 - (length % 4)) % 4);
  }
  if (!json || typeof json !== "object") return fail("model-not-json", "the model has no description");
  const gltf: Gltf = json;
  const unknown = (gltf.extensionsRequired ?? []).find((one) => !KNOWN_EXTENSIONS.has(one));
  if (unknown) {
    fail(
      "model-extension",
      `the model insists on ${unknown}, which cannot be read here`,
      "Export it without compression and add that file",
    );
  }
  for (const { uri } of [...(gltf.buffers ?? []), ...(gltf.images ?? [])]) {
    if (uri !== undefined && !uri.startsWith("data:")) {
      fail(
        "model-fetches",
        `the model points to something outside of itself (${uri.slice(0, 60)})`,
        "Export it as GLB with everything inside and add that file",
      );
    }
  }
  for (const { buffer = 0, byteOffset = 0, byteLength = 0 } of gltf.bufferViews ?? []) {
    const known = gltf.buffers?.[buffer];
    const room = known?.uri === undefined ? binaryLength : (known.byteLength ?? 0);
    if (!known || byteOffset < 0 || byteOffset + byteLength > room) {
      fail("model-out-of-bounds", "the model points past the end of its own data");
    }
  }
  for (const { bufferView, name: imageName } of gltf.images ?? []) {
    const at = bufferView === undefined ? undefined : gltf.bufferViews?.[bufferView];
    if (at)
      readPicture(
        binary.subarray(at.byteOffset ?? 0, (at.byteOffset ?? 0) + (at.byteLength ?? 0)),
        `${name}, ${imageName ?? "a picture in it"}`,
      );
  }
  const nodes = gltf.nodes ?? [];
  if (nodes.length > MOST_NODES)
    fail(
      "model-too-large",
      `the model has ${nodes.length} parts`,
      `Join parts: up to ${MOST_NODES} are read`,
    );
  assertTree(nodes, () => fail("model-loops", "a part of the model is in itself"));
  let triangles = 0;
  const parts: string[] = [];
  nodes.forEach(({ mesh, name: nodeName }, i) => {
    const primitives = mesh === undefined ? undefined : gltf.meshes?.[mesh]?.primitives;
    if (!primitives) return;
    parts.push((nodeName || gltf.meshes?.[mesh!]?.name || `Part ${i + 1}`).slice(0, 200));
    for (const { mode = TRIANGLES, indices, attributes } of primitives) {
      if (mode < TRIANGLES) continue;
      const position = attributes?.POSITION;
      const counted = indices ?? position;
      const accessor = counted === undefined ? undefined : gltf.accessors?.[counted];
      if (position === undefined || !accessor || !gltf.accessors?.[position]) {
        fail("model-out-of-bounds", "a part of the model has no corners");
      }
      triangles += Math.floor((accessor?.count ?? 0) / 3);
    }
  });
  if (parts.length === 0)
    fail("model-empty", "there is nothing to see in the model", "Add one that has meshes");
  if (triangles > MOST_TRIANGLES) {
    fail(
      "model-too-large",
      `the model has ${triangles} triangles; up to ${MOST_TRIANGLES} can be shown`,
      "Simplify it and add that file",
    );
  }
  return { parts, triangles };
}

/** Each part has at most one parent, so that none is in itself. */
function assertTree(nodes: NonNullable<Gltf["nodes"]>, fail: () => never): void {
  const hasParent = new Set<number>();
  for (const { children = [] } of nodes) {
    for (const child of children) {
      if (hasParent.has(child) || !nodes[child]) fail();
      hasParent.add(child);
    }
  }
  if (nodes.length > 0 && hasParent.size === nodes.length) fail();
}
