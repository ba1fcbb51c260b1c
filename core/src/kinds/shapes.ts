import { choice, reference, text, whole } from "../setting/descriptor";
import { number, vector, within } from "../setting/property";
import type { ObjectKindDeclaration, ReadSize } from "./declaration";
import { BODY, body, bodySettings, LENGTH, surface } from "./shared";

const size = vector("Size", "m", LENGTH, [1, 1, 1], 0.8, "Width, height and depth at scale 1.");
const radius = number("Radius", "m", [0.001, 500, 0.01], 0.5, 0.5, "Radius at scale 1.");
const height = number("Height", "m", LENGTH, 1, 1, "Height at scale 1.");
const anchor = within(
  "main",
  choice(
    "Anchor",
    { base: "base", centre: "centre", corner: "corner" },
    "base",
    "The point that stays in place when the size changes.",
  ),
);

const rounding = number(
  "Edge radius",
  "m",
  [0, 100, 0.005],
  0.04,
  0.3,
  "Radius of its rounded edges; at most half its shortest side.",
);
/** Images and models have colours of their own. */
const untinted = {
  colour: { ...surface.colour, default: "#ffffff", help: "Multiplies its own colours; white leaves them." },
};

const cube = (edge: number) => [edge, edge, edge] as const;
const ball = { size: (read: ReadSize) => cube(2 * read("radius")) };
const upright = {
  size: (read: ReadSize) => [2 * read("radius"), read("height"), 2 * read("radius")] as const,
};

/** Bodies with a surface. */
export const SHAPES = {
  box: {
    label: "Box",
    help: "A block standing on its base, its centre or a corner.",
    shelf: "shapes",
    can: BODY,
    body: { size: (read) => [read("size", 0), read("size", 1), read("size", 2)] },
    properties: body({ size, rounding }),
    settings: { anchor, ...bodySettings },
  },
  sphere: {
    label: "Sphere",
    help: "A ball about its centre.",
    shelf: "shapes",
    can: BODY,
    body: ball,
    properties: body({ radius }),
    settings: bodySettings,
  },
  cylinder: {
    label: "Cylinder",
    help: "A drum standing on its base.",
    shelf: "shapes",
    can: BODY,
    body: upright,
    properties: body({ radius, height, rounding }),
    settings: { anchor, ...bodySettings },
  },
  capsule: {
    label: "Capsule",
    help: "A rod with round ends, standing on its base.",
    shelf: "shapes",
    can: BODY,
    body: upright,
    properties: body({ radius: { ...radius, default: 0.25 }, height }),
    settings: { anchor, ...bodySettings },
  },
  cone: {
    label: "Cone",
    help: "A cone standing on its base.",
    shelf: "shapes",
    can: BODY,
    body: upright,
    properties: body({ radius, height }),
    settings: { anchor, ...bodySettings },
  },
  torus: {
    label: "Torus",
    help: "A hoop lying flat about its centre.",
    shelf: "shapes",
    can: BODY,
    body: { size: (read) => cube(read("radius")) },
    properties: body({
      radius: { ...radius, default: 0.8, help: "From its middle to the middle of the tube." },
      tube: number("Tube radius", "m", [0.001, 100, 0.002], 0.15, 0.2, "Radius of the tube."),
    }),
    settings: bodySettings,
  },
  plane: {
    label: "Plane",
    help: "A flat sheet, upright and facing the viewer.",
    shelf: "shapes",
    can: BODY,
    body: { size: (read) => [read("size", 0), read("size", 1), 1], isFlat: true },
    properties: body({ size: { ...size, default: [1.6, 1, 1], help: "Width and height at scale 1." } }),
    settings: { anchor, ...bodySettings },
  },
  icosphere: {
    label: "Icosphere",
    help: "A ball of triangles, from twenty flat sides up.",
    shelf: "shapes",
    can: BODY,
    body: ball,
    properties: body({ radius }),
    settings: {
      detail: within("main", whole("Detail", [0, 5], 1, "Each level splits a triangle into four.")),
      ...bodySettings,
    },
  },
  text: {
    label: "Text",
    help: "Words on a transparent sheet.",
    shelf: "shapes",
    can: BODY,
    body: { size: (read) => cube(read("height")), isFlat: true },
    properties: body({ height: { ...height, default: 0.6, help: "Height of a line at scale 1." } }),
    settings: {
      text: within("main", text("Text", "Lanterns", "The words; a new line starts another line.", 400)),
      ...bodySettings,
    },
  },
  picture: {
    label: "Image",
    help: "A PNG, JPEG, WebP or SVG as a sheet; its transparent parts stay transparent.",
    shelf: "shapes",
    can: BODY,
    body: {
      size: (read, aspect) => [read("height") * aspect, read("height"), 1],
      isFlat: true,
      aspectOf: "pictureId",
    },
    properties: { ...body({ height }), ...untinted },
    settings: {
      pictureId: within("main", reference("Image", "picture", "The image it shows.")),
      anchor,
      ...bodySettings,
    },
  },
  model: {
    label: "Model",
    help: "A glTF model (GLB), whole or one of its parts.",
    shelf: "shapes",
    can: BODY,
    body: { size: () => cube(1) },
    properties: { ...body({}), ...untinted },
    settings: {
      modelId: within("main", reference("Model", "model", "The model it shows.")),
      part: within("main", text("Part", "", "Name of one part; empty shows all.", 200)),
      ...bodySettings,
    },
  },
} as const satisfies Record<string, ObjectKindDeclaration>;
