import { type Static, type TObject, type TSchema, Type } from "@sinclair/typebox";

/** One of some plain values; a JSON Schema `enum`, whose errors name the choices. */
export function oneOf<const T extends readonly (string | number)[]>(values: T) {
  return Type.Unsafe<T[number]>({ enum: [...values] });
}

/**
 * One of several shapes told apart by their `kind`. Declares the tag, so that an error speaks of the shape
 * that was meant and not of all the others.
 */
export function tagged<const T extends readonly TObject[]>(shapes: T) {
  return Type.Unsafe<Static<T[number]>>({
    type: "object",
    discriminator: { propertyName: "kind" },
    required: ["kind"],
    oneOf: [...shapes],
  });
}

/** A shape that may be `null` instead. */
export function orNull<T extends TSchema & { type: string }>(schema: T) {
  return Type.Unsafe<Static<T> | null>({ ...schema, type: [schema.type, "null"] });
}
