import type { Scene } from "@bumbrel/core/document/scene";
import type { AddedKind } from "@bumbrel/core/sound/create";
import type { Bus, Group, Sound, StoredSound } from "@bumbrel/core/sound/kinds";
import { nanoid } from "nanoid";
import { dispatch, type Editable } from "./dispatch";

/** A clock by itself runs this long; beside other sounds it runs as long as the tape. */
const CLOCK_S = 60;

/**
 * Adds a sound that needs no file, and gives its id; a clock is as long as the tape.
 *
 * @param tapeS  length of the tape, s; 0 while there is none
 */
export function addKind(document: Editable, kind: AddedKind, tapeS: number): string {
  const id = nanoid(10);
  const seconds = kind === "clock" && { seconds: tapeS || CLOCK_S };
  dispatch(document, "addSound", { id, kind, values: { ...seconds } });
  return id;
}

/** Adds a sound that has been stored, and gives its id. */
export function addStored(
  document: Editable,
  name: string,
  kind: StoredSound["kind"],
  storedId: string,
): string {
  const id = nanoid(10);
  dispatch(document, "addStoredSound", { id, kind, name, storedId });
  return id;
}

/** Puts stored bytes in a sound's place: what listens to it, its fader and its bus stay. */
export function replaceSound(
  document: Editable,
  soundId: string,
  kind: StoredSound["kind"],
  storedId: string,
): void {
  if (document.scene.sounds.some(({ id }) => id === soundId))
    dispatch(document, "replaceSound", { soundId, kind, storedId });
}

/** Changes one sound as an undoable step. */
export function editSound(
  document: Editable,
  sound: Sound,
  label: string,
  change: (sound: Sound) => void,
  gesture?: string,
): void {
  const recipe = ({ sounds }: Scene) => {
    const one = sounds.find(({ id }) => id === sound.id);
    if (one) change(one);
  };
  document.edit(`${label} ${sound.name}`, recipe, gesture);
}

/** Removes a sound; strands that listened to it stay, and listen to nothing. */
export const removeSound = (document: Editable, { id }: Sound): void =>
  dispatch(document, "removeSound", { soundId: id });

/** Adds a bus, and sends a sound to it if one is given. */
export const addBus = (document: Editable, sound?: Sound): void =>
  dispatch(document, "addBus", { id: nanoid(10), ...(sound && { soundId: sound.id }) });

export function editBus(
  document: Editable,
  bus: Bus,
  label: string,
  change: (bus: Bus) => void,
  gesture?: string,
): void {
  const recipe = ({ buses }: Scene) => {
    const one = buses.find(({ id }) => id === bus.id);
    if (one) change(one);
  };
  document.edit(`${label} ${bus.name}`, recipe, gesture);
}

/** Removes a bus; its sounds go straight to the output. */
export const removeBus = (document: Editable, { id }: Bus): void =>
  dispatch(document, "removeBus", { busId: id });

/** Makes a sound run with a group, a new one, or none. */
export function putInGroup(document: Editable, { id: soundId }: Sound, group: string | "new" | null): void {
  if (group === "new") dispatch(document, "addGroup", { id: nanoid(10), soundId });
  else dispatch(document, "groupSound", { soundId, groupId: group });
}

/** Changes how a sound runs: that of its group, if it has one. */
export const editRunning = (
  document: Editable,
  { id }: Sound,
  values: Partial<Pick<Group, "runs" | "loops">>,
): void => dispatch(document, "changeRunning", { soundId: id, values });

/** Changes everything that is heard by so many dB, as one step: buses, and sounds that go to none. */
export const changeMix = (document: Editable, gainDb: number): void =>
  dispatch(document, "changeMix", { gainDb });
