import type { Binding, Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newScene } from "@bumbrel/core/kinds/create";
import { PALETTES } from "@bumbrel/core/setting/palettes";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURES, type Measure } from "@bumbrel/core/strand/measures/table";
import type { Shaping } from "@bumbrel/core/strand/shape/shaping";
import { putBoat, putHouses, putLighthouse, putWindows } from "./harbour";
import { range, sceneBuilder } from "./sceneBuilder";

/** The example's sounds, in the order they are listed, by the names of their files, and where they go. */
export const REGATTA_SOUNDS = [
  { id: "mix", name: "Regatta Night", heard: true, busId: "music", groupId: "band" },
  { id: "drums", name: "Drums", heard: false, busId: "music", groupId: "band" },
  { id: "bass", name: "Bass", heard: false, busId: "music", groupId: "band" },
  { id: "pluck", name: "Plucked tune", heard: false, busId: "music", groupId: "band" },
  { id: "pad", name: "Pad", heard: false, busId: "music", groupId: "band" },
  { id: "bell", name: "Fog bell", heard: true, busId: "effects", faderDb: -14, pan: 0.4, loops: true },
  { id: "caller", name: "Caller", heard: true, busId: "voice", faderDb: -16, pan: -0.3 },
] as const;

const { sky, floor, lamp, inks } = PALETTES.slackwater;
const [brass, paper, verdigris, coral, reed] = inks;

/** Boats behind the leading one: place, turn, size, and the number of their ink. */
const FLEET: [x: number, z: number, turn: number, size: number, ink: number][] = [
  [-4.4, 0.6, -24, 1, 3],
  [3.9, 1.4, 36, 1, 2],
  [-6.6, -4.4, 12, 0.95, 0],
  [6.2, -3.6, -30, 0.95, 4],
  [-2.2, -6.2, 40, 0.9, 1],
  [2.1, -8.2, -12, 0.9, 3],
];

const band = (lowHz: number, highHz: number): Measure => ({ ...MEASURES.band.defaults, lowHz, highHz });

/**
 * The scene of *Regatta Night*: lantern boats on still water before a lit harbour, and fireworks on the chorus.
 *
 * @param storedIds  where each sound of {@link REGATTA_SOUNDS} is stored
 */
export function regattaScene(storedIds: Record<string, string>): Scene {
  const scene = newScene("Regatta Night");
  scene.about = "Stems, bands and hits that drive lanterns, boats, a harbour of lights and fireworks.";
  scene.loop = true;
  for (const sound of REGATTA_SOUNDS) {
    const basics = newSoundBasics(sound.id, sound.name);
    scene.sounds.push({ ...basics, ...sound, kind: "file", storedId: storedIds[sound.id] });
  }
  for (const name of ["Music", "Effects", "Voice"]) {
    scene.buses.push({ id: name.toLowerCase(), name, faderDb: 0, pan: 0, muted: false });
  }
  scene.groups.push({ id: "band", name: "Band", runs: "tape", loops: false });

  const strand = (
    id: string,
    name: string,
    soundId: string,
    measure: Measure,
    shaping: DeepPartial<Shaping>,
  ) => {
    const made = newStrand(scene, id, name, { kind: "sound", id: soundId, tap: "before" }, measure);
    for (const [step, settings] of Object.entries(shaping)) {
      Object.assign(made.shaping[step as keyof Shaping], settings);
    }
    scene.strands.push(made);
  };
  strand("snare", "Snare", "drums", band(1600, 7000), {
    window: { floorDb: -38, rangeDb: 26 },
    follow: { attackMs: 0, releaseMs: 140 },
  });
  Object.assign(scene.strands[0].cues, { on: true, rule: "rise", mark: 0.5 });
  strand("bass", "Bass", "bass", band(60, 220), {
    window: { floorDb: -36, rangeDb: 32 },
    follow: { attackMs: 20, releaseMs: 260 },
  });
  strand("tune", "Plucked tune", "pluck", band(500, 2500), {
    window: { floorDb: -48, rangeDb: 36 },
    follow: { attackMs: 5, releaseMs: 320 },
  });
  strand(
    "row",
    "Row of lamps",
    "mix",
    { ...MEASURES.fan.defaults, tiltDb: 3 },
    {
      window: { floorDb: -62, rangeDb: 46 },
      neighbours: { on: true, bands: 1 },
      follow: { attackMs: 20, releaseMs: 260 },
    },
  );
  strand("thump", "Thump", "drums", band(40, 110), {
    window: { floorDb: -34, rangeDb: 24 },
    follow: { attackMs: 0, releaseMs: 160 },
  });
  strand("tide", "Whole evening", "mix", MEASURES.peak.defaults, {
    window: { floorDb: -30, rangeDb: 30 },
    follow: { attackMs: 130, releaseMs: 1500 },
  });

  // Hits, but only while the whole evening is loud: the chorus.
  for (const [hit, name] of [
    ["snare", "Chorus, high hits"],
    ["thump", "Chorus, low hits"],
  ]) {
    const made = newStrand(
      scene,
      `${hit}-chorus`,
      name,
      { kind: "strands", ids: [hit, "tide"] },
      MEASURES.product.defaults,
    );
    Object.assign(made.cues, { on: true, rule: "rise", mark: 0.45, gapMs: 500 });
    scene.strands.push(made);
  }

  const { put, drive } = sceneBuilder(scene);

  const colours = (from: string, to: string, middle?: string) => ({
    kind: "colours" as const,
    stops: [{ at: 0, colour: from }, ...(middle ? [{ at: 0.5, colour: middle }] : []), { at: 1, colour: to }],
    mix: "oklch" as const,
  });
  const deal = (kind: Binding["deal"]["kind"]) => ({ deal: { kind, seed: 4 } });

  put("camera", "camera", "Camera", {
    position: [0.4, 1.75, 10.4],
    target: [0, 2.05, 0],
    fieldOfView: 42,
    drift: 0.14,
  });
  const backdrop = put("backdrop", "backdrop", "Night sky", {
    ...sky,
    horizonSpread: 0.42,
    stars: 0.7,
    clouds: 0.34,
    cloudColour: "#0f3238",
    cloudSize: 1.3,
  });
  put("environment", "environment", "Harbour all round", { intensity: 0.7 });
  const lens = put("lens", "lens", "Night air", {
    fog: 0.011,
    exposure: 0.25,
    bloom: 0.3,
    bloomFrom: 0.9,
    bloomReach: 0.6,
    vignette: 0.35,
    contrast: 1.12,
    saturation: 1.2,
  });
  drive("tide", lens, "bloom", range(0.22, 0.42));
  put("water", "water", "Water", {
    position: [0, -0.12, -30],
    extent: 220,
    colour: floor,
    roughness: 0.1,
    metalness: 0.1,
    reflection: 0.92,
    waves: 0.022,
    waveLength: 2.4,
    waveSpeed: 0.5,
    edgeFade: 0.35,
  });

  // The harbour behind: far enough to be seen through haze.
  put("moonlight", "sunLight", "Moonlight", {
    position: [-14, 15, -16],
    colour: "#b9d4ea",
    intensity: 1.5,
    shadowSoftness: 0.6,
  });
  const moon = put("moon", "sphere", "Moon", {
    position: [-19, 19, -66],
    radius: 2.3,
    colour: "#20282c",
    emissionColour: paper,
    emissionStrength: 1.2,
    emissionFalloff: 0.45,
  });
  drive("tide", moon, "emissionStrength", range(1, 1.7));
  put("quay-wall", "box", "Quay wall", {
    position: [0, -0.4, -31],
    size: [90, 1.5, 3],
    colour: "#31444a",
    roughness: 0.9,
    rounding: 0.1,
  });
  putHouses(
    put,
    "houses",
    "Harbour houses",
    { position: [0, 0.9, -33], colour: "#2a4148", size: [2.7, 3.6, 3], copies: 22 },
    21,
  );
  putHouses(
    put,
    "houses-behind",
    "Houses behind",
    { position: [0, 0.9, -40], colour: "#1f3a42", size: [3.2, 6.2, 3], copies: 22 },
    37,
  );
  for (const [n, y, z, copies, spacing] of [
    [1, 2.1, -31.35, 90, 0.72],
    [2, 3.5, -31.35, 70, 0.9],
    [3, 5.6, -38.3, 80, 0.85],
  ]) {
    const rest = { position: [0, y, z] as [number, number, number], copies, spacing };
    const windows = putWindows(put, `windows${n}`, `Lit windows ${n}`, rest, 8 + n);
    drive("row", windows, "emissionStrength", range(0.05, 3), deal("shuffled"));
  }
  put(
    "quay-posts",
    "cylinder",
    "Quay posts",
    { position: [0, 0.9, -29.4], copies: 15, spacing: 3.2, radius: 0.06, height: 2.1, colour: "#0e1a1e" },
    { settings: { formation: "row" } },
  );
  const quay = put(
    "quay",
    "sphere",
    "Lights along the quay",
    {
      position: [0, 3.1, -29.4],
      radius: 0.24,
      copies: 15,
      spacing: 3.2,
      colour: "#3a2c18",
      emissionColour: lamp,
      emissionStrength: 2.6,
      emissionFalloff: 0.4,
    },
    { settings: { formation: "row", castsShadow: false } },
  );
  drive("row", quay, "emissionStrength", range(1.4, 7), deal("place"));
  const beacon = putLighthouse(put, [16.5, 0.2, -36]);
  drive("bass", beacon, "emissionStrength", range(1, 9));

  const posts = put(
    "posts",
    "capsule",
    "Mooring posts",
    {
      position: [0, -0.25, -4],
      copies: 72,
      reach: 13,
      sweep: 160,
      radius: 0.075,
      height: 0.7,
      rotation: [0, 100, 0],
      colour: "#16363a",
      emissionColour: verdigris,
      emissionStrength: 0.1,
      emissionFalloff: 0.3,
    },
    { settings: { formation: "ring" } },
  );
  drive("row", posts, "growth", range(0.8, 3.4), deal("mirrored"));
  drive("row", posts, "emissionStrength", range(0.05, 2.6), deal("mirrored"));
  drive("row", posts, "emissionColour", colours("#2b7f6c", lamp, verdigris), deal("mirrored"));

  const leading = putBoat(put, {
    key: "",
    nameOf: (part) => `Leading ${part}`,
    position: [-0.5, -0.05, 3.1],
    turn: 18,
    size: 1.25,
    paperColour: brass,
  });
  drive("tide", leading.lantern, "emissionStrength", range(1.3, 3));
  drive("bass", leading.group, "rotation", range(-1.6, 1.6), { axes: ["z"] });
  const glow = put("lamp", "pointLight", "Lantern light", {
    position: [-0.6, 1.55, 3.1],
    colour: lamp,
    intensity: 10,
    reach: 14,
  });
  drive("tide", glow, "intensity", range(5, 20));

  FLEET.forEach(([x, z, turn, size, ink], i) => {
    const { group, lantern } = putBoat(put, {
      key: `${i + 1}`,
      nameOf: (part) => `${part[0].toUpperCase()}${part.slice(1)} ${i + 1}`,
      position: [x, -0.05, z],
      turn,
      size,
      paperColour: inks[ink],
    });
    if (i % 2 === 0) {
      drive("snare", lantern, "emissionStrength", range(0.8, 4));
      drive("bass", group, "rotation", range(1.5, -1.5), { axes: ["z"] });
    } else {
      drive("tune", lantern, "emissionStrength", range(0.7, 3.2));
      drive("tune", group, "position", range(-0.05, 0.12), { axes: ["y"] });
    }
    if (i < 2) {
      const light = put(
        `lamp${i + 1}`,
        "pointLight",
        `Light ${i + 1}`,
        {
          position: [x, 1.2 * size, z],
          colour: inks[ink],
          intensity: 4,
          reach: 9,
        },
        { settings: { castsShadows: false } },
      );
      drive(i === 0 ? "snare" : "tune", light, "intensity", range(2, 16));
    }
  });

  const fireflies = put("fireflies", "orbits", "Fireflies", {
    position: [-0.5, 1.5, 3.1],
    bodies: 5,
    speed: 48,
    speedSpread: 0.25,
    radius: 1.5,
    tilt: 16,
    bodySize: 0.06,
    trail: 1.4,
    trailWidth: 0.5,
    colour: "#2a3a20",
    emissionColour: reed,
    emissionStrength: 1.6,
    waveHeight: 0.25,
  });
  drive("snare", fireflies, "radius", range(0, 0.9), { mode: "kick", decayMs: 420 });
  drive("tide", fireflies, "speed", range(20, 110));

  const sparks = put("sparks", "particles", "Sparks", {
    position: [-0.6, 2.1, 3.1],
    rate: 14,
    speed: 0.9,
    spread: 22,
    from: 0.18,
    life: 2.6,
    gravity: -0.25,
    size: 0.045,
    endSize: 0.012,
    colour: lamp,
    middleColour: coral,
    endColour: "#5a1d2e",
    glow: 2,
    cap: 900,
  });
  drive("snare", sparks, "burst", range(10, 46), { mode: "kick" });
  drive("tune", sparks, "speed", range(0.6, 1.8));

  const fireworks = (
    id: string,
    name: string,
    position: [number, number, number],
    strandId: string,
    colour: string,
    middle: string,
  ) => {
    const rocket = put(id, "particles", name, {
      position,
      rate: 0,
      speed: 6.5,
      spread: 180,
      from: 0.3,
      life: 2.4,
      gravity: 2.2,
      size: 0.22,
      endSize: 0.05,
      colour,
      middleColour: middle,
      endColour: "#2a1230",
      glow: 4,
      softness: 0,
      cap: 2400,
    });
    drive(strandId, rocket, "burst", range(60, 260), { mode: "kick" });
  };
  fireworks("fireworks-left", "Fireworks, left", [-9, 10.5, -24], "snare-chorus", "#fff0c8", coral);
  fireworks("fireworks-right", "Fireworks, right", [8, 12, -26], "thump-chorus", "#eafff4", verdigris);

  const ripples = put(
    "ripples",
    "torus",
    "Ripples",
    {
      position: [-0.5, -0.1, 3.1],
      radius: 1.5,
      tube: 0.01,
      growth: 0.3,
      colour: "#0d2a30",
      emissionColour: verdigris,
      emissionStrength: 0.2,
      emissionFalloff: 0,
      opacity: 0.45,
      wakeRate: 0.9,
      wakeLife: 5,
      wakeDrift: [0, 0, 0],
      wakeGrowth: 4.2,
      wakeCap: 16,
    },
    { settings: { wake: true, castsShadow: false } },
  );
  drive("bass", ripples, "emissionStrength", range(0.05, 1));
  drive("tide", backdrop, "horizon", colours(sky.horizon, "#1d5a58"));
  return scene;
}

type DeepPartial<T> = { [K in keyof T]?: Partial<T[K]> };
