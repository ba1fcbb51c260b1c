/// <reference path="../../ktx-parse.d.ts" />
import {
  DataTexture,
  EquirectangularReflectionMapping,
  FloatType,
  HalfFloatType,
  LinearFilter,
  RGBAFormat,
  type Texture,
} from "three";

const isHdr = (bytes: Uint8Array) => bytes[0] === 0x23 && bytes[1] === 0x3f;
const isExr = (bytes: Uint8Array) =>
  bytes[0] === 0x76 && bytes[1] === 0x2f && bytes[2] === 0x31 && bytes[3] === 0x01;

/**
 * Reads a panorama: Radiance HDR, OpenEXR or KTX2 with float pixels.
 *
 * @throws Error when it is none of them, or broken
 */
export async function readPanorama(bytes: ArrayBuffer): Promise<Texture> {
  const start = new Uint8Array(bytes, 0, Math.min(16, bytes.byteLength));
  const texture = isHdr(start)
    ? await readHdr(bytes)
    : isExr(start)
      ? await readExr(bytes)
      : await readKtx2(bytes);
  texture.mapping = EquirectangularReflectionMapping;
  texture.minFilter = LinearFilter;
  texture.magFilter = LinearFilter;
  texture.needsUpdate = true;
  return texture;
}

interface Pixels {
  width: number;
  height: number;
  data: Uint16Array | Float32Array;
}

async function readHdr(bytes: ArrayBuffer): Promise<Texture> {
  const { HDRLoader } = await import("three/examples/jsm/loaders/HDRLoader.js");
  const { width, height, data } = new HDRLoader().parse(bytes) as unknown as Pixels;
  const texture = new DataTexture(data, width, height, RGBAFormat, HalfFloatType);
  texture.flipY = true;
  return texture;
}

async function readExr(bytes: ArrayBuffer): Promise<Texture> {
  const { EXRLoader } = await import("three/examples/jsm/loaders/EXRLoader.js");
  const { width, height, data } = new EXRLoader()
    .setDataType(HalfFloatType)
    .parse(bytes) as unknown as Pixels;
  return new DataTexture(data, width, height, RGBAFormat, HalfFloatType);
}

/** Of KTX2 the plain float formats, which need no decoder; others say so. */
async function readKtx2(bytes: ArrayBuffer): Promise<Texture> {
  const ktx = await import("three/examples/jsm/libs/ktx-parse.module.js");
  const { vkFormat, levels, pixelWidth, pixelHeight, supercompressionScheme } = ktx.read(
    new Uint8Array(bytes),
  );
  const [level] = levels;
  if (supercompressionScheme !== 0 || !level)
    throw new Error("Its KTX2 file is compressed: save it as float");
  const { buffer } = level.levelData.slice();
  if (vkFormat === ktx.VK_FORMAT_R32G32B32A32_SFLOAT) {
    return new DataTexture(new Float32Array(buffer), pixelWidth, pixelHeight, RGBAFormat, FloatType);
  }
  if (vkFormat === ktx.VK_FORMAT_R16G16B16A16_SFLOAT) {
    return new DataTexture(new Uint16Array(buffer), pixelWidth, pixelHeight, RGBAFormat, HalfFloatType);
  }
  throw new Error("Its KTX2 file is not of half or full floats: save it as one of them");
}
