import { Type } from "@sinclair/typebox";
import type { Scene } from "../document/scene";
import { runningOf } from "../document/strands/running";
import { FADER_FLOOR_DB, FADER_TOP_DB } from "../dsp/level/decibel";
import { Name, oneOf, orNull } from "../setting/schema";
import { ADDED_KINDS, newSound } from "../sound/create";
import {
  type Bus,
  type Group,
  newSoundBasics,
  SOUND_KIND_NAMES,
  type Sound,
  type StoredSound,
  soundKind,
} from "../sound/kinds";
import { freeName, fresh, known, merge, namedEdit, nameOf, part, withId } from "./namedEdit";

type StoredKind = StoredSound["kind"];
const STORED_KINDS = SOUND_KIND_NAMES.filter(
  (kind): kind is StoredKind => soundKind(kind).origin === "stored",
);
const StoredId = Type.String({ description: "Id of the stored bytes" });

function forget(scene: Scene, kind: "sound" | "bus", id: string): void {
  for (const strand of scene.strands) {
    if (strand.listensTo.kind === kind && strand.listensTo.id === id) strand.listensTo = { kind: "nothing" };
  }
}

function dropEmptyGroups(scene: Scene): void {
  scene.groups = scene.groups.filter(({ id }) => scene.sounds.some(({ groupId }) => groupId === id));
}

/** Edits of sounds, buses and groups of sounds. */
export const SOUND_EDITS = {
  addSound: namedEdit({
    help: "Adds a sound that needs no file: an input, a tone, a noise or a clock.",
    args: {
      id: fresh("sound"),
      kind: oneOf(ADDED_KINDS),
      name: Type.Optional(Name),
      values: Type.Optional(part<Partial<Sound>>("Settings of the sound, as the scene has them")),
    },
    label: (scene, { kind, name }) => `add ${freeName(scene.sounds, name ?? soundKind(kind).label)}`,
    apply(draft, { id, kind, name, values = {} }) {
      const sound = newSound(kind, id, freeName(draft.sounds, name ?? soundKind(kind).label));
      merge(sound, values);
      draft.sounds.push(sound);
    },
  }),
  addStoredSound: namedEdit({
    help: "Adds a sound whose bytes are stored.",
    args: { id: fresh("sound"), kind: oneOf(STORED_KINDS), name: Name, storedId: StoredId },
    label: (scene, { name }) => `add ${freeName(scene.sounds, name)}`,
    apply(draft, { id, kind, name, storedId }) {
      const basics = newSoundBasics(id, freeName(draft.sounds, name));
      draft.sounds.push({ ...basics, heard: soundKind(kind).heardAtFirst, kind, storedId });
    },
  }),
  replaceSound: namedEdit({
    help: "Puts stored bytes in a sound's place: strands, fader and bus stay.",
    args: { soundId: known("sound"), kind: oneOf(STORED_KINDS), storedId: StoredId },
    label: ({ sounds }, { soundId }) => `replace ${nameOf(sounds, soundId, "a sound")}`,
    apply(draft, { soundId, kind, storedId }) {
      const at = draft.sounds.findIndex(({ id }) => id === soundId);
      if (at < 0) return;
      const { id, name, heard, muted, faderDb, pan, busId, groupId, runs, loops, place } = draft.sounds[at];
      const basics = { id, name, heard, muted, faderDb, pan, busId, groupId, runs, loops, place };
      draft.sounds[at] = { ...basics, kind, storedId };
    },
  }),
  changeSound: namedEdit({
    help: "Changes settings of a sound.",
    args: { soundId: known("sound"), values: part<Partial<Sound>>("Settings, as the scene has them") },
    label: ({ sounds }, { soundId }) => `change ${nameOf(sounds, soundId, "a sound")}`,
    apply(draft, { soundId, values }) {
      const sound = withId(draft.sounds, soundId);
      if (sound) merge(sound, values);
    },
  }),
  removeSound: namedEdit({
    help: "Removes a sound; strands that listened to it stay, and listen to nothing.",
    args: { soundId: known("sound") },
    label: ({ sounds }, { soundId }) => `remove ${nameOf(sounds, soundId, "a sound")}`,
    apply(draft, { soundId }) {
      draft.sounds = draft.sounds.filter(({ id }) => id !== soundId);
      forget(draft, "sound", soundId);
      dropEmptyGroups(draft);
    },
  }),
  addBus: namedEdit({
    help: "Adds a bus, and sends a sound to it if one is given.",
    args: { id: fresh("bus"), soundId: Type.Optional(known("sound")) },
    label: ({ buses }) => `add ${freeName(buses, "Bus")}`,
    apply(draft, { id, soundId }) {
      draft.buses.push({ id, name: freeName(draft.buses, "Bus"), faderDb: 0, pan: 0, muted: false });
      const sound = withId(draft.sounds, soundId);
      if (sound) sound.busId = id;
    },
  }),
  changeBus: namedEdit({
    help: "Changes settings of a bus.",
    args: { busId: known("bus"), values: part<Partial<Bus>>("Settings, as the scene has them") },
    label: ({ buses }, { busId }) => `change ${nameOf(buses, busId, "a bus")}`,
    apply(draft, { busId, values }) {
      const bus = withId(draft.buses, busId);
      if (bus) merge(bus, values);
    },
  }),
  removeBus: namedEdit({
    help: "Removes a bus; its sounds go straight to the output.",
    args: { busId: known("bus") },
    label: ({ buses }, { busId }) => `remove ${nameOf(buses, busId, "a bus")}`,
    apply(draft, { busId }) {
      draft.buses = draft.buses.filter(({ id }) => id !== busId);
      for (const sound of draft.sounds) if (sound.busId === busId) sound.busId = null;
      forget(draft, "bus", busId);
    },
  }),
  addGroup: namedEdit({
    help: "Makes a sound run with a new group, as it runs by itself now.",
    args: { id: fresh("group"), soundId: known("sound") },
    label: ({ sounds }, { soundId }) => `group ${nameOf(sounds, soundId, "a sound")}`,
    apply(draft, { id, soundId }) {
      const sound = withId(draft.sounds, soundId);
      if (!sound) return;
      const { runs, loops } = runningOf(draft, sound);
      draft.groups.push({ id, name: freeName(draft.groups, "Group"), runs, loops });
      sound.groupId = id;
      dropEmptyGroups(draft);
    },
  }),
  groupSound: namedEdit({
    help: "Makes a sound run with a group, or with none.",
    args: { soundId: known("sound"), groupId: orNull(known("group")) },
    label: ({ sounds }, { soundId }) => `group ${nameOf(sounds, soundId, "a sound")}`,
    apply(draft, { soundId, groupId }) {
      const sound = withId(draft.sounds, soundId);
      if (sound) sound.groupId = groupId;
      dropEmptyGroups(draft);
    },
  }),
  changeRunning: namedEdit({
    help: "Changes how a sound runs: that of its group, if it has one.",
    args: {
      soundId: known("sound"),
      values: part<Partial<Pick<Group, "runs" | "loops">>>("runs and loops, as the scene has them"),
    },
    label: ({ sounds }, { soundId }) => `change how ${nameOf(sounds, soundId, "a sound")} runs`,
    apply(draft, { soundId, values }) {
      const sound = withId(draft.sounds, soundId);
      if (sound) merge(withId(draft.groups, sound.groupId) ?? sound, values);
    },
  }),
  changeMix: namedEdit({
    help: "Changes everything that is heard by so many dB: buses, and sounds that go to none.",
    args: { gainDb: Type.Number({ minimum: -60, maximum: 60 }) },
    label: (_scene, { gainDb }) => `change the mix by ${gainDb.toFixed(1)} dB`,
    apply({ sounds, buses }, { gainDb }) {
      for (const strip of [...buses, ...sounds.filter(({ busId }) => busId === null)])
        strip.faderDb = Math.min(FADER_TOP_DB, Math.max(FADER_FLOOR_DB, strip.faderDb + gainDb));
    },
  }),
};
