import { runScriptsIn } from "@bumbrel/core/analyse/scripts/scriptThread";
import { FlashMeter } from "@bumbrel/core/check/flash";
import { FlashLimiter } from "@bumbrel/core/check/flashLimiter";
import { FILM_SETTINGS } from "@bumbrel/core/document/film/film";
import type { Scene } from "@bumbrel/core/document/scene";
import type { ProgramProblem } from "@bumbrel/core/program/exposed";
import { defaultsOf } from "@bumbrel/core/setting/descriptor";
import { broken } from "@bumbrel/core/testing/broken";
import { MadeUpCamera } from "@bumbrel/player/camera/madeUpCamera";
import { FilmScene } from "@bumbrel/player/film/filmScene";
import { playerHandle } from "@bumbrel/player/playerHandle";
import { ScenePlayer } from "@bumbrel/player/scenePlayer";
import { QUALITY } from "@bumbrel/player/stage/image/quality";
import { checkGlsl } from "@bumbrel/player/stage/programs/checkGlsl";
import { Stage } from "@bumbrel/player/stage/stage";

declare global {
  interface Window {
    /** Address of the code of the thread for scripts. */
    scriptsAddress: string;
    /**
     * Shows frames one after the other and reads the last one.
     *
     * @returns RGBA, 0 to 255, rows from top to bottom
     */
    drawFrames(
      scene: Scene,
      frames: readonly number[],
      framesPerSecond: number,
      side: number,
    ): Promise<number[]>;
    /**
     * Shows a frame of a scene whose strand "s" has one value and one cue, on a stage that all scenes share.
     *
     * @returns RGBA, 0 to 255, rows from top to bottom, as base64: lists of numbers take longer to leave a page than to draw
     */
    drawOnShared(scene: Scene, frame: number, value: number, width: number, height: number): Promise<string>;
    /**
     * Shows frames one after the other, while strand "s" is a fan of two bands, and reads the last one.
     *
     * @returns RGBA, 0 to 255, rows from top to bottom
     */
    drawTracked(
      scene: Scene,
      frames: readonly number[],
      framesPerSecond: number,
      side: number,
    ): Promise<number[]>;
    /**
     * A picture of the made-up camera.
     *
     * @returns the picture as PNG data, and which of its pixels are of the person
     */
    cameraPicture(timeS: number, width: number, height: number): { picture: string; known: boolean[] };
    /**
     * Draws a run of a film's frames, from one on, while every strand rises and gives cues, and reads the last one.
     *
     * @returns RGBA, 0 to 255, rows from top to bottom
     */
    drawFilm(scene: Scene, from: number, to: number, side: number): Promise<number[]>;
    /** Problems of a surface program, as the workbench finds them. */
    checkProgram(code: string, kind?: "surface" | "pass"): ProgramProblem[];
    /** Breaks programs in so many ways and checks each; `seed` decides how. */
    checkBroken(
      programs: readonly { kind: "surface" | "pass"; code: string }[],
      count: number,
      seed: number,
    ): { told: number; works: number };
    /**
     * Shows a backdrop that has another colour in each frame, plain and through the limiter of flashes.
     *
     * @returns flashes within a second at most, plain and limited; how far the limited pictures are from the plain ones and
     *   from the definition at most, in steps of 8 bits, frame by frame
     */
    limitFlashes(
      scene: Scene,
      colours: readonly string[],
      framesPerSecond: number,
    ): Promise<{ plain: number; limited: number; changed: number[]; apart: number[]; strength: number }>;
    /** Draws a scene whose program fails: what is said of it, and for how long the page stood still meanwhile, ms. */
    drawFailing(scene: Scene): Promise<{ message: string; stoodStillMs: number }>;
    /** Triangles of the last frame. */
    trianglesOf(scene: Scene): Promise<number>;
  }
}

runScriptsIn(() => new Worker(window.scriptsAddress));

async function onStage<T>(scene: Scene, look: (player: ScenePlayer, stage: Stage) => Promise<T>): Promise<T> {
  const player = new ScenePlayer(scene);
  const stage = new Stage(document.createElement("canvas"));
  stage.resize(8, 8, 1);
  const detach = player.attach(stage);
  player.setTracks(new Map());
  await player.show(0);
  await player.whenLoaded();
  const seen = await look(player, stage);
  detach();
  stage.dispose();
  player.dispose();
  return seen;
}

window.drawFrames = (scene, frames, framesPerSecond, side) =>
  onStage(scene, async (player, stage) => {
    stage.resize(side, side, 1);
    const handle = playerHandle(player, stage);
    for (const frame of frames.slice(0, -1)) await player.showFrame(frame, framesPerSecond);
    return [...(await handle.captureFrame(frames.at(-1)!, framesPerSecond, side, side))];
  });
const checking = new OffscreenCanvas(1, 1).getContext("webgl2")!;
window.checkProgram = (code, kind = "surface") => checkGlsl(checking, kind, code);
window.checkBroken = (programs, count, seed) => {
  const sum = { told: 0, works: 0 };
  for (let i = 0; i < count; i++) {
    const { kind, code } = programs[i % programs.length];
    const lines = code.split("\n").length;
    const problems = checkGlsl(checking, kind, broken(code, seed + i));
    if (problems.some(({ line, message }) => line < 1 || !(message.length > 0)))
      throw new Error("no line, or no words");
    if (problems.length > lines + 20) throw new Error("more problems than lines");
    if (problems.length > 0) sum.told++;
    else sum.works++;
  }
  return sum;
};
/** Rises by 0.1 a second for ten seconds; its second band is half of that. */
const rising = Float32Array.from({ length: 2000 }, (_, i) => Math.min(1, (i >> 1) / 1000) / (1 + (i & 1)));
window.drawTracked = (scene, frames, framesPerSecond, side) =>
  onStage(scene, async (player, stage) => {
    player.setTracks(new Map([["s", { width: 2, values: rising, cues: [] }]]));
    stage.resize(side, side, 1);
    const handle = playerHandle(player, stage);
    for (const frame of frames.slice(0, -1)) await player.showFrame(frame, framesPerSecond);
    return [...(await handle.captureFrame(frames.at(-1)!, framesPerSecond, side, side))];
  });
window.drawFilm = async (scene, from, to, side) => {
  const nothing = () => Promise.reject(new Error("There are no files here."));
  const cues = Array.from({ length: 25 }, (_none, i) => ({ timeS: 0.1 + 0.37 * i, strength: 1 }));
  const source = {
    scene,
    tracks: new Map(scene.strands.map(({ id }) => [id, { width: 2, values: rising, cues }])),
    samples: new Map(),
    sounds: [],
    take: undefined,
    fetchAsset: nothing,
    fetchFont: nothing,
  };
  const settings = {
    ...defaultsOf(FILM_SETTINGS),
    ...{ size: "own" as const, width: side, height: side, framesPerSecond: 60 as const },
  };
  const film = await FilmScene.open(source, { settings, stretch: { fromS: 0, toS: 9 }, title: "" });
  await film.begin(from);
  for (let frame = from; frame <= to; frame++) await film.draw(frame);
  const copy = new OffscreenCanvas(side, side).getContext("2d")!;
  copy.drawImage(film.canvas, 0, 0);
  const bytes = [...copy.getImageData(0, 0, side, side).data];
  film.dispose();
  return bytes;
};
let shared: { player: ScenePlayer; stage: Stage } | undefined;
function sharedStage(scene: Scene) {
  if (!shared) {
    const player = new ScenePlayer(scene);
    const stage = new Stage(document.createElement("canvas"));
    player.attach(stage);
    shared = { player, stage };
  }
  return shared;
}
window.drawOnShared = async (scene, frame, value, width, height) => {
  const { player, stage } = sharedStage(scene);
  player.setScene(scene);
  const cues = [{ timeS: frame / 60 - 0.05, strength: value }];
  player.setTracks(
    new Map([["s", { width: 1, values: Float32Array.of(value), cues: value > 0 ? cues : [] }]]),
  );
  // As many pixels are drawn as are read, whatever share of the screen's the quality draws.
  const { pixels } = QUALITY[stage.quality];
  stage.resize(width / pixels, height / pixels, 1);
  await player.show(0);
  await player.whenLoaded();
  await player.show(frame / 60);
  stage.renderClean();
  const copy = new OffscreenCanvas(width, height).getContext("2d", { willReadFrequently: true })!;
  copy.drawImage(stage.canvas, 0, 0, width, height);
  const { data } = copy.getImageData(0, 0, width, height);
  return btoa(Array.from(data, (byte) => String.fromCharCode(byte)).join(""));
};
window.limitFlashes = async (scene, colours, framesPerSecond) => {
  const SIDE = 12;
  const seen = new OffscreenCanvas(SIDE, SIDE).getContext("2d", { willReadFrequently: true })!;
  const open = async (limitsFlashes: boolean) => {
    const player = new ScenePlayer({ ...scene, limitsFlashes });
    const stage = new Stage(document.createElement("canvas"));
    player.attach(stage);
    player.setTracks(new Map());
    stage.resize(SIDE, SIDE, 1);
    await player.show(0);
    await player.whenLoaded();
    stage.forgetImages();
    const objects = (colour: string) =>
      scene.objects.map((one) =>
        one.kind === "backdrop" ? { ...one, rest: { ...one.rest, top: colour, bottom: colour } } : one,
      );
    const read = async (colour: string, timeS: number) => {
      player.setScene({ ...scene, limitsFlashes, objects: objects(colour) });
      stage.shownS = timeS;
      await player.show(0);
      seen.drawImage(stage.canvas, 0, 0);
      return seen.getImageData(0, 0, SIDE, SIDE).data;
    };
    return { read, stage };
  };
  const [plain, limited] = [await open(false), await open(true)];
  const meters = [new FlashMeter(SIDE, SIDE), new FlashMeter(SIDE, SIDE)];
  const definition = new FlashLimiter(SIDE, SIDE);
  const most = [0, 0];
  const [changed, apart]: [number[], number[]] = [[], []];
  let strength = 0;
  const farthest = (a: Uint8ClampedArray, b: Uint8ClampedArray) =>
    a.reduce((far, value, i) => Math.max(far, Math.abs(value - b[i])), 0);
  for (const [frame, colour] of colours.entries()) {
    const timeS = frame / framesPerSecond;
    const raw = await plain.read(colour, timeS);
    const shown = await limited.read(colour, timeS);
    [raw, shown].forEach((rgba, i) => {
      const { general, red } = meters[i].push(timeS, rgba);
      most[i] = Math.max(most[i], general, red);
    });
    changed.push(farthest(raw, shown));
    const own = Uint8ClampedArray.from(raw);
    definition.push(timeS, own);
    apart.push(farthest(own, shown));
    strength = Math.max(strength, limited.stage.limiterStrength ?? 0);
  }
  for (const { stage } of [plain, limited]) stage.dispose();
  return { plain: most[0], limited: most[1], changed, apart, strength };
};
window.drawFailing = (scene) =>
  onStage(scene, async (player, stage) => {
    let message = "";
    stage.onProgramFailure((_id, _code, problem) => {
      message = problem.message;
    });
    let [before, stoodStillMs] = [performance.now(), 0];
    const timer = setInterval(() => {
      stoodStillMs = Math.max(stoodStillMs, performance.now() - before);
      before = performance.now();
    }, 20);
    await player.show(0.5);
    clearInterval(timer);
    return { message, stoodStillMs };
  });
window.trianglesOf = (scene) =>
  onStage(scene, async (player, stage) => {
    await player.show(0);
    return stage.weight().triangles;
  });
window.cameraPicture = (timeS, width, height) => {
  const camera = new MadeUpCamera(width, height);
  camera.update(timeS);
  const { data } = camera.mask.getContext("2d")!.getImageData(0, 0, width, height);
  const known = Array.from({ length: width * height }, (_none, i) => data[i * 4] > 127);
  return { picture: camera.picture.toDataURL("image/png"), known };
};
