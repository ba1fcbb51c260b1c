import { type Static, type TObject, type TSchema, Type } from "@sinclair/typebox";
import { HEX_COLOUR_PATTERN } from "./colour";
import type { Setting, Settings, ValuesOf } from "./descriptor";

/** Objects take exactly the properties that are declared. */
export const closed = { additionalProperties: false } as const;

/** Names that every JavaScript object has: a lookup by one of them finds what nobody put there. */
const BUILT_IN_NAMES = Object.getOwnPropertyNames(Object.prototype).join("|");
export const Id = Type.String({
  minLength: 1,
  maxLength: 64,
  pattern: `^(?!(?:${BUILT_IN_NAMES})$)[A-Za-z0-9_-]+$`,
});
/** The key of a property of an object. */
export const PropertyKey = Type.String({
  minLength: 1,
  maxLength: 256,
  pattern: `^(?!(?:${BUILT_IN_NAMES})$)`,
});
export const MAX_NAME_LENGTH = 120;
export const Name = Type.String({ minLength: 1, maxLength: MAX_NAME_LENGTH });
export const Share = Type.Number({ minimum: 0, maximum: 1 });
/** Things that one setting names at most. */
export const MAX_REFERENCES = 64;
export const Colour = Type.String({ pattern: HEX_COLOUR_PATTERN });
/** Coordinates on the stage, in metres. */
export const Metres = Type.Number({ minimum: -1000, maximum: 1000 });
export const Seed = Type.Integer({ minimum: 0, maximum: 4_294_967_295 });

/** One of some plain values; a JSON Schema `enum`, whose errors name the choices. */
export function oneOf<const T extends readonly (string | number)[]>(values: T) {
  return Type.Unsafe<T[number]>({ enum: [...values] });
}

/**
 * One of several shapes told apart by their `kind`. Declares the tag, so that an error refers to the shape
 * that was meant and not to all the others.
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

/** The points of a drawn curve, from left to right. */
export const MAX_CURVE_POINTS = 64;
export const CurvePointsSchema = Type.Array(Type.Object({ at: Share, value: Share }, closed), {
  minItems: 2,
  maxItems: MAX_CURVE_POINTS,
});

export const ColourStops = Type.Array(Type.Object({ at: Share, colour: Colour }, closed), {
  minItems: 1,
  maxItems: 32,
});
const Path = Type.Array(Type.Array(Metres, { minItems: 3, maxItems: 3 }), { minItems: 2, maxItems: 64 });

/** The JSON Schema of a declared setting's value. */
export function settingSchema(setting: Setting): TSchema {
  switch (setting.type) {
    case "number": {
      const { min: minimum, max: maximum, unit } = setting;
      const options = { minimum, maximum, ...(unit && { description: unit }) };
      const schema = setting.whole ? Type.Integer(options) : Type.Number(options);
      return setting.orNone === undefined ? schema : orNull(schema);
    }
    case "choice":
      return oneOf(setting.values);
    case "switch":
      return Type.Boolean();
    case "colour":
      return Colour;
    case "vector": {
      const { min: minimum, max: maximum } = setting;
      return Type.Array(Type.Number({ minimum, maximum }), { minItems: 3, maxItems: 3 });
    }
    case "text":
      return Type.String({ maxLength: setting.maxLength });
    case "reference":
      return orNull(Id);
    case "stops":
      return ColourStops;
    case "path":
      return Path;
    case "curve":
      return CurvePointsSchema;
    case "references":
      return Type.Array(Id, { maxItems: MAX_REFERENCES });
    case "property":
      return Type.String({ maxLength: 256 });
    case "rest":
      return Type.Unsafe({
        oneOf: [
          Type.Number({ minimum: -1e9, maximum: 1e9 }),
          Colour,
          Type.Array(Type.Number({ minimum: -1e9, maximum: 1e9 }), { minItems: 3, maxItems: 3 }),
        ],
      });
    case "values":
      return Type.Record(PropertyKey, Type.Number(), { maxProperties: 64 });
  }
}

/** The schemas of some settings by their keys, for use among other properties of an object. */
export function settingSchemas<S extends Settings>(settings: S) {
  return Object.fromEntries(
    Object.entries(settings).map(([key, setting]) => [key, settingSchema(setting)]),
  ) as { [K in keyof S]: ReturnType<typeof Type.Unsafe<ValuesOf<S>[K]>> };
}
