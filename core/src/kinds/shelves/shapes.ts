import { choice, number as numberSetting, reference, text, toggle, whole } from "../../setting/descriptor";
import { number, vector, within } from "../../setting/property";
import type { ObjectKindDeclaration, ReadSize } from "../declaration";
import { BODY, body, bodySettings, LENGTH, SHARE, untinted } from "../shared";

const size = vector("Size", "m", LENGTH, [1, 1, 1], 0.8, "Width, height and depth at scale 1.");
const radius = number("Radius", "m", [0.001, 500, 0.01], 0.5, 0.5, "Radius at scale 1.");
const height = number("Height", "m", LENGTH, 1, 1, "Height at scale 1.");
const onNoise = { when: { setting: "heightsFrom", is: ["noise"] } };
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
  extrusion: {
    label: "Extruded outline",
    help: "A star, leaf, gear or drawn outline with depth, standing on its base.",
    shelf: "shapes",
    can: BODY,
    body: { size: (read) => [read("size", 0), read("size", 1), read("size", 2)] },
    properties: body({ size: { ...size, default: [1, 0.4, 1] } }),
    settings: {
      outline: within(
        "main",
        choice(
          "Outline",
          {
            polygon: "polygon",
            star: "star",
            leaf: "leaf",
            heart: "heart",
            gear: "gear",
            cross: "cross",
            drop: "drop",
            drawn: "drawn",
          },
          "star",
          "Its shape as seen from above.",
        ),
      ),
      sides: within(
        "main",
        whole("Corners", [3, 64], 5, "Corners of a polygon, points of a star, teeth of a gear.", {
          when: { setting: "outline", is: ["polygon", "star", "gear"] },
        }),
      ),
      inner: within(
        "main",
        numberSetting(
          "Inner radius",
          "",
          SHARE,
          0.55,
          "How deep it is cut, or how wide a leaf or cross is.",
          {
            when: { setting: "outline", is: ["star", "gear", "leaf", "cross"] },
          },
        ),
      ),
      drawnOutline: within("main", {
        type: "path",
        label: "Points",
        help: "Points of the outline as seen from above.",
        when: { setting: "outline", is: ["drawn"] },
        default: [
          [-1, 0, -0.6],
          [1, 0, -0.6],
          [1, 0, 0.6],
          [-1, 0, 0.6],
        ],
      }),
      taper: within("main", numberSetting("Taper", "", SHARE, 0, "How much narrower its foot is.")),
      twist: within(
        "main",
        numberSetting("Twist", "°", [-720, 720, 1], 0, "Turn of its top against its foot."),
      ),
      bevel: within("main", numberSetting("Bevel", "", [0, 0.25, 0.005], 0.04, "Width of its rounded rims.")),
      anchor,
      ...bodySettings,
    },
  },
  lathe: {
    label: "Turned profile",
    help: "A vase, bell, bowl or spindle: a drawn profile turned about its upright axis.",
    shelf: "shapes",
    can: BODY,
    body: upright,
    properties: body({ radius, height }),
    settings: {
      profile: within("main", {
        type: "curve",
        label: "Profile",
        help: "Half its width, from its foot at the left to its top at the right.",
        default: [
          { at: 0, value: 0.45 },
          { at: 0.3, value: 1 },
          { at: 0.7, value: 0.38 },
          { at: 1, value: 0.62 },
        ],
      }),
      anchor,
      ...bodySettings,
    },
  },
  tube: {
    label: "Tube",
    help: "A tube along a line through points.",
    shelf: "shapes",
    can: BODY,
    body: { size: () => cube(1) },
    properties: body({
      tube: number("Tube radius", "m", [0.001, 50, 0.005], 0.12, 0.2, "Radius in the middle of its length."),
      tubeTaper: number("End taper", "", SHARE, 0, 0.8, "1 runs to a point at both ends."),
    }),
    settings: {
      course: within("main", {
        type: "path",
        label: "Course",
        help: "Points that it goes through.",
        default: [
          [-1.4, 0.3, 0],
          [-0.5, 1.2, -0.4],
          [0.5, 0.5, 0.4],
          [1.4, 1.4, 0],
        ],
      }),
      isClosed: within("main", toggle("Closed", false, "Its end is joined to its start.")),
      ...bodySettings,
    },
  },
  terrain: {
    label: "Terrain",
    help: "Hills from noise, or from the light and dark of an image.",
    shelf: "around",
    can: BODY,
    body: { size: (read) => [read("size", 0), read("size", 1), read("size", 2)] },
    properties: body({
      size: { ...size, default: [12, 1.6, 12], help: "Width, greatest height and depth." },
    }),
    settings: {
      heightsFrom: within(
        "main",
        choice(
          "Heights from",
          { noise: "noise", image: "an image" },
          "noise",
          "What its hills are made from.",
        ),
      ),
      heightId: within(
        "main",
        reference("Image", "picture", "Light parts are high, dark ones low.", {
          when: { setting: "heightsFrom", is: ["image"] },
        }),
      ),
      hills: within(
        "main",
        numberSetting("Hills", "×", [0.5, 20, 0.1], 4, "How many there are across.", onNoise),
      ),
      ruggedness: within(
        "main",
        numberSetting("Ruggedness", "", SHARE, 0.45, "How rough the hills are.", onNoise),
      ),
      anchor,
      ...bodySettings,
    },
  },
  text: {
    label: "Text",
    help: "Letters with depth, sharp from any distance.",
    shelf: "shapes",
    can: BODY,
    body: { size: (read) => [read("height"), read("height"), read("depth")], isFlat: true },
    properties: body({
      height: { ...height, default: 0.6, help: "Height of a line at scale 1." },
      depth: number("Depth", "m", [0.001, 50, 0.005], 0.08, 0.3, "Depth of its letters."),
    }),
    settings: {
      bevel: within(
        "main",
        numberSetting("Bevel", "", [0, 0.1, 0.002], 0.012, "Width of its rounded edges."),
      ),
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
