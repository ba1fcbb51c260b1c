import { defaultsOf, type Settings } from "../setting/descriptor";
import { newClock } from "./clock";
import {
  type LiveSound,
  type MadeSound,
  newSoundBasics,
  SOUND_KIND_NAMES,
  type SoundKind,
  soundKind,
} from "./kinds";

/** Kinds of sound that are added without a file. */
export type AddedKind = (MadeSound | LiveSound)["kind"];
export const ADDED_KINDS = SOUND_KIND_NAMES.filter(
  (kind): kind is AddedKind => soundKind(kind).origin !== "stored",
);

/** Made sounds begin quieter than full scale. */
const MADE_FADER_DB = -12;

/** A new sound of a kind that needs no file, with its declared defaults. */
export function newSound(kind: AddedKind, id: string, name: string): MadeSound | LiveSound {
  const { origin, heardAtFirst, settings } = soundKind(kind);
  return {
    ...newSoundBasics(id, name),
    ...(origin === "made" ? { faderDb: MADE_FADER_DB } : { device: null }),
    ...defaultsOf(settings as Settings),
    ...(kind === "clock" && newClock()),
    // A sweep, a channel and a rate are chosen only when somebody wants them.
    ...noneOf(settings as Settings),
    kind,
    heard: heardAtFirst,
  } as MadeSound | LiveSound;
}

/** `null` for every setting that may be none. */
const noneOf = (settings: Settings) =>
  Object.fromEntries(
    Object.entries(settings).flatMap(([key, setting]) =>
      setting.type === "number" && setting.orNone !== undefined ? [[key, null]] : [],
    ),
  );

/** Files that can be chosen for sounds, as a file chooser accepts them, and the words for their formats. */
export function acceptedFiles(): { accept: string; words: string } {
  const files = SOUND_KIND_NAMES.flatMap((kind: SoundKind) => soundKind(kind).files ?? []);
  const formats = files.flatMap(({ words }) => words.split(", "));
  return {
    accept: files.flatMap(({ types, extensions }) => [...types, ...extensions]).join(","),
    words: `${formats.slice(0, -1).join(", ")} or ${formats.at(-1)}`,
  };
}
