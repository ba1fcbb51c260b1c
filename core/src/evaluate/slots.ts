import type { RestValue, StageObject } from "../document/scene";
import { propertiesInUse } from "../kinds/table";
import { hexToLinear } from "../setting/colour";
import type { Property } from "../setting/property";

/** Place of a property's numbers in an output array. */
export interface Slot {
  objectId: string;
  key: string;
  property: Property;
  offset: number;
  /** 1 for a number; 3 for a vector, or a colour in linear RGB. */
  width: 1 | 3;
  /** Numbers of each copy, `width` of them one after the other; `undefined` while all copies are alike. */
  each: Float32Array | undefined;
}

/** Slots of an object's properties in use, from an offset on. */
export function slotsOf(object: StageObject, offset: number): Slot[] {
  let at = offset;
  return Object.entries(propertiesInUse(object)).map(([key, property]) => {
    const width = property.type === "number" ? 1 : 3;
    const slot: Slot = { objectId: object.id, key, property, offset: at, width, each: undefined };
    at += width;
    return slot;
  });
}

/** Writes a property's resting value. */
export function writeRest(slot: Slot, { rest }: StageObject, out: Float64Array): void {
  const value = (rest[slot.key] ?? slot.property.default) as RestValue;
  if (typeof value === "number") out[slot.offset] = value;
  else out.set(typeof value === "string" ? hexToLinear(value) : value, slot.offset);
}
