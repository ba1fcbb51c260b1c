import type { Group } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";

/**
 * Reads a model (GLB) as three.js shows it.
 *
 * @throws Error when it is broken
 */
export async function readGltf(bytes: ArrayBuffer): Promise<Group> {
  return (await new GLTFLoader().parseAsync(bytes, "")).scene;
}
