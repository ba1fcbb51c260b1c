import { hasCaptions, hasDrawings, isVisited } from "@bumbrel/core/analyse/needed";
import { flashWarning } from "@bumbrel/core/check/flash";
import type { Scene } from "@bumbrel/core/document/scene";
import { isLive } from "@bumbrel/core/sound/kinds";
import { playerHandle } from "../playerHandle";
import { type PlayerOptions, ScenePlayer } from "../scenePlayer";
import { Stage } from "../stage/stage";
import { bytesOf, codeAddress, lateBytesOf, textOf } from "./blocks";
import { fetchAsset, letters, prepare, readOptions, readScene } from "./prepared";
import { answerMessages } from "./reading/messages";

/**
 * The delivered page: reads the scene and the sounds that are in it as data blocks, has a worker compute the strands,
 * and plays. Nothing is fetched.
 */
async function main(): Promise<void> {
  const find = <T extends HTMLElement>(id: string) => document.getElementById(id) as T;
  const note = find("note");
  const scene = readScene();
  const onProgress = (share: number) => {
    note.textContent = `Getting ready … ${Math.round(share * 100)} %`;
  };
  const task = textOf("film");
  if (task) {
    try {
      const prepared = await prepare(scene, onProgress);
      const take = scene.takeId ? await bytesOf(`asset-${scene.takeId}`) : undefined;
      await prepareDrawings(scene);
      const { makeFilmPieces } = await import("./parts/filmPart");
      await makeFilmPieces({ scene, ...prepared, fetchAsset, fetchFont: letters }, JSON.parse(task), take);
    } catch (error) {
      const { send } = await import("./reading/send");
      await send("mayPass" in (error as Error) ? "lost" : "failed", (error as Error).message);
    }
    return;
  }
  await prepareDrawings(scene);
  const player = new ScenePlayer(scene, await liveOf(scene));
  player.setTracks(new Map(), false);
  const canvas = find<HTMLCanvasElement>("stage");
  const stage = new Stage(canvas, fetchAsset, letters);
  player.attach(stage);
  const fit = () => stage.resize(innerWidth, innerHeight, Math.min(2, devicePixelRatio));
  addEventListener("resize", fit);
  fit();
  player.start();
  const { sounds, samples, tracks } = await prepare(scene, onProgress);
  player.transport.setSounds(sounds, scene.buses);
  player.setSamples(samples);
  player.setTracks(tracks);
  note.hidden = true;

  const { transport } = player;
  const prompt = find<HTMLButtonElement>("prompt");
  const toggle = find<HTMLButtonElement>("toggle");
  const position = find<HTMLInputElement>("position");
  const clock = find("clock");
  const bar = find("bar");
  const { durationS } = transport;
  position.max = String(durationS);
  // Without sounds it runs until it is paused.
  position.hidden = durationS === 0;
  const { controls, kiosk } = readOptions();
  bar.hidden = !controls || kiosk;
  document.getElementById("poster")?.remove();
  // A scene that flashes says so before it starts, and one that moves where somebody wants little motion.
  const warning = flashWarning(scene) ?? (wantsLittleMotion() ? STILL : undefined);
  let mayStart = warning === undefined;
  if (warning !== undefined) {
    note.hidden = false;
    note.textContent = warning;
    prompt.textContent = warning === STILL ? "Start it" : "Start all the same";
  }
  const showState = () => {
    prompt.hidden = mayStart && transport.state !== "held";
    const playing = transport.state === "playing";
    toggle.textContent = playing ? "❙❙" : "▶";
    toggle.setAttribute("aria-label", playing ? "Pause" : "Play");
    if (!prompt.hidden) prompt.focus();
  };
  if (isVisited(scene)) {
    const { PageVisit } = await import("./visiting");
    // A scene with visitors has a clock of its own: its tape is moved by what they do.
    bar.hidden = true;
    const visit = new PageVisit({
      player,
      stage,
      canvas,
      prompt,
      offers: find("offers"),
      bytesOf,
      lateBytesOf,
      isKiosk: kiosk,
      still: wantsLittleMotion() ? STILL : undefined,
      tell: (message, stays = false) => {
        note.hidden = message === "";
        note.textContent = message;
        if (stays) return;
        setTimeout(() => {
          note.hidden = true;
        }, NOTE_MS);
      },
    });
    publish(player, stage, kiosk);
    openInputs(scene, player, note);
    await visit.wait();
    return;
  }
  transport.onChange(showState);
  const start = () => {
    mayStart = true;
    transport.play();
    for (const unitId of transport.unitIds) transport.playUnit(unitId);
    showState();
  };
  prompt.addEventListener("click", () => {
    if (mayStart) transport.play();
    else {
      note.hidden = true;
      start();
    }
  });
  toggle.addEventListener("click", () => transport.toggle());
  position.addEventListener("input", () => transport.seek(Number(position.value)));
  addEventListener("keydown", (event) => {
    if (event.key !== " ") return;
    event.preventDefault();
    transport.toggle();
  });
  let idle: ReturnType<typeof setTimeout>;
  const showControls = () => {
    document.body.classList.remove("idle");
    clearTimeout(idle);
    idle = setTimeout(() => document.body.classList.add("idle"), 2500);
  };
  for (const kind of ["pointermove", "pointerdown", "keydown"]) addEventListener(kind, showControls);
  showControls();
  player.onFrame((timeS) => {
    position.value = String(timeS);
    clock.textContent = asClock(timeS) + (durationS > 0 ? ` / ${asClock(durationS)}` : "");
  });
  publish(player, stage, kiosk);
  if (hasCaptions(scene)) {
    const { VisitWords, captionsButton } = await import("../visit/visitWords");
    bar.append(captionsButton(new VisitWords(player, document.body)));
  }
  showState();
  if (mayStart) start();
  openInputs(scene, player, note);
}

/** Told to those who want little motion. */
const STILL = "This scene moves with its sound. It stands still until it is started.";
const wantsLittleMotion = () => matchMedia("(prefers-reduced-motion: reduce)").matches;

/** Lets others steer the scene, and keeps the screen of a kiosk awake. */
function publish(player: ScenePlayer, stage: Stage, isKiosk: boolean): void {
  window.bumbrel = playerHandle(player, stage);
  answerMessages(player);
  if (!isKiosk) return;
  document.body.classList.add("kiosk");
  const stayAwake = () => {
    if (document.visibilityState === "visible") void navigator.wakeLock?.request("screen").catch(() => {});
  };
  document.addEventListener("visibilitychange", stayAwake);
  stayAwake();
}

/** Scripts that draw run in a thread of their own. */
async function prepareDrawings(scene: Scene): Promise<void> {
  if (!hasDrawings(scene)) return;
  const { runScriptsIn } = await import("@bumbrel/core/analyse/scripts/scriptThread");
  const address = codeAddress("scripts");
  runScriptsIn(() => new Worker(address));
}

/** Hears the inputs and keyboards of a scene that has some. */
async function liveOf({ sounds }: Scene): Promise<PlayerOptions> {
  if (!sounds.some(isLive)) return {};
  const { LiveSounds } = await import("../live/liveSounds");
  const urls = { worklet: codeAddress("worklet"), worker: codeAddress("live") };
  return { live: (transport) => new LiveSounds(transport, urls) };
}

/** How long the visitor is told something, ms. */
const NOTE_MS = 6000;

/** The scene plays without an input that cannot be opened; a note over the image says so. */
function openInputs(scene: Scene, player: ScenePlayer, note: HTMLElement): void {
  player.live?.onChange(() => {
    const states = [...player.live!.inputs.values()].map(({ state }) => state);
    const failed = states.find((state) => state.kind === "failed");
    note.hidden = !failed;
    note.textContent = failed?.kind === "failed" ? failed.message : "";
  });
  for (const sound of scene.sounds) {
    if (sound.kind === "input") void player.live?.inputs.get(sound.id)?.open(sound);
  }
}

function asClock(timeS: number): string {
  const whole = Math.floor(timeS);
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

main().catch((error: Error) => {
  const note = document.getElementById("note");
  if (note) {
    note.hidden = false;
    note.textContent = `This page cannot play here. ${error.message}`;
  }
});
