import type { ObjectKind, RestValue, StageObject } from "@bumbrel/core/document/scene";
import { PALETTES } from "@bumbrel/core/setting/palettes";
import type { sceneBuilder } from "./sceneBuilder";

type Put = ReturnType<typeof sceneBuilder>["put"];

/** Half the width of a paper lantern from its foot to its top: a barrel with ribs. */
const RIBS = 9;
export const LANTERN = Array.from({ length: 4 * RIBS + 1 }, (_, i) => {
  const at = i / (4 * RIBS);
  const barrel = 0.4 + 0.58 * Math.sin(Math.PI * at) ** 0.7;
  return { at, value: Math.max(0, barrel - (i % 4 === 0 ? 0.035 : i % 4 === 2 ? 0 : 0.012)) };
});
/** Half the width of the lighthouse: a tapering tower with a gallery below its light. */
const TOWER = [
  { at: 0, value: 1 },
  { at: 0.1, value: 0.86 },
  { at: 0.86, value: 0.56 },
  { at: 0.88, value: 0.78 },
  { at: 0.93, value: 0.78 },
  { at: 0.95, value: 0.5 },
  { at: 1, value: 0.5 },
];

const { lamp } = PALETTES.slackwater;
const paper = PALETTES.slackwater.inks[1];

type Vector = [number, number, number];

/**
 * Puts a lighthouse there.
 *
 * @returns its light
 */
export function putLighthouse(put: Put, [x, y, z]: Vector): StageObject {
  put(
    "lighthouse",
    "lathe",
    "Lighthouse",
    { position: [x, y, z], radius: 1.25, height: 9.5, colour: paper, roughness: 0.8 },
    { settings: { profile: TOWER } },
  );
  return put("beacon", "cylinder", "Beacon", {
    position: [x, y + 9.5, z],
    radius: 0.6,
    height: 1,
    rounding: 0.1,
    colour: "#3a2c18",
    emissionColour: lamp,
    emissionStrength: 1.5,
    emissionFalloff: 0.3,
  });
}

/** Puts a row of houses there, of uneven sizes. */
export function putHouses(
  put: Put,
  id: string,
  name: string,
  rest: { position: Vector; colour: string; size: Vector; copies: number },
  seed: number,
  parentId: string | null = null,
): StageObject {
  return put(
    id,
    "box",
    name,
    {
      spacing: 3.1,
      scaleSpread: 0.12,
      shapeSpread: 0.3,
      placeSpread: 0.35,
      roughness: 0.95,
      rounding: 0.06,
      ...rest,
    },
    { parentId, settings: { formation: "row", seed, facing: "same", castsShadow: false } },
  );
}

/** Puts a row of lit windows there. */
export function putWindows(
  put: Put,
  id: string,
  name: string,
  rest: { position: Vector; copies: number; spacing: number },
  seed: number,
  parentId: string | null = null,
): StageObject {
  return put(
    id,
    "box",
    name,
    {
      size: [0.24, 0.36, 0.6],
      placeSpread: 0.34,
      scaleSpread: 0.25,
      colour: "#241c14",
      emissionColour: lamp,
      emissionStrength: 0.5,
      emissionFalloff: 0,
      hueSpread: 14,
      ...rest,
    },
    { parentId, settings: { formation: "row", seed, facing: "same", castsShadow: false } },
  );
}

/** A boat: ids of its parts end with `key`, and their names say `name`. */
export interface BoatPlan {
  key: string;
  /** Name of a part, from what it is. */
  nameOf(part: string): string;
  position: Vector;
  turn: number;
  size: number;
  paperColour: string;
}

/** Puts a boat with a paper lantern there: a group, so that hull, mast and lantern move as one. */
export function putBoat(put: Put, { key, nameOf, position, turn, size, paperColour }: BoatPlan) {
  const part = (
    id: string,
    kind: ObjectKind,
    label: string,
    rest: Record<string, RestValue>,
    settings: StageObject["settings"] = {},
  ) => put(`${id}${key}`, kind, nameOf(label), rest, { parentId: `boat${key}`, settings });
  const group = put(`boat${key}`, "group", nameOf("boat"), {
    position,
    rotation: [0, turn, 0],
    scale: [size, size, size],
  });
  const outline = { outline: "leaf", inner: 0.42, bevel: 0.03 };
  part(
    "hull",
    "extrusion",
    "hull",
    {
      position: [0, -0.12, 0],
      size: [2.7, 0.5, 2.5],
      colour: "#6b4429",
      roughness: 0.45,
      clearcoat: 0.5,
      clearcoatRoughness: 0.3,
    },
    { ...outline, taper: 0.38, finish: "coated" },
  );
  part(
    "rail",
    "extrusion",
    "rail",
    { position: [0, 0.35, 0], size: [2.84, 0.09, 2.66], colour: "#8f6a3d", roughness: 0.5 },
    outline,
  );
  part("mast", "cylinder", "mast", {
    position: [-0.1, 0.4, 0],
    radius: 0.035,
    height: 1.9,
    colour: "#3c2a1c",
    roughness: 0.7,
    rounding: 0.01,
  });
  const lantern = part(
    "lantern",
    "lathe",
    "lantern",
    {
      position: [-0.1, 0.78, 0],
      radius: 0.4,
      height: 0.95,
      colour: "#5c4630",
      emissionColour: paperColour,
      emissionStrength: 1.1,
      emissionFalloff: 0.95,
      roughness: 0.85,
    },
    { profile: LANTERN, castsShadow: false },
  );
  for (const [id, y, radius, height] of [
    ["cap", 1.7, 0.17, 0.09],
    ["foot", 0.72, 0.15, 0.08],
  ] as const) {
    part(
      id,
      "cylinder",
      id,
      { position: [-0.1, y, 0], radius, height, rounding: 0.03, colour: "#2a1d14", roughness: 0.5 },
      { castsShadow: false },
    );
  }
  return { group, lantern };
}
