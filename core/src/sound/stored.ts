import { fileSound } from "./fileSound";
import type { StoredSound } from "./kinds";
import { noteSound } from "./noteSound";
import type { SoundData } from "./signal";
import { tableSound } from "./tableSound";

/** How each kind of stored sound is read. */
const READERS: Record<StoredSound["kind"], (bytes: Uint8Array, name: string) => SoundData> = {
  file: fileSound,
  notes: noteSound,
  table: tableSound,
};

/**
 * Reads the stored bytes of a sound.
 *
 * @throws SoundFormatError naming what is wrong with them
 */
export const readStoredSound = (
  { kind, name }: Pick<StoredSound, "kind" | "name">,
  bytes: Uint8Array,
): SoundData => READERS[kind](bytes, name);
