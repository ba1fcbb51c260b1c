import type { ObjectKind, RestValue, Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newScene } from "@bumbrel/core/kinds/create";
import type { SettingValue } from "@bumbrel/core/setting/descriptor";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURES, type Measure } from "@bumbrel/core/strand/measures/table";
import { range, sceneBuilder } from "./scenes/sceneBuilder";

const SECONDS = 24;

interface Board {
  id: string;
  name: string;
  x: number;
  colours: [low: string, middle: string, high: string];
  drawnAs: "line" | "filled" | "bars";
  measure: Measure;
  /** Range of the fan's window. */
  window: { floorDb: number; rangeDb: number };
}

/** Half the width of a lamp shade, from its rim to its top. */
const SHADE = [
  { at: 0, value: 1 },
  { at: 0.25, value: 0.86 },
  { at: 0.6, value: 0.5 },
  { at: 0.8, value: 0.22 },
  { at: 1, value: 0.16 },
];

const fan = (change: Partial<Extract<Measure, { kind: "fan" }>>): Measure => ({
  ...MEASURES.fan.defaults,
  ...change,
});

const BOARDS: Board[] = [
  {
    id: "sweep",
    name: "Rising tone",
    x: -4.3,
    colours: ["#2f7fd0", "#4fd1a5", "#e9f7c0"],
    drawnAs: "filled",
    measure: fan({ layout: "mel", bands: 64, lowHz: 40, highHz: 14_000 }),
    window: { floorDb: -77, rangeDb: 73 },
  },
  {
    id: "pink",
    name: "Pink noise",
    x: 0,
    colours: ["#8a2f5c", "#ff8a70", "#ffe0a8"],
    drawnAs: "bars",
    measure: fan({ layout: "octave", perOctave: 3, lowHz: 40, highHz: 16_000 }),
    window: { floorDb: -66, rangeDb: 50 },
  },
  {
    id: "white",
    name: "White noise",
    x: 4.3,
    colours: ["#3c3f8f", "#c9a2ff", "#fff1d6"],
    drawnAs: "line",
    measure: fan({ layout: "octave", perOctave: 3, lowHz: 40, highHz: 16_000 }),
    window: { floorDb: -76, rangeDb: 60 },
  },
];

/**
 * The scene of *Tuning Shed*: a rising tone and two noises as charts in the boat shed where the lanterns are tuned. All
 * its sounds are made from what the document says of them.
 */
export function tuningShedScene(): Scene {
  const scene = newScene("Tuning Shed");
  scene.about = "A rising tone and two noises on charts: what fans, layouts and waveforms show of a sound.";
  scene.loop = true;
  const made = { on: true, seconds: SECONDS };
  scene.sounds.push(
    {
      ...newSoundBasics("sweep", "Rising tone"),
      ...made,
      kind: "tone",
      waveform: "sine",
      hz: 50,
      toHz: 12_000,
      sweep: "logarithmic",
      levelDb: -14,
    },
    {
      ...newSoundBasics("pink", "Pink noise"),
      ...made,
      kind: "noise",
      colour: "pink",
      seed: 5,
      levelDb: -18,
      faderDb: -14,
    },
    {
      ...newSoundBasics("white", "White noise"),
      ...made,
      kind: "noise",
      colour: "white",
      seed: 9,
      levelDb: -20,
      faderDb: -60,
    },
  );

  const strand = (id: string, name: string, soundId: string, measure: Measure, window: object) => {
    const it = newStrand(scene, id, name, { kind: "sound", id: soundId, tap: "before" }, measure);
    Object.assign(it.shaping.window, window);
    Object.assign(it.shaping.follow, { attackMs: 10, releaseMs: 180 });
    scene.strands.push(it);
  };
  for (const { id, name, measure, window } of BOARDS)
    strand(`${id}-fan`, `${name}, bands`, id, measure, window);
  strand("height", "Height of the tone", "sweep", MEASURES.brightness.defaults, {
    scale: "linear",
    low: 0,
    high: 12_000,
  });
  strand("hiss", "Level of the hiss", "white", MEASURES.rms.defaults, { floorDb: -40, rangeDb: 20 });

  const { put: putObject, drive } = sceneBuilder(scene);
  const put = (
    id: string,
    kind: ObjectKind,
    name: string,
    rest: Record<string, RestValue>,
    settings: Record<string, SettingValue> = {},
  ) => putObject(id, kind, name, rest, { settings });

  put("camera", "camera", "Camera", {
    position: [0.4, 2.9, 12.2],
    target: [0, 2.35, 0],
    fieldOfView: 43,
    drift: 0.16,
  });
  put(
    "backdrop",
    "backdrop",
    "Dark of the shed",
    { top: "#0a0706", bottom: "#1a110b" },
    { fixedTo: "image" },
  );
  put(
    "environment",
    "environment",
    "Shed in the evening",
    { intensity: 0.5, turn: 20 },
    { scenery: "indoor" },
  );
  put("lens", "lens", "Shed air", {
    fog: 0.004,
    exposure: 0.15,
    bloom: 0.28,
    bloomFrom: 0.9,
    bloomReach: 0.5,
    vignette: 0.42,
    contrast: 1.1,
    saturation: 1.1,
    occlusionRadius: 0.7,
  });
  put("floor", "ground", "Floor", {
    colour: "#2a1c12",
    roughness: 0.4,
    lineGlow: 0,
    reflection: 0.25,
    extent: 40,
  });
  put(
    "planks",
    "box",
    "Planks of the wall",
    {
      position: [0, 0, -2.3],
      copies: 30,
      spacing: 0.62,
      size: [0.6, 6.5, 0.14],
      shapeSpread: 0.03,
      hueSpread: 5,
      valueSpread: 0.2,
      colour: "#4d3524",
      roughness: 0.8,
      rounding: 0.02,
    },
    { formation: "row", facing: "same", seed: 3 },
  );
  put(
    "bench",
    "box",
    "Bench",
    {
      position: [0, 0.74, 0.35],
      size: [14.6, 0.16, 2.7],
      colour: "#8a5c36",
      roughness: 0.4,
      clearcoat: 0.5,
      rounding: 0.03,
    },
    { finish: "coated" },
  );
  put(
    "legs",
    "box",
    "Legs of the bench",
    {
      position: [0, 0, 0.9],
      copies: 4,
      spacing: 4.5,
      size: [0.22, 0.74, 0.22],
      colour: "#5d3d24",
      rounding: 0.02,
    },
    { formation: "row", facing: "same" },
  );

  for (const { id, name, x, colours, drawnAs } of BOARDS) {
    const [low, middle, high] = colours;
    put(
      `${id}-board`,
      "box",
      `${name}, cabinet`,
      {
        position: [x, 0.9, 0],
        size: [3.9, 3.15, 1.1],
        colour: "#60391f",
        roughness: 0.35,
        rounding: 0.14,
        clearcoat: 0.8,
      },
      { finish: "coated" },
    );
    put(
      `${id}-screen`,
      "box",
      `${name}, screen`,
      {
        position: [x, 1.5, 0.53],
        size: [3.45, 1.95, 0.08],
        colour: "#061113",
        roughness: 0.12,
        rounding: 0.06,
      },
      { finish: "coated" },
    );
    put(
      `${id}-knobs`,
      "cylinder",
      `${name}, knobs`,
      {
        position: [x, 1.22, 0.55],
        copies: 6,
        spacing: 0.52,
        radius: 0.12,
        height: 0.14,
        copyTurn: [90, 0, 0],
        colour: "#d9a94e",
        metalness: 1,
        roughness: 0.28,
        rounding: 0.03,
      },
      { formation: "row", facing: "same" },
    );
    put(
      `${id}-shade`,
      "lathe",
      `${name}, lamp shade`,
      {
        position: [x, 4.55, 1.1],
        radius: 0.55,
        height: 0.6,
        colour: "#1f4a44",
        roughness: 0.35,
        clearcoat: 0.9,
      },
      { profile: SHADE, finish: "coated" },
    );
    put(`${id}-wire`, "cylinder", `${name}, wire`, {
      position: [x, 5.1, 1.1],
      radius: 0.012,
      height: 3,
      rounding: 0,
      colour: "#0c0907",
    });
    put(
      `${id}-bulb`,
      "sphere",
      `${name}, bulb`,
      {
        position: [x, 4.56, 1.1],
        radius: 0.13,
        colour: "#3a2c18",
        emissionColour: "#ffdca0",
        emissionStrength: 6,
        emissionFalloff: 0.2,
      },
      { castsShadow: false },
    );
    put(`${id}-spot`, "spotLight", `${name}, light`, {
      position: [x, 4.5, 1.1],
      target: [x, 0.9, 0.7],
      intensity: 55,
      angle: 52,
      softness: 0.8,
      colour: "#ffdca0",
      shadowSoftness: 0.6,
    });
    const chart = put(
      `${id}-chart`,
      "spectrum",
      `${name}, chart`,
      {
        position: [x, 2.2, 0.6],
        copies: id === "sweep" ? 64 : 26,
        width: 3.1,
        rise: 1.05,
        level: 0,
        thickness: 0.022,
        colour: "#10242a",
        emissionColour: middle,
        emissionStrength: 1.3,
        trail: drawnAs === "bars" ? 0 : 0.8,
      },
      { drawnAs, blend: "add" },
    );
    drive(`${id}-fan`, chart, "level", range(0, 1));
    drive(`${id}-fan`, chart, "emissionColour", {
      kind: "colours",
      stops: [
        { at: 0, colour: low },
        { at: 0.55, colour: middle },
        { at: 1, colour: high },
      ],
      mix: "oklch",
    });
    put(
      `${id}-wave`,
      "waveform",
      `${name}, waveform`,
      {
        position: [x, 1.83, 0.6],
        width: 3.1,
        swing: 0.5,
        span: 24,
        thickness: 0.018,
        colour: "#10242a",
        emissionColour: high,
        emissionStrength: 1.1,
      },
      { soundId: id, blend: "add" },
    );
    put(
      `${id}-name`,
      "text",
      `${name}, words`,
      {
        position: [x, 3.72, 0.57],
        height: 0.32,
        depth: 0.05,
        colour: "#e2b45a",
        metalness: 1,
        roughness: 0.3,
        emissionColour: "#e2b45a",
        emissionStrength: 0.12,
        emissionFalloff: 0,
      },
      { text: name },
    );
  }
  const lamp = put(
    "lamp",
    "sphere",
    "Tuning lamp",
    {
      position: [-6, 4.25, 0.2],
      radius: 0.16,
      emissionColour: "#ffd58a",
      emissionStrength: 3,
      emissionFalloff: 0.2,
      colour: "#3a2c18",
    },
    { wake: true, castsShadow: false },
  );
  Object.assign(lamp.rest, {
    wakeRate: 14,
    wakeLife: 3.4,
    wakeDrift: [0, 0.25, -0.3],
    wakeGrowth: 0.2,
    wakeCap: 60,
  });
  drive("height", lamp, "position", range(-6, 6), { axes: ["x"], curve: { kind: "power", power: 0.4 } });
  const dust = put("dust", "particles", "Dust", {
    position: [0, 0.3, 1.5],
    rate: 30,
    speed: 0.25,
    spread: 60,
    from: 4.5,
    life: 6,
    gravity: -0.02,
    size: 0.03,
    endSize: 0.01,
    glow: 0.5,
    colour: "#ffd9a0",
    middleColour: "#a3b8ba",
    endColour: "#274450",
    cap: 400,
  });
  drive("hiss", dust, "glow", range(0.2, 0.9));
  return scene;
}
