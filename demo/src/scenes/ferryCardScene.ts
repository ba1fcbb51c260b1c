import { newAction, newAnswer, newCueSource } from "@bumbrel/core/action/answer";
import type { Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newScene } from "@bumbrel/core/kinds/create";
import { PALETTES } from "@bumbrel/core/setting/palettes";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import type { QuaySound } from "../music/quayMusic";
import { LANTERN } from "./harbour";
import { range, sceneBuilder } from "./sceneBuilder";

/** Sounds of the example, by the names of their files. */
export const FERRY_CARD_SOUNDS: readonly { id: QuaySound; name: string }[] = [
  { id: "farewell", name: "Farewell" },
];

const { inks, lamp } = PALETTES.slackwater;
const [brass, paper, verdigris, coral] = inks;
/** Height of the middle of the rings, where the head of somebody in a front camera's picture is, m. */
const HEAD = 1.96;

/**
 * The scene of *Ferry Card*: a card from the ferry, for a phone's front camera. A tap begins the music, and rings of light stand
 * behind whoever holds the phone, until the music ends.
 *
 * @param storedIds  where each sound of {@link FERRY_CARD_SOUNDS} is stored
 */
export function ferryCardScene(storedIds: Record<string, string>): Scene {
  const scene = newScene("Ferry Card");
  scene.about = "For a phone: a tap begins the music, with rings of light behind the person.";
  scene.budget = "phone";
  scene.meeting = { look: "camera", camera: "front", headset: false, room: false };
  for (const { id, name } of FERRY_CARD_SOUNDS) {
    scene.sounds.push({ ...newSoundBasics(id, name), kind: "file", storedId: storedIds[id], runs: "alone" });
  }
  const { put, drive } = sceneBuilder(scene);
  const listen = (
    id: string,
    name: string,
    measure: Scene["strands"][number]["measure"],
    floorDb: number,
    rangeDb: number,
  ) => {
    const strand = newStrand(scene, id, name, { kind: "sound", id: "farewell", tap: "before" }, measure);
    Object.assign(strand.shaping.window, { floorDb, rangeDb });
    scene.strands.push(strand);
    return strand;
  };
  const thump = listen("thump", "Thump", { ...MEASURES.band.defaults, lowHz: 40, highHz: 110 }, -32, 28);
  Object.assign(thump.shaping.follow, { attackMs: 0, releaseMs: 260 });
  Object.assign(thump.cues, { on: true, rule: "rise", mark: 0.5 });
  listen("row", "Row of bands", { ...MEASURES.fan.defaults, tiltDb: 3 }, -60, 44);
  const swell = listen("swell", "Swell", MEASURES.rms.defaults, -36, 30);
  Object.assign(swell.shaping.follow, { attackMs: 90, releaseMs: 1200 });

  put("camera", "camera", "Camera", { position: [0, 1.45, 4.4], target: [0, 1.45, 0], fieldOfView: 40 });
  put("lens", "lens", "Air", { exposure: 0.15, fog: 0 });
  put("environment", "environment", "Light all round", { intensity: 0.5 });
  put("front", "pointLight", "Light from the front", {
    position: [0.6, 2.6, 3],
    colour: lamp,
    intensity: 26,
  });
  // Rings behind the person: each turns by itself, and grows with the music.
  const rings: [id: string, radius: number, tube: number, ink: string, spin: number][] = [
    ["inner", 0.8, 0.03, brass, 18],
    ["middle", 1.1, 0.024, coral, -13],
    ["outer", 1.42, 0.018, verdigris, 9],
  ];
  for (const [id, radius, tube, ink, spin] of rings) {
    const ring = put(
      `ring-${id}`,
      "torus",
      `Ring, ${id}`,
      {
        position: [0, HEAD, -0.4],
        rotation: [84, 0, 0],
        radius,
        tube,
        spin,
        colour: "#20180f",
        emissionColour: ink,
        emissionStrength: 1.2,
        visibility: 0,
      },
      { settings: { onCamera: "behind" } },
    );
    drive("thump", ring, "scale", range(1, 1.07));
    drive("swell", ring, "emissionStrength", range(0.9, 2.6));
  }
  // Hoops that run outwards from the rings, one after the other.
  const hoops = put(
    "hoops",
    "torus",
    "Hoops running outwards",
    {
      position: [0, HEAD, -0.7],
      rotation: [90, 0, 0],
      radius: 0.76,
      tube: 0.008,
      growth: 1,
      colour: "#20180f",
      emissionColour: lamp,
      emissionStrength: 0.8,
      emissionFalloff: 0,
      opacity: 0.6,
      visibility: 0,
      wakeRate: 1.667,
      wakeLife: 2.4,
      wakeDrift: [0, 0, 0],
      wakeGrowth: 1.6,
      wakeCap: 12,
    },
    { settings: { wake: true, onCamera: "behind" } },
  );
  drive("thump", hoops, "emissionStrength", range(0.3, 1.6));
  const beads = put(
    "beads",
    "sphere",
    "Beads of light",
    {
      position: [0, HEAD, -0.6],
      rotation: [90, 0, 0],
      radius: 0.034,
      reach: 1.66,
      copies: 48,
      spin: 6,
      colour: "#2a2018",
      emissionColour: paper,
      emissionStrength: 0.6,
      visibility: 0,
    },
    { settings: { formation: "ring", onCamera: "behind" } },
  );
  drive("row", beads, "emissionStrength", range(0.2, 4));
  drive("row", beads, "copyScale", range(0.5, 2.4));
  const sparks = put(
    "sparks",
    "particles",
    "Sparks",
    {
      position: [0, HEAD, -0.5],
      rate: 10,
      speed: 1.3,
      spread: 180,
      from: 0.75,
      life: 2.2,
      gravity: -0.3,
      size: 0.05,
      endSize: 0.012,
      colour: lamp,
      middleColour: coral,
      endColour: "#5a1d2e",
      glow: 2,
      cap: 600,
      visibility: 0,
    },
    { settings: { onCamera: "behind" } },
  );
  drive("thump", sparks, "burst", range(8, 30), { mode: "kick" });
  // Small lanterns on a line before the person.
  const line: [number, number, number][] = [
    [-0.95, 0.62, 0.7],
    [-0.45, 0.47, 0.7],
    [0, 0.42, 0.7],
    [0.45, 0.47, 0.7],
    [0.95, 0.62, 0.7],
  ];
  put(
    "line",
    "tube",
    "Line of the lanterns",
    { position: [0, 0, 0], tube: 0.006, colour: "#141b1c", visibility: 0 },
    { settings: { course: line, onCamera: "before" } },
  );
  const lanterns = put(
    "lanterns",
    "lathe",
    "Lanterns before the person",
    {
      position: [0, -0.11, 0],
      radius: 0.075,
      height: 0.17,
      copies: 7,
      colour: "#33230f",
      emissionColour: brass,
      emissionStrength: 1,
      emissionFalloff: 0.9,
      hueSpread: 24,
      roughness: 0.85,
      visibility: 0,
    },
    {
      settings: {
        profile: LANTERN,
        anchor: "centre",
        formation: "path",
        facing: "same",
        path: line,
        onCamera: "before",
      },
    },
  );
  drive("row", lanterns, "emissionStrength", range(0.5, 4), { deal: { kind: "mirrored", seed: 1 } });
  const words = put(
    "words",
    "text",
    "Greeting",
    {
      position: [0, 0.52, 0.6],
      height: 0.17,
      depth: 0.03,
      colour: paper,
      emissionColour: paper,
      emissionStrength: 0.5,
    },
    { settings: { text: "Tap for the ferry card", onCamera: "before" } },
  );
  drive("swell", words, "emissionStrength", range(0.4, 1.2));

  const shown = ["ring-inner", "ring-middle", "ring-outer", "hoops", "beads", "sparks", "line", "lanterns"];
  scene.answers.push(
    newAnswer("begin", "Tap: the card begins", newCueSource("tap", { objectId: null }), [
      newAction("play", { soundId: "farewell", from: "start" }),
      ...shown.map((objectId, i) =>
        newAction("show", { objectId, does: "show", lasts: "sound", whileId: "farewell", delayMs: i * 200 }),
      ),
      newAction("show", { objectId: "words", does: "hide", lasts: "sound", whileId: "farewell" }),
    ]),
  );
  return scene;
}
