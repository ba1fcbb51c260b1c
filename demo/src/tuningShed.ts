import { newStrand } from "@bumbrel/core/document/newStrand";
import type { Binding, ObjectKind, RestValue, Scene, StageObject } from "@bumbrel/core/document/scene";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import type { SettingValue } from "@bumbrel/core/setting/descriptor";
import { newSoundBasics } from "@bumbrel/core/sound/kinds";
import { MEASURES, type Measure } from "@bumbrel/core/strand/measures/table";

const SECONDS = 24;

interface Board {
  id: string;
  name: string;
  x: number;
  colours: [low: string, middle: string, high: string];
  drawnAs: "line" | "filled" | "bars";
  measure: Measure;
  /** What the fan's window lets through. */
  window: { floorDb: number; rangeDb: number };
}

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
    window: { floorDb: -60, rangeDb: 56 },
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
  strand("hiss", "Level of the hiss", "white", MEASURES.rms.defaults, { floorDb: -40, rangeDb: 30 });

  const put = (
    id: string,
    kind: ObjectKind,
    name: string,
    rest: Record<string, RestValue>,
    settings: Record<string, SettingValue> = {},
  ): StageObject => {
    const object = { ...newObject(id, kind, name), rest, settings };
    const existing = scene.objects.findIndex((one) => one.id === id);
    if (existing >= 0) scene.objects[existing] = object;
    else scene.objects.push(object);
    return object;
  };
  const drive = (strandId: string, object: StageObject, property: string, output: Binding["output"]) => {
    const id = `b${scene.bindings.length + 1}`;
    scene.bindings.push({ ...newBinding(id, strandId, object, property), output });
  };
  const range = (low: number, high: number) => ({ kind: "range" as const, low, high });

  put("camera", "camera", "Camera", {
    position: [0, 2.5, 10.6],
    target: [0, 1.75, 0],
    fieldOfView: 44,
    drift: 0.18,
  });
  put("backdrop", "backdrop", "Shed wall", { top: "#070f16", bottom: "#152a33" });
  put("lens", "lens", "Shed air", {
    fogColour: "#0f222a",
    fog: 0.03,
    bloom: 0.3,
    bloomFrom: 0.85,
    bloomReach: 0.5,
    vignette: 0.4,
  });
  put("floor", "ground", "Floor", {
    colour: "#2a2118",
    roughness: 0.55,
    metalness: 0.1,
    lineColour: "#8a6a3c",
    lineGlow: 0.16,
    lineEvery: 0.5,
  });
  put("bulb", "pointLight", "Bulb", { position: [0, 5, 4], intensity: 60, colour: "#ffd9a0" });
  put("ambient", "ambientLight", "Dusk", { intensity: 0.5 });

  for (const { id, name, x, colours, drawnAs } of BOARDS) {
    const [low, middle, high] = colours;
    put(
      `${id}-board`,
      "box",
      `${name}, board`,
      { position: [x, 0.05, -0.25], size: [3.9, 3.6, 0.12], colour: "#2f4a50", roughness: 0.85 },
      { anchor: "base" },
    );
    put(`${id}-spot`, "spotLight", `${name}, light`, {
      position: [x, 5.2, 3.2],
      target: [x, 1.6, 0],
      intensity: 70,
      angle: 30,
      softness: 0.7,
      colour: "#ffe2b0",
    });
    const chart = put(
      `${id}-chart`,
      "spectrum",
      `${name}, chart`,
      {
        position: [x, 1.15, 0],
        copies: id === "sweep" ? 64 : 26,
        width: 3.4,
        rise: 1.75,
        level: 0,
        thickness: 0.03,
        colour: "#10242a",
        emissionColour: middle,
        emissionStrength: 1,
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
        position: [x, 0.62, 0],
        width: 3.4,
        swing: 0.9,
        span: 24,
        thickness: 0.022,
        colour: "#10242a",
        emissionColour: high,
        emissionStrength: 0.9,
      },
      { soundId: id, blend: "add" },
    );
    put(
      `${id}-name`,
      "text",
      `${name}, words`,
      {
        position: [x, 3.3, 0],
        height: 0.3,
        colour: "#f4ecdc",
        emissionColour: "#f4ecdc",
        emissionStrength: 0.15,
      },
      { text: name, unlit: true },
    );
  }
  const lamp = put(
    "lamp",
    "sphere",
    "Tuning lamp",
    {
      position: [-6, 4.15, -0.4],
      radius: 0.16,
      emissionColour: "#ffd58a",
      emissionStrength: 1.8,
      colour: "#3a2c18",
    },
    { wake: true },
  );
  Object.assign(lamp.rest, {
    wakeRate: 14,
    wakeLife: 3.4,
    wakeDrift: [0, 0, -0.9],
    wakeGrowth: 0.2,
    wakeCap: 60,
  });
  scene.bindings.push({
    ...newBinding(`b${scene.bindings.length + 1}`, "height", lamp, "position"),
    axes: ["x"],
    curve: { kind: "power", power: 0.4 },
    output: range(-6, 6),
  });
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
