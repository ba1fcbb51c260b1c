import { type TSchema, Type } from "@sinclair/typebox";
import { sceneSchema } from "../document/scene";
import { Colour, closed, Id, Name, orNull, settingSchemas } from "../setting/schema";
import { kindOf, OBJECT_KIND_NAMES } from "./table";

const some = (schemas: Record<string, TSchema>) => Type.Partial(Type.Object(schemas, closed));

/** Keys of properties that an object declares itself: unlike those of its kind, they have a colon. */
const OWN_KEY = "^[a-z]+:.{1,200}$";
const Finite = Type.Number({ minimum: -1e9, maximum: 1e9 });
const basics = {
  label: Type.String({ maxLength: 200 }),
  help: Type.String({ maxLength: 400 }),
  section: Type.String({ maxLength: 20 }),
  perCopy: Type.Optional(Type.Literal(true)),
};
const numeric = {
  unit: Type.String({ maxLength: 10 }),
  min: Finite,
  max: Finite,
  step: Finite,
  visible: Finite,
};
const Vector = Type.Array(Finite, { minItems: 3, maxItems: 3 });
const OwnProperty = Type.Union([
  Type.Object(
    {
      type: Type.Literal("number"),
      ...basics,
      ...numeric,
      default: Finite,
      whole: Type.Optional(Type.Literal(true)),
      integrates: Type.Optional(Type.Literal(true)),
      wraps: Type.Optional(Finite),
      switchesAt: Type.Optional(Finite),
      words: Type.Optional(Type.Array(Type.String({ maxLength: 60 }), { maxItems: 64 })),
    },
    closed,
  ),
  Type.Object(
    {
      type: Type.Literal("vector"),
      ...basics,
      ...numeric,
      default: Vector,
      uniform: Type.Boolean(),
    },
    closed,
  ),
  Type.Object({ type: Type.Literal("colour"), ...basics, default: Colour }, closed),
]);
const Own = Type.Object(
  {},
  { patternProperties: { [OWN_KEY]: OwnProperty }, additionalProperties: false, maxProperties: 256 },
);

const Links = Type.Object(
  {},
  { patternProperties: { [OWN_KEY]: Id }, additionalProperties: false, maxProperties: 256 },
);

/** The schema of a kind of object: its settings and resting values, each within its declared limits. */
function objectSchema(kind: (typeof OBJECT_KIND_NAMES)[number]) {
  const { settings, properties } = kindOf(kind);
  const rest = some(settingSchemas(properties) as Record<string, TSchema>);
  return Type.Object(
    {
      id: Id,
      name: Name,
      kind: Type.Literal(kind),
      parentId: orNull(Id),
      hidden: Type.Boolean(),
      locked: Type.Boolean(),
      settings: some(settingSchemas(settings) as Record<string, TSchema>),
      rest: {
        ...rest,
        patternProperties: { [OWN_KEY]: Type.Union([Finite, Vector, Colour]) },
      } as TSchema,
      own: Type.Optional(Type.Unsafe({ $ref: "#/$defs/own" })),
      links: Type.Optional(Type.Unsafe({ $ref: "#/$defs/links" })),
    },
    closed,
  );
}

/** The JSON Schema of a scene document. */
export const SceneSchema = {
  ...sceneSchema(OBJECT_KIND_NAMES.map(objectSchema)),
  $defs: { own: Own, links: Links },
};
