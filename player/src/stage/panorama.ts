/// <reference path="../ktx-parse.d.ts" />
import { EquirectangularReflectionMapping, LinearFilter, type Texture } from "three";

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
  const [{ HDRLoader }, { DataTexture, HalfFloatType, RGBAFormat }] = await Promise.all([
    import("three/examples/jsm/loaders/HDRLoader.js"),
    import("three"),
  ]);
  const { width, height, data } = new HDRLoader().parse(bytes) as unknown as Pixels;
  const texture = new DataTexture(data, width, height, RGBAFormat, HalfFloatType);
  texture.flipY = true;
  return texture;
}

async function readExr(bytes: ArrayBuffer): Promise<Texture> {
  const [{ EXRLoader }, { DataTexture, HalfFloatType, RGBAFormat }] = await Promise.all([
    import("three/examples/jsm/loaders/EXRLoader.js"),
    import("three"),
  ]);
  const { width, height, data } = new EXRLoader()
    .setDataType(HalfFloatType)
    .parse(bytes) as unknown as Pixels;
  return new DataTexture(data, width, height, RGBAFormat, HalfFloatType);
}

/** Of KTX2 the plain float formats, which need no decoder; others say so. */
async function readKtx2(bytes: ArrayBuffer): Promise<Texture> {
  const [{ read, VK_FORMAT_R16G16B16A16_SFLOAT, VK_FORMAT_R32G32B32A32_SFLOAT }, three] = await Promise.all([
    import("three/examples/jsm/libs/ktx-parse.module.js"),
    import("three"),
  ]);
  const { vkFormat, levels, pixelWidth, pixelHeight, supercompressionScheme } = read(new Uint8Array(bytes));
  const [level] = levels;
  if (supercompressionScheme !== 0 || !level)
    throw new Error("Its KTX2 file is compressed: save it as float");
  const { buffer } = level.levelData.slice();
  if (vkFormat === VK_FORMAT_R32G32B32A32_SFLOAT) {
    return new three.DataTexture(
      new Float32Array(buffer),
      pixelWidth,
      pixelHeight,
      three.RGBAFormat,
      three.FloatType,
    );
  }
  if (vkFormat === VK_FORMAT_R16G16B16A16_SFLOAT) {
    return new three.DataTexture(
      new Uint16Array(buffer),
      pixelWidth,
      pixelHeight,
      three.RGBAFormat,
      three.HalfFloatType,
    );
  }
  throw new Error("Its KTX2 file is not of half or full floats: save it as one of them");
}
