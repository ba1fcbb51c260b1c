import { mixToMono } from "@bumbrel/core/dsp/mix";
import { readMidi } from "@bumbrel/core/format/midi";
import { readProjectSound } from "@bumbrel/core/format/sound";
import { readTable } from "@bumbrel/core/format/table";
import { isLive, type Scene } from "@bumbrel/core/scene/document";
import {
  isMade,
  isStored,
  makeSound,
  type StoredKind,
  soundNotes,
  soundTable,
} from "@bumbrel/core/scene/soundSource";
import { playableSounds } from "../audio/sceneMix";
import { playerHandle, ScenePlayer } from "../scenePlayer";
import { Stage } from "../stage/stage";
import { computeTracks, type ReadySound } from "../tracks";

/** The built code of `audio/processors` and `live/strands.worker`; put in when the page is built. */
declare const WORKLET_SOURCE: string;
declare const WORKER_SOURCE: string;

/**
 * The delivered page: reads the scene and the sounds that stand in it as data blocks, computes the strands
 * and plays. Nothing is fetched.
 */
async function main(): Promise<void> {
  const find = <T extends HTMLElement>(id: string) => document.getElementById(id) as T;
  const note = find("note");
  const scene = JSON.parse(find("scene").textContent) as Scene;
  // A page from disk may load worklets and workers from a data address only: its own origin is none.
  const address = (source: string) => `data:text/javascript,${encodeURIComponent(source)}`;
  const urls = { worklet: address(WORKLET_SOURCE), worker: address(WORKER_SOURCE) };
  const player = new ScenePlayer(scene, scene.sounds.some(isLive) ? urls : undefined);
  const canvas = find<HTMLCanvasElement>("stage");
  const stage = new Stage(canvas, async ({ id, name }) => {
    const block = document.getElementById(`asset-${id}`);
    if (!block) throw new Error(`"${name}" is not in this page.`);
    return fromBase64(block.textContent).buffer as ArrayBuffer;
  });
  player.attach(stage);
  const fit = () => stage.resize(innerWidth, innerHeight, Math.min(2, devicePixelRatio));
  addEventListener("resize", fit);
  fit();
  player.start();

  const ready = new Map<string, ReadySound>();
  for (const sound of scene.sounds) {
    if (isMade(sound)) ready.set(sound.id, { channels: [makeSound(sound)] });
    if (!isStored(sound)) continue;
    const block = document.getElementById(`sound-${sound.id}`);
    if (block) ready.set(sound.id, readStored(sound, fromBase64(block.textContent)));
    block?.remove();
  }
  player.transport.setSounds(
    playableSounds(scene, ({ id }) => ready.get(id)?.channels),
    scene.buses,
  );
  player.setSamples(new Map([...ready].map(([id, { channels }]) => [id, mixToMono(channels).samples])));
  const tracks = await computeTracks(scene, ready, player.transport.durationS, (share) => {
    note.textContent = `Getting ready … ${Math.round(share * 100)} %`;
  });
  player.setTracks(tracks);
  note.hidden = true;

  const { transport } = player;
  const prompt = find<HTMLButtonElement>("prompt");
  const toggle = find<HTMLButtonElement>("toggle");
  const position = find<HTMLInputElement>("position");
  const clock = find("clock");
  const { durationS } = transport;
  position.max = String(durationS);
  // Without sounds it runs on for as long as it is let.
  position.hidden = durationS === 0;
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
    clock.textContent = asClock(timeS) + (durationS > 0 ? ` / ${asClock(durationS)}` : "");
  });
  window.bumbrel = playerHandle(player, stage);
  showState();
  transport.play();
  for (const unit of transport.units) transport.playUnit(unit);
  // An input that cannot be had is said over the picture, which goes on without it.
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

function readStored(sound: StoredKind, bytes: Uint8Array): ReadySound {
  if (sound.kind === "file") return { channels: readProjectSound(bytes, sound.name).channels };
  if (sound.kind === "table") {
    const table = readTable(bytes, sound.name);
    return { channels: [soundTable(table)], table };
  }
  const notes = readMidi(bytes, sound.name);
  return { channels: [soundNotes(notes)], notes };
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
