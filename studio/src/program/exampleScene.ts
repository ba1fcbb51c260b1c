import { ProgramReader } from "@bumbrel/core/analyse/scripts/programReader";
import type { Program, Scene } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import type { Tracks } from "@bumbrel/core/evaluate/values";
import type { Wave, Waves } from "@bumbrel/core/evaluate/wave";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import { exposedBy, giveProgram } from "@bumbrel/core/kinds/programs";
import type { ProgramExample } from "@bumbrel/core/program/examples";
import { exposedKey } from "@bumbrel/core/program/exposed";
import { bandsIn } from "@bumbrel/core/program/exposedNumbers";
import type { Signal } from "@bumbrel/core/strand/hearing/signal";
import { MEASURES } from "@bumbrel/core/strand/measures/table";
import { defaultShaping } from "@bumbrel/core/strand/shape/shaping";
import type { Track } from "@bumbrel/core/strand/track";

/** Seconds of made-up sound. */
export const PREVIEW_S = 8;
const FRAMES = (PREVIEW_S + 2) * 100;
const BANDS = 24;
const BEAT_S = 0.5;

/** Hits that fall off, twice a second. */
const beatAt = (timeS: number) => Math.exp(-((timeS % BEAT_S) / BEAT_S) * 5);
const bandAt = (band: number, timeS: number) => {
  const hill = Math.exp(-(((band / BANDS - 0.5 - 0.4 * Math.sin(timeS * 1.3)) * 5) ** 2));
  return Math.min(1, 0.15 + 0.55 * hill + 0.4 * beatAt(timeS + (band % 3) * 0.17) * (1 - band / BANDS));
};

/** Samples that a strand's beats and a few voices make. */
function samples(): Float32Array {
  const out = new Float32Array((PREVIEW_S + 2) * 48_000);
  for (let i = 0; i < out.length; i++) {
    const timeS = i / 48_000;
    const voice = (hz: number, level: number) => level * Math.sin(2 * Math.PI * hz * timeS);
    const note = 220 * 2 ** (Math.floor(timeS / 2) / 6);
    out[i] = beatAt(timeS) * voice(60, 0.5) + voice(note, 0.25) + voice(note * 3, 0.1) * beatAt(timeS + 0.25);
  }
  return out;
}

let wave: Wave | undefined;
/** The made-up sound as programs hear it. */
export function exampleWaves(): Waves {
  wave ??= { samples: samples(), indexAt: (timeS: number) => timeS * 48_000 } as Wave;
  return new Map([["sound", wave]]);
}

/** Strands of the made-up sound; those of a number program are computed by it. */
export async function exampleTracks(example: ProgramExample): Promise<Tracks> {
  const beat = { width: 1, values: Float32Array.from({ length: FRAMES }, (_, i) => beatAt(i / 100)) };
  const bands = {
    width: BANDS,
    values: Float32Array.from({ length: FRAMES * BANDS }, (_, i) =>
      bandAt(i % BANDS, Math.floor(i / BANDS) / 100),
    ),
  };
  const tracks = new Map<string, Track>([
    ["beat", beat],
    ["bands", bands],
  ]);
  if (example.kind !== "number") return tracks;
  const { code, hearsSound } = example;
  const measure = { ...MEASURES.program.defaults, programId: "p", bands: bandsIn(code) };
  const signal: Signal = hearsSound
    ? { samples: samples() }
    : { samples: new Float32Array(0), frames: FRAMES, strands: [beat] };
  tracks.set("numbers", {
    width: measure.bands,
    values: await new ProgramReader().read(signal, { measure, code, shaping: defaultShaping("share") })
      .numbers,
  });
  return tracks;
}

/** A small stage that shows what a worked program does. */
export function exampleScene(example: ProgramExample): Scene {
  const scene = newScene(example.label);
  scene.quality = "plain";
  const program: Program = {
    id: "p",
    name: example.label,
    kind: example.kind,
    code: example.code,
    draft: null,
  };
  scene.programs = [program];
  const of = (kind: string) => scene.objects.find((one) => one.kind === kind)!;
  Object.assign(of("camera").rest, { position: [0, 0.4, 4.4], target: [0, 0, 0], fieldOfView: 38 });
  scene.strands.push(
    newStrand(scene, "beat", "Beat", { kind: "nothing" }),
    newStrand(scene, "bands", "Bands", { kind: "nothing" }),
    newStrand(scene, "numbers", "Numbers", { kind: "nothing" }),
  );
  const add = (object: Scene["objects"][number]) => {
    scene.objects.push(object);
    return object;
  };
  const sheet = (height: number) => ({
    ...newObject("sheet", "plane", "Sheet"),
    rest: { size: [3.4, height, 1] as [number, number, number], colour: "#4d7c86" },
    settings: { anchor: "centre" },
  });
  const link = (object: Scene["objects"][number]) => {
    giveProgram(object, program);
    const ids: Record<string, string> = { strand: "beat", fan: "bands", sound: "sound" };
    object.links = Object.fromEntries(
      exposedBy(program).flatMap(({ name, type, property }) =>
        property || !ids[type] ? [] : [[exposedKey(name), ids[type]]],
      ),
    );
  };
  switch (example.kind) {
    case "surface": {
      const isFlat = /s\.uv|p\.uv/.test(example.code);
      const object = isFlat
        ? sheet(2)
        : { ...newObject("ball", "sphere", "Ball"), rest: { radius: 1, colour: "#4d7c86" } };
      if (/p\.uv/.test(example.code)) Object.assign(object.rest, { rotation: [-50, 0, 0] });
      link(add(object));
      break;
    }
    case "pass": {
      add({
        ...newObject("boxes", "box", "Boxes"),
        rest: { copies: 9, reach: 1.6, size: [0.5, 0.5, 0.5], colour: "#d9a05b", position: [0, -0.3, 0] },
        settings: { formation: "ring" },
      });
      scene.bindings.push(newBinding("grow", "beat", scene.objects.at(-1)!, "growth"));
      link(add(newObject("pass", "picturePass", "Pass")));
      break;
    }
    case "drawing": {
      const object = {
        ...newObject("drawing", "drawing", "Drawing"),
        rest: { width: 3.4, height: 2.2, fade: 0 },
      };
      if (/memory/.test(example.code)) object.rest.fade = 0.95;
      object.settings = { ...object.settings, pixels: 256 };
      link(add(object));
      break;
    }
    case "number": {
      const copies = bandsIn(example.code);
      const isRow = copies > 1;
      add({
        ...newObject("bars", "box", "Bars"),
        rest: {
          copies,
          spacing: 0.28,
          size: [isRow ? 0.2 : 0.8, 1.6, 0.2],
          colour: "#ffd27a",
          position: [0, -0.8, 0],
        },
        settings: { formation: isRow ? "row" : "none" },
      });
      const bars = scene.objects.at(-1)!;
      scene.bindings.push(newBinding("grow", "numbers", bars, "growth"));
      const [grow] = scene.bindings;
      if (grow.output.kind === "range") grow.output = { kind: "range", low: 0.02, high: 1 };
    }
  }
  return scene;
}
