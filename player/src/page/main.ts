import { readProjectSound } from "@bumbrel/core/format/sound";
import type { Scene } from "@bumbrel/core/scene/document";
import { makeSound } from "@bumbrel/core/scene/soundSource";
import { playerHandle, ScenePlayer } from "../scenePlayer";
import { Stage } from "../stage/stage";
import { computeTracks } from "../tracks";

/**
 * The delivered page: reads the scene and the sounds that stand in it as data blocks, computes the strands
 * and plays. Nothing is fetched.
 */
async function main(): Promise<void> {
  const find = <T extends HTMLElement>(id: string) => document.getElementById(id) as T;
  const note = find("note");
  const scene = JSON.parse(find("scene").textContent) as Scene;
  const player = new ScenePlayer(scene);
  const canvas = find<HTMLCanvasElement>("stage");
  const stage = new Stage(canvas);
  player.attach(stage);
  const fit = () => stage.resize(innerWidth, innerHeight, Math.min(2, devicePixelRatio));
  addEventListener("resize", fit);
  fit();
  player.start();

  const channels = new Map<string, Float32Array[]>();
  for (const sound of scene.sounds) {
    if (sound.kind !== "file") {
      channels.set(sound.id, [makeSound(sound)]);
      continue;
    }
    const block = document.getElementById(`sound-${sound.id}`);
    if (block) channels.set(sound.id, readProjectSound(fromBase64(block.textContent), sound.name).channels);
    block?.remove();
  }
  const tracks = await computeTracks(scene, channels, (share) => {
    note.textContent = `Getting ready … ${Math.round(share * 100)} %`;
  });
  player.setTracks(tracks);
  player.transport.setSounds(
    scene.sounds.flatMap((sound) => {
      const its = channels.get(sound.id);
      return its ? [{ id: sound.id, channels: its, heard: sound.heard, faderDb: sound.faderDb }] : [];
    }),
  );
  note.hidden = true;

  const { transport } = player;
  const prompt = find<HTMLButtonElement>("prompt");
  const toggle = find<HTMLButtonElement>("toggle");
  const position = find<HTMLInputElement>("position");
  const clock = find("clock");
  position.max = String(transport.durationS);
  const showState = () => {
    prompt.hidden = transport.state !== "held";
    const playing = transport.state === "playing";
    toggle.textContent = playing ? "❙❙" : "▶";
    toggle.setAttribute("aria-label", playing ? "Pause" : "Play");
    if (!prompt.hidden) prompt.focus();
  };
  transport.onChange(showState);
  prompt.addEventListener("click", () => transport.play());
  toggle.addEventListener("click", () => transport.toggle());
  position.addEventListener("input", () => transport.seek(Number(position.value)));
  addEventListener("keydown", (event) => {
    if (event.key !== " " || event.target instanceof HTMLButtonElement) return;
    event.preventDefault();
    transport.toggle();
  });
  let idle: ReturnType<typeof setTimeout>;
  const wake = () => {
    document.body.classList.remove("idle");
    clearTimeout(idle);
    idle = setTimeout(() => document.body.classList.add("idle"), 2500);
  };
  for (const kind of ["pointermove", "pointerdown", "keydown"]) addEventListener(kind, wake);
  wake();
  player.onFrame((timeS) => {
    position.value = String(timeS);
    clock.textContent = `${asClock(timeS)} / ${asClock(transport.durationS)}`;
  });
  window.bumbrel = playerHandle(player, stage);
  showState();
  transport.play();
}

function asClock(timeS: number): string {
  const whole = Math.floor(timeS);
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

function fromBase64(text: string): Uint8Array {
  const binary = atob(text.trim());
  const bytes = new Uint8Array(binary.length);
  for (let i = 0; i < binary.length; i++) bytes[i] = binary.charCodeAt(i);
  return bytes;
}

main().catch((error: Error) => {
  const note = document.getElementById("note");
  if (note) {
    note.hidden = false;
    note.textContent = `This page cannot play here. ${error.message}`;
  }
});
