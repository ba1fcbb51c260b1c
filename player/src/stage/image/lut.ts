import { LUTCubeLoader } from "postprocessing";
import type { Data3DTexture } from "three";

/**
 * Reads a table that maps colours, in the .cube format.
 *
 * @throws Error when its text is none
 */
export function readLut(bytes: ArrayBuffer): Data3DTexture {
  return new LUTCubeLoader().parse(new TextDecoder().decode(bytes)) as unknown as Data3DTexture;
}
