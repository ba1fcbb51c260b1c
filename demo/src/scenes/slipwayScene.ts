import { newAction, newAnswer, newCueSource } from "@bumbrel/core/action/answer";
import type { Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newScene } from "@bumbrel/core/kinds/create";
import { PALETTES } from "@bumbrel/core/setting/palettes";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import type { QuaySound } from "../music/quayMusic";
import { putBoat, putHouses, putWindows } from "./harbour";
import { range, sceneBuilder } from "./sceneBuilder";

/** Sounds of the example, by the names of their files. */
export const SLIPWAY_SOUNDS: readonly { id: QuaySound; name: string }[] = [
  { id: "boatHouse", name: "Boat house" },
  { id: "buoy", name: "Buoy" },
];

const { sky, floor, inks } = PALETTES.slackwater;
const [brass, paper, verdigris, coral, reed] = inks;
const BUOYS = 5;
/** Half the width of a buoy: a drum with a cone on top. */
const FLOAT = [
  { at: 0, value: 0 },
  { at: 0.005, value: 0.84 },
  { at: 0.05, value: 1 },
  { at: 0.3, value: 1 },
  { at: 0.34, value: 0.9 },
  { at: 0.36, value: 0.74 },
  { at: 0.9, value: 0.16 },
  { at: 0.97, value: 0.1 },
  { at: 1, value: 0 },
];
/** Radius of the dome, and height of the deck below it, m. */
const DOME = 4.4;
const DECK = 0.12;
/** Boards of the low wall round the deck. */
const COAMING = 36;

/**
 * The scene of *Slipway*, for a headset: one stands inside a dome of lamps that follow the music, and strikes buoys that hang
 * within reach of the hands.
 *
 * @param storedIds  where each sound of {@link SLIPWAY_SOUNDS} is stored
 */
export function slipwayScene(storedIds: Record<string, string>): Scene {
  const scene = newScene("Slipway");
  scene.about = "For a headset: stand inside a dome of lamps and strike buoys with your hands.";
  scene.budget = "headset";
  scene.quality = "headset";
  scene.loop = true;
  scene.meeting = { look: "orbit", camera: "none", headset: true, room: true };
  for (const { id, name } of SLIPWAY_SOUNDS) {
    const isBuoy = id === "buoy";
    scene.sounds.push({
      ...newSoundBasics(id, name),
      kind: "file",
      storedId: storedIds[id],
      runs: isBuoy ? "alone" : "tape",
      loops: !isBuoy,
      faderDb: isBuoy ? -6 : -5,
    });
  }
  const { put, drive } = sceneBuilder(scene);
  const row = newStrand(
    scene,
    "row",
    "Row of bands",
    { kind: "sound", id: "boatHouse", tap: "before" },
    { ...MEASURES.fan.defaults, tiltDb: 3 },
  );
  Object.assign(row.shaping.window, { floorDb: -62, rangeDb: 44 });
  Object.assign(row.shaping.follow, { attackMs: 60, releaseMs: 500 });
  const swell = newStrand(
    scene,
    "swell",
    "Swell",
    { kind: "sound", id: "boatHouse", tap: "before" },
    MEASURES.rms.defaults,
  );
  Object.assign(swell.shaping.window, { floorDb: -36, rangeDb: 28 });
  Object.assign(swell.shaping.follow, { attackMs: 30, releaseMs: 1400 });
  scene.strands.push(row, swell);

  put("camera", "camera", "Camera", {
    position: [0.35, 1.72, 1.9],
    target: [-0.05, 1.74, -1],
    fieldOfView: 70,
    drift: 0.06,
  });
  put(
    "world",
    "world",
    "World",
    { gravity: [0, 0, 0] },
    { settings: { arriveAt: [0, DECK, 0.3], teleports: "solid" } },
  );
  put("backdrop", "backdrop", "Night sky", {
    ...sky,
    horizonSpread: 0.5,
    stars: 0.9,
    clouds: 0.12,
    cloudColour: "#17343a",
  });
  put("environment", "environment", "Harbour all round", { intensity: 0.8 });
  put("lens", "lens", "Air", {
    fog: 0.012,
    exposure: 0.35,
    bloom: 0.32,
    bloomFrom: 0.9,
    bloomReach: 0.6,
    contrast: 1.08,
    saturation: 1.15,
  });
  put("moonlight", "sunLight", "Moonlight", {
    position: [-9, 12, -6],
    colour: "#b9d4ea",
    intensity: 1,
    shadowSoftness: 0.6,
  });
  put("moon", "sphere", "Moon", {
    position: [-17, 18, -58],
    radius: 2.4,
    colour: "#20282c",
    emissionColour: paper,
    emissionStrength: 2.8,
    emissionFalloff: 0.45,
  });
  put("water", "water", "Water", {
    position: [0, -0.35, 0],
    extent: 200,
    colour: floor,
    roughness: 0.1,
    metalness: 0.1,
    reflection: 0.9,
    waves: 0.022,
    waveLength: 2.2,
    waveSpeed: 0.5,
    edgeFade: 0.35,
  });
  // The head of the slip: a round deck, and rails that run down into the water.
  put(
    "deck",
    "cylinder",
    "Deck",
    {
      position: [0, -0.4, 0],
      radius: DOME + 0.25,
      height: 0.4 + DECK,
      rounding: 0.04,
      colour: "#5a4028",
      roughness: 0.8,
    },
    { settings: { solid: "fixed" } },
  );
  // Higher than what a visitor climbs: nobody walks into the water.
  put(
    "coaming",
    "box",
    "Coaming",
    {
      position: [0, DECK, 0],
      reach: DOME,
      copies: COAMING,
      size: [(2 * Math.PI * DOME) / COAMING, 0.6, 0.06],
      colour: "#4a3826",
      roughness: 0.85,
      rounding: 0.01,
    },
    { settings: { formation: "ring", facing: "outwards", solid: "fixed" } },
  );
  for (const [i, [radius, copies]] of [
    [1.5, 18],
    [2.65, 32],
    [3.8, 46],
  ].entries()) {
    const width = (2 * Math.PI * radius) / copies;
    put(
      `boards-${i + 1}`,
      "box",
      `Boards, ring ${i + 1}`,
      {
        position: [0, DECK - 0.03, 0],
        reach: radius,
        copies,
        size: [width * 0.94, 0.05, 1.1],
        hueSpread: 6,
        colour: "#6a4a2c",
        roughness: 0.8,
        rounding: 0,
      },
      { settings: { formation: "ring", facing: "outwards", castsShadow: false } },
    );
    put(
      `inlay-${i + 1}`,
      "torus",
      `Brass inlay ${i + 1}`,
      {
        position: [0, DECK + 0.01, 0],
        radius: radius - 0.575,
        tube: 0.014,
        colour: "#8a6a34",
        metalness: 0.8,
        roughness: 0.35,
      },
      { settings: { castsShadow: false } },
    );
  }
  const rim = put("rim", "torus", "Rim", {
    position: [0, DECK + 0.03, 0],
    radius: DOME + 0.12,
    tube: 0.03,
    colour: "#4a3826",
    emissionColour: brass,
    emissionStrength: 0.4,
    emissionFalloff: 0.2,
  });
  for (const [side, x] of [
    ["left", -0.75],
    ["right", 0.75],
  ] as const)
    put(`rail-${side}`, "box", `Slip rail, ${side}`, {
      position: [x, -0.4, -9],
      rotation: [4, 0, 0],
      size: [0.16, 0.22, 9],
      colour: "#54483c",
      metalness: 0.5,
      roughness: 0.5,
      rounding: 0.02,
    });
  putBoat(put, {
    key: "",
    nameOf: (part) => `Launched ${part}`,
    position: [0.1, -0.25, -14.5],
    turn: 88,
    size: 1.3,
    paperColour: brass,
  });
  for (const [id, turn] of [
    ["ahead", 0],
    ["left", 118],
    ["right", -118],
  ] as const) {
    const angle = (turn * Math.PI) / 180;
    put(`shore-${id}`, "group", `Shore, ${id}`, {
      position: [-38 * Math.sin(angle), -0.3, -38 * Math.cos(angle)],
      rotation: [0, turn, 0],
    });
    putHouses(
      put,
      `houses-${id}`,
      `Houses, ${id}`,
      { position: [0, 0, -2], colour: "#22383f", size: [3, 4, 3], copies: 20 },
      200 + turn,
      `shore-${id}`,
    );
    const windows = putWindows(
      put,
      `windows-${id}`,
      `Windows, ${id}`,
      { position: [0, 1.7, -0.35], copies: 46, spacing: 1.35 },
      300 + turn,
      `shore-${id}`,
    );
    drive("row", windows, "emissionStrength", range(0.2, 3), { deal: { kind: "shuffled", seed: 4 } });
  }
  // The frame of the dome, and its lamps.
  for (let i = 0; i < 4; i++)
    put(`hoop-${i + 1}`, "torus", `Hoop ${i + 1}`, {
      position: [0, DECK, 0],
      rotation: [90, 22.5 + 45 * i, 0],
      radius: DOME + 0.07,
      tube: 0.018,
      colour: "#4a3826",
      metalness: 0.5,
      roughness: 0.5,
    });
  const dome = put(
    "dome",
    "icosphere",
    "Dome of lamps",
    {
      position: [0, DECK, 0],
      radius: 0.05,
      copies: 300,
      reach: DOME,
      colour: "#201a14",
      emissionColour: paper,
      emissionStrength: 0.15,
      emissionFalloff: 0.8,
    },
    {
      settings: {
        detail: 2,
        castsShadow: false,
        formation: "dome",
        facing: "inwards",
        gradientAlong: "copies",
        gradient: [
          { at: 0, colour: paper },
          { at: 0.35, colour: brass },
          { at: 0.7, colour: coral },
          { at: 1, colour: verdigris },
        ],
      },
    },
  );
  drive("row", dome, "emissionStrength", range(0.1, 4.5), { deal: { kind: "mirrored", seed: 1 } });
  drive("row", dome, "copyScale", range(0.7, 2.2), { deal: { kind: "mirrored", seed: 1 } });
  const glow = put(
    "glow",
    "pointLight",
    "Glow",
    { position: [0, 2.6, 0], colour: brass, intensity: 4 },
    { settings: { castsShadows: false } },
  );
  drive("swell", glow, "intensity", range(2, 16));
  drive("swell", rim, "emissionStrength", range(0.2, 1.6));
  const buoyInks = [brass, coral, verdigris, reed, paper];
  for (let i = 0; i < BUOYS; i++) {
    const angle = ((i - (BUOYS - 1) / 2) * 32 * Math.PI) / 180;
    const ink = buoyInks[i];
    const id = `buoy-${i + 1}`;
    put(
      id,
      "lathe",
      `Buoy ${i + 1}`,
      {
        position: [Math.sin(angle) * 0.86, DECK + 1.2 + 0.12 * (i % 2), -Math.cos(angle) * 0.86],
        radius: 0.15,
        height: 0.42,
        colour: ink,
        roughness: 0.3,
        clearcoat: 0.6,
        emissionColour: ink,
        emissionStrength: 0.3,
        emissionFalloff: 0.5,
        mass: 0.6,
        bounce: 0.6,
        damping: 1.1,
        turnDamping: 1.4,
        spring: 26,
      },
      { settings: { solid: "moving", anchor: "centre", profile: FLOAT, finish: "coated" } },
    );
    scene.answers.push(
      newAnswer(`strike-${i + 1}`, `Strike buoy ${i + 1}`, newCueSource("touch", { objectId: id }), [
        newAction("play", { soundId: "buoy", from: "start" }),
        newAction("kick", { objectId: id, property: "emissionStrength", amount: 12, decayMs: 700 }),
        newAction("kick", { objectId: "dome", property: "emissionStrength", amount: 1.6, decayMs: 900 }),
        newAction("pulse", { strength: 0.8, forMs: 50 }),
      ]),
      newAnswer(`tap-${i + 1}`, `Tap buoy ${i + 1}`, newCueSource("tap", { objectId: id }), [
        newAction("play", { soundId: "buoy", from: "start" }),
        newAction("kick", { objectId: id, property: "emissionStrength", amount: 12, decayMs: 700 }),
        newAction("push", { objectId: id, velocity: [0, 0.4, -1.2] }),
      ]),
    );
  }
  return scene;
}
