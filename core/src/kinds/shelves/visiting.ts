import { choice, number as numberSetting, vector as vectorSetting } from "../../setting/descriptor";
import { number, vector, within } from "../../setting/property";
import type { ObjectKindDeclaration } from "../declaration";
import { LENGTH, PLACE, placed, solid, spokenSettings } from "../shared";

export const ZONE_SHAPES = { box: "box", ball: "ball", cylinder: "cylinder" } as const;
export type ZoneShape = keyof typeof ZONE_SHAPES;

/** The world that visitors stand in: exactly one in every scene. */
export const WORLD = {
  world: {
    label: "World",
    help: "Gravity, and where and how visitors come into the scene.",
    singleton: true,
    can: {},
    properties: {
      gravity: vector(
        "Gravity",
        "m/s²",
        [-100, 100, 0.01],
        [0, -9.81, 0],
        9,
        "What pulls at moving bodies.",
        {
          unseen: true,
        },
      ),
    },
    settings: {
      arriveAt: within(
        "main",
        vectorSetting("Visitors arrive at", "m", PLACE, [0, 0, 5], "Where their feet are at first."),
      ),
      arriveTurn: within(
        "main",
        numberSetting("Facing", "°", [-360, 360, 1], 0, "0 looks away from the viewer, 90 to the left.", {
          chars: 4,
        }),
      ),
      eyeHeight: within(
        "main",
        numberSetting("Eye height", "m", [0.3, 3, 0.01], 1.6, "Height of their eyes above their feet.", {
          chars: 4,
        }),
      ),
      walkSpeed: within(
        "main",
        numberSetting("Walking speed", "m/s", [0.1, 20, 0.1], 1.6, "How fast they walk.", { chars: 4 }),
      ),
      worldScale: within(
        "main",
        numberSetting(
          "Scale in a headset",
          "×",
          [0.01, 100, 0.01],
          1,
          "Size of the scene around the visitor.",
          {
            chars: 5,
          },
        ),
      ),
      floorHeight: within(
        "main",
        numberSetting("Floor height", "m", [-100, 100, 0.01], 0, "Height of the floor visitors stand on.", {
          chars: 5,
        }),
      ),
      teleports: within(
        "main",
        choice(
          "Teleports land",
          { anywhere: "on solid things and the floor", solid: "on solid things only" },
          "anywhere",
          "Only on solid things where the floor is no place to be, such as under water.",
        ),
      ),
    },
  },
} as const satisfies Record<string, ObjectKindDeclaration>;

/** Unseen things that visitors have to do with. */
export const VISITING = {
  zone: {
    label: "Zone",
    help: "An unseen region that knows who is in it; answers tell what happens then.",
    shelf: "visitors",
    can: { placement: "turned", grouped: true, pointable: true },
    properties: {
      ...solid,
      size: vector("Size", "m", LENGTH, [3, 3, 3], 1, "Width, height and depth."),
    },
    settings: {
      shape: within("main", choice("Shape", ZONE_SHAPES, "box", "A cylinder stands upright.")),
      counts: within(
        "main",
        choice(
          "Fullness counts",
          { visitor: "the visitor", hand: "hands", thing: "moving things", anyone: "all of them" },
          "visitor",
          "Whose nearness to its middle a strand reads from it: 0 outside and at its border, 1 in its middle.",
        ),
      ),
      ...spokenSettings,
    },
  },
  viewpoint: {
    label: "Viewpoint",
    help: "A place to look from: answers step the camera through viewpoints.",
    shelf: "visitors",
    can: { placement: "moved", grouped: true, pointable: true },
    properties: {
      position: { ...placed.position, default: [0, 1.7, 6] },
      target: vector("Target", "m", PLACE, [0, 1, 0], 1, "The point in the middle of the image."),
      fieldOfView: number("Field of view", "°", [5, 150, 1], 45, 20, "Height of the image as an angle."),
    },
    settings: {},
  },
} as const satisfies Record<string, ObjectKindDeclaration>;
