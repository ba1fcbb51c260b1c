import type { StageObject } from "../document/scene";
import { bodySizeOf, can, propertiesOf, settingOf, settingsOfKind } from "./table";

/** From one new thing to the next, metres. */
const APART_M = 1.7;
/** Places that are tried, to the right and the left of the middle in turn. */
const PLACES = 24;
/** Starting positions of kinds without a size: lamps above and in front of the scene, drawings where they are seen whole. */
const HEIGHTS_M: Partial<Record<StageObject["kind"], [y: number, z: number]>> = {
  pointLight: [2.4, 1.6],
  particles: [0.1, 0],
  orbits: [1.2, 0],
  waveform: [1.2, 0],
  spectrum: [0.3, 0],
  outlines: [2.2, -1],
  nest: [1.2, 0],
  ribbon: [0.4, 0],
  text: [0.9, 0],
  torus: [0.15, 0],
};

/** Surfaces of the surroundings, and how far over the others a new one lies, metres. */
const FLATS: readonly StageObject["kind"][] = ["ground", "water"];
const OVER_M = 0.02;

/** Puts a new object where it can be seen: standing on the floor, in the first gap beside what is there. */
export function placeNew(objects: readonly StageObject[], object: StageObject): void {
  const { kind } = object;
  if (FLATS.includes(kind)) {
    // Two surfaces at one height would show through each other.
    const heights = objects
      .filter((one) => FLATS.includes(one.kind))
      .map(({ rest }) => (rest.position as number[] | undefined)?.[1] ?? 0);
    if (heights.length > 0) object.rest.position = [0, Math.max(...heights) + OVER_M, 0];
    return;
  }
  const declared = propertiesOf(object).position;
  if (declared?.type !== "vector" || !can(kind).pointable || kind === "sunLight" || kind === "spotLight") {
    const [y, z] = HEIGHTS_M[kind] ?? [];
    if (y !== undefined) object.rest.position = [0, y, z ?? 0];
    return;
  }
  const [y, z] = HEIGHTS_M[kind] ?? [standing(object), 0];
  const isTaken = (x: number) =>
    objects.some((one) => {
      const position = one.rest.position as number[] | undefined;
      return (
        can(one.kind).surface &&
        Math.abs((position?.[0] ?? 0) - x) < APART_M / 2 &&
        Math.abs(position?.[2] ?? 0) < 1
      );
    });
  let x = 0;
  for (let i = 1; can(kind).surface && i < PLACES && isTaken(x); i++) {
    x = APART_M * Math.ceil(i / 2) * (i % 2 === 1 ? 1 : -1);
  }
  object.rest.position = [x, y, z];
  // Outlines stand, so that they are seen from the front.
  if (kind === "extrusion") Object.assign(object.rest, { position: [x, 0.5, z], rotation: [90, 0, 0] });
}

/** Height at which an object stands on the floor: half its own, unless it is placed by its base. */
function standing(object: StageObject): number {
  const size = bodySizeOf(object.kind);
  if (!size || "anchor" in settingsOfKind(object.kind)) {
    return settingOf(object, "anchor") === "base" ? 0 : 0.5;
  }
  const properties = propertiesOf(object);
  const read = (key: string, axis = 0) => {
    const { default: value } = properties[key] as { default: number | readonly number[] };
    return typeof value === "number" ? value : value[axis];
  };
  return size.size(read, 1)[1] / 2;
}
