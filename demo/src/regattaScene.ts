import { newStrand } from "@bumbrel/core/document/newStrand";
import type { Binding, ObjectKind, RestValue, Scene, StageObject } from "@bumbrel/core/document/scene";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURES, type Measure } from "@bumbrel/core/strand/measures/table";
import type { Shaping } from "@bumbrel/core/strand/shaping";

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

const band = (lowHz: number, highHz: number): Measure => ({ ...MEASURES.band.defaults, lowHz, highHz });

/** Lanterns that float behind the leading one: place, colour, and how large they are. */
const FLEET: [x: number, z: number, colour: string, size: number][] = [
  [-3.6, 0.2, "#ff9d4d", 0.9],
  [3.4, 0.6, "#ffcf6b", 0.85],
  [-5.6, -3.2, "#ff7f6b", 0.8],
  [5.4, -2.8, "#f6b25a", 0.8],
  [-2.2, -4.6, "#ffd99a", 0.7],
  [2.0, -5.2, "#ff8f5a", 0.7],
];

/**
 * The scene of *Regatta Night*: lantern boats on dark water inside a ring of mooring posts.
 *
 * @param storedIds  where each sound of {@link REGATTA_SOUNDS} is stored
 */
export function regattaScene(storedIds: Record<string, string>): Scene {
  const scene = newScene("Regatta Night");
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
  strand("tide", "Whole evening", "mix", MEASURES.peak.defaults, {
    window: { floorDb: -30, rangeDb: 30 },
    follow: { attackMs: 400, releaseMs: 1500 },
  });

  const put = (
    id: string,
    kind: ObjectKind,
    name: string,
    rest: Record<string, RestValue>,
    more: Partial<StageObject> = {},
  ): StageObject => {
    const object = { ...newObject(id, kind, name), rest, ...more };
    const existing = scene.objects.findIndex((one) => one.id === id);
    if (existing >= 0) scene.objects[existing] = object;
    else scene.objects.push(object);
    return object;
  };
  const drive = (
    strandId: string,
    object: StageObject,
    property: string,
    output: Binding["output"],
    changes: Partial<Binding> = {},
  ) => {
    const id = `b${scene.bindings.length + 1}`;
    scene.bindings.push({ ...newBinding(id, strandId, object, property), output, ...changes });
  };
  const range = (low: number, high: number) => ({ kind: "range" as const, low, high });

  const colours = (from: string, to: string, middle?: string) => ({
    kind: "colours" as const,
    stops: [{ at: 0, colour: from }, ...(middle ? [{ at: 0.5, colour: middle }] : []), { at: 1, colour: to }],
    mix: "oklch" as const,
  });
  const deal = (kind: Binding["deal"]["kind"]) => ({ deal: { kind, seed: 4 } });

  put("camera", "camera", "Camera", {
    position: [0, 2.3, 9.6],
    target: [0, 1.35, 0],
    fieldOfView: 46,
    drift: 0.12,
  });
  const backdrop = put("backdrop", "backdrop", "Night sky", { top: "#050d12", bottom: "#123038" });
  const lens = put("lens", "lens", "Night air", {
    fogColour: "#123038",
    fog: 0.014,
    bloom: 0.25,
    bloomFrom: 0.9,
    bloomReach: 0.55,
    vignette: 0.35,
  });
  drive("tide", lens, "bloom", range(0.1, 0.3));
  put("water", "water", "Water", {
    position: [0, -0.12, -20],
    extent: 160,
    colour: "#0a2329",
    roughness: 0.22,
    metalness: 0.6,
    waves: 0.05,
    waveLength: 2.6,
    waveSpeed: 0.6,
  });
  const moon = put("moon", "sphere", "Moon", {
    position: [-9, 8.2, -34],
    radius: 1.7,
    colour: "#2c3a3d",
    emissionColour: "#f3ead2",
    emissionStrength: 0.85,
  });
  drive("row", moon, "emissionStrength", range(0.7, 1.5));
  put("moonlight", "sunLight", "Moonlight", { position: [-6, 8, -6], intensity: 1.1 });
  put("ambient", "ambientLight", "Starlight", { intensity: 0.55 });

  const posts = put(
    "posts",
    "box",
    "Mooring posts",
    {
      position: [0, -0.08, -1],
      copies: 96,
      reach: 13,
      size: [0.16, 0.6, 0.16],
      colour: "#3d5a57",
      emissionColour: "#3fc79a",
      emissionStrength: 0.12,
    },
    { settings: { formation: "ring" } },
  );
  drive("row", posts, "growth", range(0.6, 5.5), deal("mirrored"));
  drive("row", posts, "emissionStrength", range(0.08, 1.6), deal("mirrored"));
  drive("row", posts, "emissionColour", colours("#2b7f6c", "#ffd58a", "#3fc79a"), deal("mirrored"));

  const quay = put(
    "quay",
    "sphere",
    "Lights along the quay",
    {
      position: [0, 1.1, -30],
      radius: 0.16,
      copies: 60,
      spacing: 1.15,
      placeSpread: 0.7,
      scaleSpread: 0.45,
      hueSpread: 24,
      colour: "#241c14",
      emissionColour: "#ffb469",
      emissionStrength: 0.5,
    },
    { settings: { formation: "row", seed: 12 } },
  );
  drive("row", quay, "emissionStrength", range(0.25, 3.2), deal("place"));

  put("hull", "sphere", "Leading boat", {
    position: [0, 0.02, 2.2],
    radius: 0.5,
    scale: [2.6, 0.62, 1],
    colour: "#5b3f2c",
    roughness: 0.7,
  });
  put("lantern", "sphere", "Leading lantern", {
    position: [0, 1.25, 2.2],
    radius: 0.62,
    colour: "#6b4a24",
    emissionColour: "#ffb347",
    emissionStrength: 0.8,
    roughness: 0.9,
  });
  const lamp = put("lamp", "pointLight", "Lantern light", {
    position: [0, 1.9, 3.3],
    intensity: 14,
    reach: 12,
  });
  drive("tide", lamp, "intensity", range(6, 26));

  const fireflies = put("fireflies", "orbits", "Fireflies", {
    position: [0, 1.25, 2.2],
    bodies: 5,
    speed: 48,
    speedSpread: 0.25,
    radius: 1.25,
    tilt: 16,
    bodySize: 0.07,
    trail: 1.1,
    colour: "#2a3a20",
    emissionColour: "#c8f08a",
    emissionStrength: 1.5,
    waveHeight: 0.25,
  });
  drive("snare", fireflies, "radius", range(0, 0.9), { mode: "kick", decayMs: 420 });
  drive("tide", fireflies, "speed", range(20, 110));

  const sparks = put("sparks", "particles", "Sparks", {
    position: [0, 1.75, 2.2],
    rate: 14,
    speed: 0.9,
    spread: 22,
    from: 0.18,
    life: 2.6,
    gravity: -0.25,
    size: 0.05,
    endSize: 0.015,
    glow: 1.6,
    cap: 900,
  });
  drive("snare", sparks, "burst", range(10, 46), { mode: "kick" });
  drive("tune", sparks, "speed", range(0.6, 1.8));

  const ripples = put(
    "ripples",
    "torus",
    "Ripples",
    {
      position: [0, -0.09, 2.2],
      radius: 1.3,
      tube: 0.012,
      growth: 0.3,
      colour: "#0d2a30",
      emissionColour: "#6fd0c0",
      emissionStrength: 0.25,
      opacity: 0.55,
      wakeRate: 0.9,
      wakeLife: 5,
      wakeDrift: [0, 0, 0],
      wakeGrowth: 4.2,
      wakeCap: 16,
    },
    { settings: { wake: true } },
  );
  drive("bass", ripples, "emissionStrength", range(0.1, 1.3));

  FLEET.forEach(([x, z, colour, size], i) => {
    const n = i + 1;
    put(`hull${n}`, "sphere", `Boat ${n}`, {
      position: [x, 0, z],
      radius: 0.5,
      scale: [1.8 * size, 0.44, 0.7],
      colour: "#463325",
    });
    const lantern = put(`lantern${n}`, "sphere", `Lantern ${n}`, {
      position: [x, 0.95 * size, z],
      radius: 0.42 * size,
      colour: "#5b4028",
      emissionColour: colour,
      emissionStrength: 0.55,
    });
    if (i % 2 === 0) {
      drive("snare", lantern, "emissionStrength", range(0.45, 2.6));
    } else {
      drive("tune", lantern, "position", range(0.95 * size, 0.95 * size + 0.75), { axes: ["y"] });
      drive("tune", lantern, "emissionColour", colours(colour, "#7fe3c4"));
      drive("tune", lantern, "emissionStrength", range(0.4, 1.7));
    }
    if (i < 2) {
      const light = put(`lamp${n}`, "pointLight", `Light ${n}`, {
        position: [x, 1.4, z + 0.8],
        colour,
        intensity: 4,
        reach: 8,
      });
      drive(i === 0 ? "snare" : "tune", light, "intensity", range(2, 18));
    }
  });
  drive("tide", backdrop, "bottom", colours("#0d252c", "#27545a"));
  return scene;
}

type DeepPartial<T> = { [K in keyof T]?: Partial<T[K]> };
