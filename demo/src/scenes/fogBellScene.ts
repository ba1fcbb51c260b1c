import { newAction, newAnswer, newCueSource } from "@bumbrel/core/action/answer";
import type { Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newScene } from "@bumbrel/core/kinds/create";
import { PALETTES } from "@bumbrel/core/setting/palettes";
import { newPlace, newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import type { QuaySound } from "../music/quayMusic";
import { LANTERN, putBoat, putHouses, putLighthouse, putWindows } from "./harbour";
import { range, sceneBuilder } from "./sceneBuilder";

/** Sounds of the example, by the names of their files. */
export const FOG_BELL_SOUNDS: readonly { id: QuaySound; name: string }[] = [
  { id: "netLoft", name: "Net loft" },
  { id: "boatHouse", name: "Boat house" },
  { id: "lampRoom", name: "Lamp room" },
  { id: "fogBell", name: "Fog bell" },
];

const { sky, floor, lamp, inks } = PALETTES.slackwater;
const [brass, paper, verdigris, coral] = inks;

/** Places along the quay with music of their own: sound, name, where, and the colour of their light. */
const PLACES: { sound: QuaySound; name: string; z: number; ink: string }[] = [
  { sound: "netLoft", name: "Net loft", z: 7, ink: brass },
  { sound: "boatHouse", name: "Boat house", z: -2, ink: verdigris },
  { sound: "lampRoom", name: "Lamp room", z: -11, ink: coral },
];
/** Half the width of a bell from its rim to its crown. */
const BELL = [
  { at: 0, value: 1 },
  { at: 0.12, value: 0.86 },
  { at: 0.45, value: 0.62 },
  { at: 0.8, value: 0.5 },
  { at: 0.95, value: 0.3 },
  { at: 1, value: 0 },
];
/** The quay: its width, and where it begins and ends. */
const QUAY = { width: 6, from: 16, to: -20, top: 0.5 };

/**
 * The scene of *Fog Bell*: a quay to walk along. Each house plays its own music to whoever stands before it, and goes on
 * where it stopped; the lamps come alight with nearness; the bell at the end makes the crates jump.
 *
 * @param storedIds  where each sound of {@link FOG_BELL_SOUNDS} is stored
 */
export function fogBellScene(storedIds: Record<string, string>): Scene {
  const scene = newScene("Fog Bell");
  scene.about = "A quay to walk along: music in its houses, a bell, and crates that jump on it.";
  scene.meeting = { look: "walk", camera: "none", headset: true, room: false };
  for (const { id, name } of FOG_BELL_SOUNDS) {
    const isBell = id === "fogBell";
    scene.sounds.push({
      ...newSoundBasics(id, name),
      kind: "file",
      storedId: storedIds[id],
      runs: "alone",
      loops: !isBell,
      faderDb: isBell ? -4 : -8,
      place: newPlace({
        position: [0, 2, 0],
        objectId: isBell ? "bell" : `${id}-door`,
        fromItsSide: true,
        maximumM: 24,
      }),
    });
  }
  const { put, drive } = sceneBuilder(scene);
  const length = QUAY.from - QUAY.to;
  const middle = (QUAY.from + QUAY.to) / 2;

  put("camera", "camera", "Camera", {
    position: [2.35, 2.15, 13.6],
    target: [-1.5, 1.75, -2],
    fieldOfView: 52,
    drift: 0.1,
  });
  put(
    "world",
    "world",
    "World",
    {},
    { settings: { arriveAt: [0.4, QUAY.top, 13.5], floorHeight: QUAY.top - 2, teleports: "solid" } },
  );
  put("backdrop", "backdrop", "Night sky", {
    ...sky,
    horizonSpread: 0.5,
    stars: 0.5,
    clouds: 0.42,
    cloudColour: "#17343a",
  });
  put("environment", "environment", "Harbour all round", { intensity: 0.75 });
  put("lens", "lens", "Fog", {
    fog: 0.022,
    exposure: 0.45,
    bloom: 0.34,
    bloomFrom: 0.9,
    bloomReach: 0.65,
    vignette: 0.3,
    contrast: 1.08,
    saturation: 1.15,
  });
  put("moonlight", "sunLight", "Moonlight", {
    position: [12, 13, 4],
    colour: "#a9c6dc",
    intensity: 1.3,
    shadowSoftness: 0.7,
  });
  put("moon", "sphere", "Moon", {
    position: [19, 17, -62],
    radius: 2.2,
    colour: "#20282c",
    emissionColour: paper,
    emissionStrength: 2.6,
    emissionFalloff: 0.45,
  });
  put("water", "water", "Water", {
    position: [0, -0.3, middle],
    extent: 200,
    colour: floor,
    roughness: 0.1,
    metalness: 0.1,
    reflection: 0.92,
    waves: 0.024,
    waveLength: 2.2,
    waveSpeed: 0.5,
    edgeFade: 0.35,
  });

  // The quay: stone below, boards on top, and walls that nobody walks through.
  const fixed = { settings: { solid: "fixed" } };
  put(
    "quay",
    "box",
    "Quay",
    {
      // As far as under the yard wall: in a gap between them a visitor's feet would hang below the top.
      position: [-0.3, -0.6, middle],
      size: [QUAY.width + 0.6, QUAY.top + 0.6, length],
      colour: "#3a4444",
      roughness: 0.9,
      rounding: 0.04,
    },
    fixed,
  );
  put(
    "boards",
    "box",
    "Boards",
    {
      position: [0, QUAY.top - 0.04, middle],
      rotation: [0, 90, 0],
      size: [0.43, 0.06, QUAY.width - 0.1],
      copies: 74,
      spacing: 0.486,
      hueSpread: 9,
      shapeSpread: 0.03,
      placeSpread: 0.008,
      colour: "#6d5138",
      roughness: 0.72,
      rounding: 0,
    },
    { settings: { formation: "row", facing: "same" } },
  );
  const kerb = (id: string, label: string, x: number, z: number, width: number, depth: number) =>
    put(
      id,
      "box",
      label,
      {
        position: [x, QUAY.top, z],
        // Higher than what a visitor climbs: nobody walks into the water.
        size: [width, 0.6, depth],
        colour: "#4d5856",
        roughness: 0.85,
        rounding: 0.05,
      },
      fixed,
    );
  kerb("kerb", "Kerb on the water", QUAY.width / 2 - 0.14, middle, 0.28, length);
  kerb("kerb-near", "Kerb at the landing", 0, QUAY.from - 0.14, QUAY.width, 0.28);
  kerb("kerb-far", "Kerb at the head", 0, QUAY.to + 0.14, QUAY.width, 0.28);
  put(
    "yard-wall",
    "box",
    "Yard wall",
    {
      position: [-3.6, -0.6, middle],
      size: [0.5, 2.7, length],
      colour: "#2b3a3d",
      roughness: 0.95,
      rounding: 0.06,
    },
    fixed,
  );
  put(
    "bollards",
    "lathe",
    "Bollards",
    {
      position: [2.86, QUAY.top + 0.38, middle],
      rotation: [0, 90, 0],
      copies: 8,
      spacing: 4.4,
      radius: 0.15,
      height: 0.4,
      colour: "#20292a",
      metalness: 0.6,
      roughness: 0.45,
    },
    {
      settings: {
        formation: "row",
        profile: [
          { at: 0, value: 0.7 },
          { at: 0.55, value: 0.6 },
          { at: 0.75, value: 1 },
          { at: 0.95, value: 0.9 },
          { at: 1, value: 0 },
        ],
      },
    },
  );
  put(
    "piles",
    "cylinder",
    "Piles",
    {
      position: [QUAY.width / 2 + 0.06, -1.2, middle],
      rotation: [0, 90, 0],
      copies: 13,
      spacing: 2.9,
      radius: 0.16,
      height: 1.9,
      colour: "#33291f",
      roughness: 0.9,
    },
    { settings: { formation: "row" } },
  );

  // Across the water: the far shore, with its lights.
  put("far-shore", "group", "Far shore", { position: [40, -0.3, -14], rotation: [0, -78, 0] });
  putHouses(
    put,
    "far-houses",
    "Houses across the water",
    { position: [0, 0, -2], colour: "#22383f", size: [3, 4, 3], copies: 26 },
    11,
    "far-shore",
  );
  for (const [n, y, copies, spacing] of [
    [1, 1.2, 70, 1.1],
    [2, 2.6, 54, 1.4],
  ])
    putWindows(
      put,
      `far-windows${n}`,
      `Windows across the water ${n}`,
      { position: [0, y, -0.35], copies, spacing },
      30 + n,
      "far-shore",
    );
  putLighthouse(put, [11, -0.3, -52]);
  const boats = [
    { key: "1", name: "Skiff", position: [5.2, -0.2, 6.2], turn: 78, paperColour: coral },
    { key: "2", name: "Lighter", position: [5.5, -0.2, -4.5], turn: 101, paperColour: brass },
    { key: "3", name: "Dinghy", position: [8.5, -0.2, 0.6], turn: 30, paperColour: verdigris },
  ] as const;
  for (const { name, position, ...boat } of boats)
    putBoat(put, { ...boat, position: [...position], size: 1.05, nameOf: (part) => `${name}, ${part}` });

  for (const [i, { sound, name, z, ink }] of PLACES.entries()) {
    put(
      `${sound}-house`,
      "box",
      `${name}, walls`,
      {
        position: [-5.4, -0.6, z],
        size: [4.4, 4.2, 6.4],
        colour: "#3b4c4c",
        roughness: 0.92,
        rounding: 0.05,
      },
      { settings: { solid: "fixed" } },
    );
    // A gable: the outline of a triangle, laid along the house.
    put(
      `${sound}-roof`,
      "extrusion",
      `${name}, roof`,
      {
        position: [-5.4, 4.4, z - 3.6],
        rotation: [90, 0, 0],
        size: [5.2, 7.2, 1.9],
        colour: "#27343a",
        roughness: 0.85,
      },
      {
        settings: {
          outline: "drawn",
          bevel: 0.01,
          drawnOutline: [
            [-1, 0, 1],
            [1, 0, 1],
            [0, 0, -1],
          ],
        },
      },
    );
    const door = put(`${sound}-door`, "box", `${name}, door`, {
      position: [-3.18, QUAY.top, z],
      size: [0.1, 2.2, 1.3],
      colour: "#2a1d12",
      emissionColour: ink,
      emissionStrength: 0.25,
      emissionFalloff: 0.2,
      rounding: 0.03,
    });
    put(`${sound}-frame`, "box", `${name}, door frame`, {
      position: [-3.2, QUAY.top, z],
      size: [0.1, 2.36, 1.62],
      colour: "#1b2426",
      roughness: 0.7,
      rounding: 0.02,
    });
    const windows = put(
      `${sound}-windows`,
      "box",
      `${name}, windows`,
      {
        position: [-3.18, 1.55, z],
        rotation: [0, 90, 0],
        size: [0.85, 0.95, 0.1],
        copies: 2,
        spacing: 4.2,
        colour: "#2a1d12",
        emissionColour: lamp,
        emissionStrength: 0.5,
        emissionFalloff: 0.1,
        rounding: 0.02,
      },
      { settings: { formation: "row", facing: "same", castsShadow: false } },
    );
    put(
      `${sound}-bars`,
      "box",
      `${name}, window bars`,
      {
        position: [-3.12, 2, z],
        rotation: [0, 90, 0],
        size: [0.9, 0.05, 0.06],
        copies: 2,
        spacing: 4.2,
        colour: "#1b2426",
      },
      { settings: { formation: "row", facing: "same", castsShadow: false } },
    );
    const light = put(
      `${sound}-light`,
      "pointLight",
      `${name}, light`,
      {
        position: [-1.6, 2.5, z],
        colour: ink,
        intensity: 3,
        reach: 8,
      },
      { settings: { castsShadows: false } },
    );
    // A string of lanterns over the quay, from the eaves to a pole.
    const span: [number, number, number][] = [
      [-3.1, 3.75, z],
      [-1.6, 3.32, z],
      [-0.1, 3.18, z],
      [1.4, 3.32, z],
      [2.85, 3.75, z],
    ];
    put(`${sound}-pole`, "cylinder", `${name}, pole`, {
      position: [2.85, QUAY.top, z],
      radius: 0.05,
      height: 3.4,
      colour: "#2b2119",
      roughness: 0.8,
    });
    put(
      `${sound}-line`,
      "tube",
      `${name}, line`,
      { position: [0, 0, 0], tube: 0.012, colour: "#141b1c" },
      { settings: { course: span } },
    );
    const lamps = put(
      `${sound}-lamps`,
      "lathe",
      `${name}, lanterns`,
      {
        position: [0, -0.34, 0],
        radius: 0.19,
        height: 0.42,
        copies: 6,
        colour: "#5c4630",
        emissionColour: ink,
        emissionStrength: 0.4,
        emissionFalloff: 0.9,
        roughness: 0.85,
      },
      {
        settings: {
          profile: LANTERN,
          anchor: "centre",
          formation: "path",
          facing: "same",
          path: [
            [-2.5, 3.56, z],
            [-1.6, 3.32, z],
            [-0.1, 3.18, z],
            [1.4, 3.32, z],
            [2.3, 3.56, z],
          ],
        },
      },
    );
    put(
      `${sound}-zone`,
      "zone",
      `Before the ${name.toLowerCase()}`,
      { position: [-0.4, 1.5, z], size: [5.4, 4, 7] },
      { settings: { shape: "box", counts: "visitor" } },
    );
    const near = newStrand(scene, `${sound}-near`, `Near the ${name.toLowerCase()}`, {
      kind: "zone",
      id: `${sound}-zone`,
    });
    near.measure = { kind: "fullness" };
    near.shaping.follow = { ...near.shaping.follow, on: true, attackMs: 120, releaseMs: 600 };
    const row = newStrand(
      scene,
      `${sound}-row`,
      `${name}, bands`,
      { kind: "sound", id: sound, tap: "before" },
      { ...MEASURES.fan.defaults, tiltDb: 3 },
    );
    Object.assign(row.shaping.window, { floorDb: -58, rangeDb: 40 });
    Object.assign(row.shaping.follow, { attackMs: 8, releaseMs: 320 });
    scene.strands.push(near, row);
    drive(near.id, lamps, "emissionStrength", range(0.7, 1.4));
    drive(row.id, lamps, "emissionStrength", range(0, 4.5), {
      mode: "add",
      deal: { kind: "shuffled", seed: 3 + i },
    });
    drive(near.id, light, "intensity", range(7, 18));
    drive(row.id, light, "intensity", range(0, 16), { mode: "add" });
    drive(near.id, door, "emissionStrength", range(0.5, 1.8));
    drive(row.id, windows, "emissionStrength", range(0.7, 2.8));
    scene.answers.push(
      newAnswer(
        `${sound}-in`,
        `Into the ${name.toLowerCase()}`,
        newCueSource("enter", { zoneId: `${sound}-zone` }),
        [
          newAction("play", { soundId: sound, from: "where" }),
          newAction("fade", { soundId: sound, levelDb: 0, overMs: 500 }),
        ],
      ),
      newAnswer(
        `${sound}-out`,
        `Out of the ${name.toLowerCase()}`,
        newCueSource("leave", { zoneId: `${sound}-zone` }),
        [
          newAction("fade", { soundId: sound, levelDb: -60, overMs: 900 }),
          newAction("pause", { soundId: sound }),
        ],
      ),
    );
  }

  // The bell at the end, under its beam, and the crates before it.
  for (const [side, x] of [
    ["left", -0.95],
    ["right", 0.95],
  ] as const)
    put(
      `post-${side}`,
      "box",
      `Bell post, ${side}`,
      {
        position: [x, QUAY.top, -17.4],
        size: [0.2, 2.9, 0.2],
        colour: "#4a3827",
        roughness: 0.8,
        rounding: 0.02,
      },
      fixed,
    );
  put("beam", "box", "Beam", {
    position: [0, QUAY.top + 2.8, -17.4],
    size: [2.5, 0.18, 0.24],
    colour: "#4a3827",
    roughness: 0.8,
    rounding: 0.02,
  });
  const bell = put(
    "bell",
    "lathe",
    "Fog bell",
    {
      position: [0, QUAY.top + 1.85, -17.4],
      radius: 0.52,
      height: 0.9,
      colour: "#c79a4a",
      metalness: 0.9,
      roughness: 0.26,
      emissionColour: brass,
    },
    { settings: { profile: BELL } },
  );
  const bellLight = put(
    "bell-light",
    "pointLight",
    "Bell light",
    {
      position: [0, 2.1, -16],
      colour: lamp,
      intensity: 5,
      reach: 9,
    },
    { settings: { castsShadows: false } },
  );
  put(
    "crates",
    "box",
    "Crates",
    {
      position: [-0.6, QUAY.top + 0.02, -13.9],
      size: [0.55, 0.55, 0.55],
      copies: 9,
      spacing: 0.72,
      mass: 6,
      bounce: 0.25,
      placeSpread: 0.05,
      hueSpread: 8,
      colour: "#9a7448",
      roughness: 0.75,
      rounding: 0.03,
    },
    { settings: { solid: "moving", formation: "grid" } },
  );
  const ring = newStrand(scene, "ring", "Bell", { kind: "sound", id: "fogBell", tap: "before" });
  Object.assign(ring.shaping.window, { floorDb: -40, rangeDb: 30 });
  Object.assign(ring.shaping.follow, { attackMs: 0, releaseMs: 900 });
  scene.strands.push(ring);
  drive("ring", bell, "emissionStrength", range(0, 2.4));
  drive("ring", bellLight, "intensity", range(10, 44));
  scene.answers.push(
    newAnswer("strike", "Strike the bell", newCueSource("tap", { objectId: "bell" }), [
      newAction("play", { soundId: "fogBell", from: "start" }),
      newAction("kick", { objectId: "bell", property: "rotation", amount: 18, decayMs: 900 }),
    ]),
    newAnswer("reach", "A hand on the bell", newCueSource("touch", { objectId: "bell" }), [
      newAction("play", { soundId: "fogBell", from: "start" }),
      newAction("pulse", { strength: 0.7, forMs: 60 }),
    ]),
    newAnswer("come", "Coming to the bell", newCueSource("near", { objectId: "bell", distanceM: 3 }), [
      newAction("play", { soundId: "fogBell", from: "start" }),
    ]),
    newAnswer("jump", "The crates jump", newCueSource("soundStarts", { soundId: "fogBell" }), [
      newAction("jump", { objectId: "crates", heightM: 0.7 }),
      newAction("push", { objectId: "crates", velocity: [0.4, 0, 0.3] }),
    ]),
  );
  return scene;
}
