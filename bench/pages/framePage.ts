import { runScriptsIn } from "@bumbrel/core/analyse/scripts/scriptThread";
import type { ObjectKind, QualityStep, RestValue, Scene, StageObject } from "@bumbrel/core/document/scene";
import { newStrand } from "@bumbrel/core/document/strands/newStrand";
import { newBinding, newObject, newScene } from "@bumbrel/core/kinds/create";
import { giveProgram } from "@bumbrel/core/kinds/programs";
import { exposedKey } from "@bumbrel/core/program/exposed";
import type { SettingValue } from "@bumbrel/core/setting/descriptor";
import { SceneState } from "@bumbrel/core/simulate/sceneState";
import { REGATTA_SOUNDS, regattaScene } from "@bumbrel/demo/scenes/regattaScene";
import { ScenePlayer } from "@bumbrel/player/scenePlayer";
import { QUALITY } from "@bumbrel/player/stage/image/quality";
import { ProgramTextures } from "@bumbrel/player/stage/programs/programTextures";
import { Stage } from "@bumbrel/player/stage/stage";

runScriptsIn(() => new Worker(window.scriptsAddress));

export interface FrameFigures {
  /** Median milliseconds of script a frame, without having it drawn. */
  scriptMs: number;
  withDrawCallsMs: number;
  copies: number;
  particles: number;
}

const BANDS = 64;
const FRAMES = 6000;
/** A fan and a strand that never stand still, with cues. */
function tracks() {
  const fan = Float32Array.from(
    { length: FRAMES * BANDS },
    (_, i) => 0.5 + 0.5 * Math.sin(i * 0.013 + (i % BANDS)),
  );
  const values = Float32Array.from({ length: FRAMES }, (_, i) => 0.5 + 0.5 * Math.sin(i * 0.3));
  const cues = Array.from({ length: 100 }, (_, i) => ({ timeS: i * 0.6, strength: 1 }));
  return new Map([
    ["fan", { width: BANDS, values: fan }],
    ["s", { width: 1, values, cues }],
  ]);
}

function sceneWith(objects: StageObject[]): Scene {
  const scene = newScene("Bench");
  for (const id of ["fan", "s"]) scene.strands.push(newStrand(scene, id, id, { kind: "nothing" }));
  scene.objects.push(...objects);
  return scene;
}
const object = (
  id: string,
  kind: ObjectKind,
  rest: Record<string, RestValue> = {},
  settings: Record<string, SettingValue> = {},
): StageObject => ({ ...newObject(id, kind, id), rest, settings });

/** A formation of 4096 copies dealt a fan, 200 bindings in all, and 5000 particles. */
function heavy(): Scene {
  const scene = sceneWith([
    object("field", "box", { copies: 4096 }, { formation: "grid" }),
    object("sparks", "particles", { rate: 1900, life: 4, cap: 5000 }),
    ...Array.from({ length: 50 }, (_, i) => object(`ball${i}`, "sphere", { position: [i - 25, 0, -5] })),
  ]);
  const bind = (id: string, property: string, strand: string) => {
    const target = scene.objects.find((one) => one.id === id)!;
    scene.bindings.push(newBinding(`b${scene.bindings.length}`, strand, target, property));
  };
  bind("field", "growth", "fan");
  bind("field", "emissionStrength", "fan");
  bind("sparks", "speed", "s");
  bind("sparks", "burst", "s");
  for (let i = 0; i < 49; i++) {
    for (const property of ["position", "scale", "emissionStrength", "colour"])
      bind(`ball${i}`, property, "s");
  }
  return scene;
}

function play(scene: Scene, seconds: number): FrameFigures {
  const state = new SceneState(scene);
  const stage = new Stage(document.createElement("canvas"));
  stage.resize(320, 200, 1);
  stage.attach(state);
  state.setTracks(tracks());
  const script: number[] = [];
  const whole: number[] = [];
  for (let frame = 0; frame < seconds * 60; frame++) {
    const before = performance.now();
    state.advanceTo(frame / 60);
    stage.update();
    const between = performance.now();
    stage.render();
    if (frame < 240) continue;
    script.push(between - before);
    whole.push(performance.now() - before);
  }
  const { copies, particles } = stage.weight();
  stage.dispose();
  const median = (times: number[]) => times.sort((a, b) => a - b)[Math.floor(times.length / 2)];
  return { scriptMs: median(script), withDrawCallsMs: median(whole), copies, particles };
}

/** Milliseconds from a document of 1000 bindings to its first frame. */
function openMs(): number {
  const scene = sceneWith(Array.from({ length: 250 }, (_, i) => object(`ball${i}`, "sphere")));
  for (const one of scene.objects.slice(-250)) {
    for (const property of ["position", "scale", "emissionStrength", "colour"]) {
      scene.bindings.push(newBinding(`b${scene.bindings.length}`, "s", one, property));
    }
  }
  const before = performance.now();
  const state = new SceneState(scene);
  const stage = new Stage(document.createElement("canvas"));
  stage.resize(320, 200, 1);
  stage.attach(state);
  state.setTracks(tracks());
  state.advanceTo(1);
  stage.update();
  stage.render();
  const took = performance.now() - before;
  stage.dispose();
  return took;
}

/** Garbage of steady frames: runs the heavy scene's script for so many frames, without drawing. */
export function makeRunner(): (frames: number) => void {
  const scene = heavy();
  const state = new SceneState(scene);
  const stage = new Stage(document.createElement("canvas"));
  stage.attach(state);
  state.setTracks(tracks());
  let frame = 0;
  return (frames) => {
    for (let i = 0; i < frames; i++, frame++) {
      state.advanceTo((frame % 3000) / 60);
      stage.update();
    }
  };
}

/** Milliseconds to draw a frame of an example at each step of quality, in whatever draws here. */
async function qualityCosts(): Promise<Record<string, number>> {
  const scene = regattaScene(Object.fromEntries(REGATTA_SOUNDS.map(({ id }) => [id, id])));
  const costs: Record<string, number> = {};
  for (const quality of Object.keys(QUALITY) as QualityStep[]) {
    const player = new ScenePlayer({ ...scene, quality });
    const stage = new Stage(document.createElement("canvas"));
    stage.resize(320, 200, 1);
    player.attach(stage);
    player.setTracks(new Map());
    await player.show(2);
    await player.whenLoaded();
    const gl = stage.renderer.getContext();
    const pixel = new Uint8Array(4);
    const drawn = async (timeS: number) => {
      await player.show(timeS);
      // Reading a pixel back waits until the frame is drawn.
      gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
    };
    await drawn(2);
    await drawn(2.05);
    const before = performance.now();
    for (let i = 1; i <= 2; i++) await drawn(2.05 + i / 60);
    costs[quality] = (performance.now() - before) / 2;
    stage.dispose();
    player.dispose();
  }
  return costs;
}

/** Milliseconds of script a frame to fill the numbers of programs: 16 strands and 4 fans of 64, with their past. */
function texturesMs(): number {
  const strands = [...Array(16).keys()].map((i) => `s${i}`);
  const fans = [...Array(4).keys()].map((i) => `f${i}`);
  const scene = newScene("Bench");
  for (const id of [...strands, ...fans]) scene.strands.push(newStrand(scene, id, id, { kind: "nothing" }));
  const code = `${strands.map((id) => `uniform Strand ${id};`).join("\n")}
${fans.map((id) => `uniform Fan ${id};`).join("\n")}
void paint(inout Surface s) { s.emission = vec3(valueOf(s0)); }`;
  scene.programs.push({ id: "p", name: "P", kind: "surface", code, draft: null });
  const ball = object("ball", "sphere");
  giveProgram(ball, scene.programs[0]);
  ball.links = Object.fromEntries([...strands, ...fans].map((id) => [exposedKey(id), id]));
  scene.objects.push(ball);
  const { s, fan } = Object.fromEntries(tracks());
  const textures = new ProgramTextures();
  const times: number[] = [];
  for (let frame = 0; frame < 900; frame++) {
    const before = performance.now();
    textures.fill(scene, {
      timeS: 12 + frame / 60,
      trackOf: (id) => (id.startsWith("f") ? fan : s),
      waves: new Map(),
    });
    if (frame > 100) times.push(performance.now() - before);
  }
  return times.reduce((sum, one) => sum + one, 0) / times.length;
}

/** Median milliseconds of script for a picture of 512 rectangles, with its canvas. */
async function rectanglesMs(): Promise<number> {
  const code = `function draw(canvas: Canvas, frame: Frame) {
  for (let i = 0; i < 512; i++) {
    canvas.fillStyle = i % 2 ? "#ffd27a" : "#63bdce";
    canvas.fillRect((i % 32) * 16, Math.floor(i / 32) * 32, 14, 30 * frame.random());
  }
}`;
  const scene = sceneWith([object("sheet", "drawing", {}, { programId: "p" })]);
  const program = { id: "p", name: "P", kind: "drawing" as const, code, draft: null };
  scene.programs.push(program);
  const state = new SceneState(scene);
  const stage = new Stage(document.createElement("canvas"));
  stage.attach(state);
  state.setTracks(tracks());
  while (!stage.isLoaded) await new Promise((resolve) => setTimeout(resolve, 10));
  const drawing = stage.assets.drawing(program, stage.entries.get("sheet")!.source)!;
  const times: number[] = [];
  for (let frame = 0; frame < 240; frame++) {
    await drawing.reach(stage.renderer, frame / 60, 1);
    if (frame >= 60) times.push(drawing.lastMs);
  }
  drawing.dispose();
  stage.dispose();
  return times.sort((a, b) => a - b)[Math.floor(times.length / 2)];
}

declare global {
  interface Window {
    /** Address of the code of the thread for scripts. */
    scriptsAddress: string;
    programCosts(): Promise<{ texturesMs: number; rectanglesMs: number }>;
    qualityCosts(): Promise<Record<string, number>>;
    measureFrames(): { ring: FrameFigures; heavy: FrameFigures; openMs: number };
    runFrames(frames: number): void;
  }
}
window.measureFrames = () => {
  // First, before what was drawn keeps the drawing side busy.
  const opened = openMs();
  const ring = sceneWith([object("ring", "box", { copies: 512 }, { formation: "ring" })]);
  for (const property of ["growth", "reach", "emissionStrength", "colour"]) {
    ring.bindings.push(newBinding(property, "s", ring.objects.at(-1)!, property));
  }
  return { ring: play(ring, 8), heavy: play(heavy(), 12), openMs: opened };
};
window.qualityCosts = qualityCosts;
window.programCosts = async () => ({ texturesMs: texturesMs(), rectanglesMs: await rectanglesMs() });
let runner: ((frames: number) => void) | undefined;
window.runFrames = (frames) => {
  runner ??= makeRunner();
  runner(frames);
};
