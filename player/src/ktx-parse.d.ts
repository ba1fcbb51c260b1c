declare module "three/examples/jsm/libs/ktx-parse.module.js" {
  export const VK_FORMAT_R16G16B16A16_SFLOAT: number;
  export const VK_FORMAT_R32G32B32A32_SFLOAT: number;
  export function read(bytes: Uint8Array): {
    vkFormat: number;
    pixelWidth: number;
    pixelHeight: number;
    supercompressionScheme: number;
    levels: { levelData: Uint8Array }[];
  };
}
