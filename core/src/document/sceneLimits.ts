/** The `format` and `version` that a scene document states. */
export const SCENE_FORMAT = "bumbrel-scene";
export const SCENE_VERSION = 11;

/** How many of each a scene may hold. */
export const MAX_ITEMS = {
  sounds: 256,
  buses: 64,
  groups: 64,
  strands: 1024,
  objects: 4096,
  assets: 256,
  programs: 64,
  bindings: 16_384,
  answers: 512,
  marks: 256,
  keeps: 64,
} as const;
export type SceneList = keyof typeof MAX_ITEMS;
