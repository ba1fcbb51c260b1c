import type { Sound } from "@bumbrel/core/scene/document";
import { nanoid } from "nanoid";
import type { Workbench } from "../project/workbench";

const MADE_BASICS = { heard: true, faderDb: -12, seconds: 10, levelDb: 0 };

function freshName(workbench: Workbench, base: string): string {
  const names = new Set(workbench.scene.sounds.map(({ name }) => name));
  if (!names.has(base)) return base;
  for (let n = 2; ; n++) if (!names.has(`${base} ${n}`)) return `${base} ${n}`;
}

function add(workbench: Workbench, sound: Sound): void {
  workbench.edit(`add ${sound.name}`, (scene) => {
    scene.sounds.push(sound);
  });
}

/** Adds a tone of 440 Hz. */
export function addTone(workbench: Workbench): void {
  const name = freshName(workbench, "Tone");
  const settings = { waveform: "sine", hz: 440, toHz: null, sweep: "logarithmic" } as const;
  add(workbench, { id: nanoid(10), name, kind: "tone", ...MADE_BASICS, ...settings });
}

/** Adds pink noise. */
export function addNoise(workbench: Workbench): void {
  const name = freshName(workbench, "Noise");
  add(workbench, { id: nanoid(10), name, kind: "noise", ...MADE_BASICS, colour: "pink", seed: 1 });
}

/** Changes one sound as an undoable step. */
export function editSound(
  workbench: Workbench,
  sound: Sound,
  label: string,
  change: (sound: Sound) => void,
  gesture?: string,
): void {
  workbench.edit(
    `${label} ${sound.name}`,
    (scene) => {
      const one = scene.sounds.find(({ id }) => id === sound.id);
      if (one) change(one);
    },
    gesture,
  );
}

/** Removes a sound; strands that listened to it stay, and listen to nothing. */
export function removeSound(workbench: Workbench, sound: Sound): void {
  workbench.edit(`remove ${sound.name}`, (scene) => {
    scene.sounds = scene.sounds.filter(({ id }) => id !== sound.id);
    for (const strand of scene.strands) if (strand.soundId === sound.id) strand.soundId = null;
  });
}
