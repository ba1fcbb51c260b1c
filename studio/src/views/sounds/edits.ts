import { runningOf } from "@bumbrel/core/document/running";
import type { Scene } from "@bumbrel/core/document/scene";
import { FADER_FLOOR_DB, FADER_TOP_DB } from "@bumbrel/core/dsp/decibel";
import { type AddedKind, newSound } from "@bumbrel/core/sound/create";
import {
  type Bus,
  type Group,
  newSoundBasics,
  type Sound,
  type StoredSound,
  soundKind,
} from "@bumbrel/core/sound/kinds";
import { nanoid } from "nanoid";
import type { Workbench } from "../project/workbench";

/** A clock by itself runs this long; beside other sounds it runs as long as the tape. */
const CLOCK_S = 60;

function freshName(taken: readonly { name: string }[], base: string): string {
  const names = new Set(taken.map(({ name }) => name));
  if (!names.has(base)) return base;
  for (let n = 2; ; n++) if (!names.has(`${base} ${n}`)) return `${base} ${n}`;
}

/** Adds a sound under a name that is free, and gives its id. */
function add(workbench: Workbench, base: string, make: (basics: ReturnType<typeof newSoundBasics>) => Sound) {
  const name = freshName(workbench.scene.sounds, base);
  const sound = make(newSoundBasics(nanoid(10), name));
  workbench.edit(`add ${name}`, (scene) => {
    scene.sounds.push(sound);
  });
  return sound.id;
}

/** Adds a sound that needs no file; a clock is as long as the tape. */
export const addKind = (workbench: Workbench, kind: AddedKind) =>
  add(workbench, soundKind(kind).label, ({ id, name }) => {
    const sound = newSound(kind, id, name);
    if (sound.kind !== "clock") return sound;
    return { ...sound, seconds: workbench.player.transport.durationS || CLOCK_S };
  });

/** Adds a sound that has been stored. */
export const addStored = (workbench: Workbench, name: string, kind: StoredSound["kind"], storedId: string) =>
  add(workbench, name, (basics) => ({ ...basics, heard: soundKind(kind).heardAtFirst, kind, storedId }));

/** Puts stored bytes in a sound's place: what listens to it, its fader and its bus stay. */
export function replaceSound(
  workbench: Workbench,
  soundId: string,
  kind: StoredSound["kind"],
  storedId: string,
): void {
  const sound = workbench.scene.sounds.find(({ id }) => id === soundId);
  if (!sound) return;
  workbench.edit(`replace ${sound.name}`, (scene) => {
    const at = scene.sounds.findIndex(({ id }) => id === soundId);
    const { id, name, heard, muted, faderDb, pan, busId, groupId, runs, loops, place } = sound;
    const basics = { id, name, heard, muted, faderDb, pan, busId, groupId, runs, loops, place };
    scene.sounds[at] = { ...basics, kind, storedId };
  });
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
    forget(scene, "sound", sound.id);
    dropEmptyGroups(scene);
  });
}

function forget(scene: Scene, kind: "sound" | "bus", id: string): void {
  for (const strand of scene.strands) {
    if (strand.listensTo.kind === kind && strand.listensTo.id === id) strand.listensTo = { kind: "nothing" };
  }
}

function dropEmptyGroups(scene: Scene): void {
  scene.groups = scene.groups.filter(({ id }) => scene.sounds.some(({ groupId }) => groupId === id));
}

/** Adds a bus, and sends a sound to it if one is given. */
export function addBus(workbench: Workbench, sound?: Sound): void {
  const name = freshName(workbench.scene.buses, "Bus");
  const id = nanoid(10);
  workbench.edit(`add ${name}`, (scene) => {
    scene.buses.push({ id, name, faderDb: 0, pan: 0, muted: false });
    const one = scene.sounds.find((other) => other.id === sound?.id);
    if (one) one.busId = id;
  });
}

export function editBus(
  workbench: Workbench,
  bus: Bus,
  label: string,
  change: (bus: Bus) => void,
  gesture?: string,
): void {
  workbench.edit(
    `${label} ${bus.name}`,
    (scene) => {
      const one = scene.buses.find(({ id }) => id === bus.id);
      if (one) change(one);
    },
    gesture,
  );
}

/** Removes a bus; its sounds go straight to the output. */
export function removeBus(workbench: Workbench, bus: Bus): void {
  workbench.edit(`remove ${bus.name}`, (scene) => {
    scene.buses = scene.buses.filter(({ id }) => id !== bus.id);
    for (const sound of scene.sounds) if (sound.busId === bus.id) sound.busId = null;
    forget(scene, "bus", bus.id);
  });
}

/** Makes a sound run with a group, a new one, or none. */
export function putInGroup(workbench: Workbench, sound: Sound, group: string | "new" | null): void {
  const { runs, loops } = runningOf(workbench.scene, sound);
  const name = freshName(workbench.scene.groups, "Group");
  const id = group === "new" ? nanoid(10) : group;
  editSoundAndGroups(workbench, `group ${sound.name}`, sound.id, (one, scene) => {
    if (group === "new") scene.groups.push({ id: id!, name, runs, loops });
    one.groupId = id;
  });
}

/** Changes how a sound runs: that of its group, if it has one. */
export function editRunning(
  workbench: Workbench,
  sound: Sound,
  change: Partial<Pick<Group, "runs" | "loops">>,
): void {
  editSoundAndGroups(workbench, `change how ${sound.name} runs`, sound.id, (one, scene) => {
    Object.assign(scene.groups.find(({ id }) => id === one.groupId) ?? one, change);
  });
}

function editSoundAndGroups(
  workbench: Workbench,
  label: string,
  soundId: string,
  change: (sound: Sound, scene: Scene) => void,
): void {
  workbench.edit(label, (scene) => {
    const one = scene.sounds.find(({ id }) => id === soundId);
    if (one) change(one, scene);
    dropEmptyGroups(scene);
  });
}

/** Changes everything that is heard by so many dB, as one step: buses, and sounds that go to none. */
export function changeMix(workbench: Pick<Workbench, "edit">, gainDb: number): void {
  workbench.edit(`change the mix by ${gainDb.toFixed(1)} dB`, ({ sounds, buses }) => {
    for (const strip of [...buses, ...sounds.filter(({ busId }) => busId === null)])
      strip.faderDb = Math.min(FADER_TOP_DB, Math.max(FADER_FLOOR_DB, strip.faderDb + gainDb));
  });
}
