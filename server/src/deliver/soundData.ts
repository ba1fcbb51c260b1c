import { buffer } from "node:stream/consumers";
import type { Scene } from "@bumbrel/core/document/scene";
import { mixToMono } from "@bumbrel/core/dsp/level/mix";
import { BumbrelError } from "@bumbrel/core/errors";
import { encodedFormatOf } from "@bumbrel/core/format/samples/encoded";
import { isMade, isStored, type StoredSound } from "@bumbrel/core/sound/kinds";
import { madeSoundData } from "@bumbrel/core/sound/made";
import type { SoundData } from "@bumbrel/core/sound/signal";
import { readStoredSound } from "@bumbrel/core/sound/stored";
import { onePiece } from "../archive/zipped";
import { inChromium } from "../chromium/inChromium";
import type { SoundStore } from "../store/sounds";
import type { PageParts } from "./pageCode";
import { scriptOf, workPage } from "./pageCode";

/** A sound with its stored bytes. */
interface Stored {
  sound: StoredSound;
  bytes: Uint8Array;
}

/**
 * Reads the sounds of a scene as a project holds them. Those that are kept encoded are decoded in the installed Chromium, as
 * the workbench does, so that the numbers are the same.
 *
 * @param wanted  ids of the sounds
 * @returns by id; live sounds have none
 * @throws BumbrelError for a sound that is not stored or cannot be decoded
 */
export async function soundDataOf(
  scene: Scene,
  wanted: ReadonlySet<string>,
  sounds: SoundStore,
  parts: PageParts,
  signal?: AbortSignal,
): Promise<Map<string, SoundData>> {
  const data = new Map<string, SoundData>();
  const encoded: Stored[] = [];
  for (const sound of scene.sounds) {
    if (!wanted.has(sound.id)) continue;
    if (isMade(sound)) data.set(sound.id, madeSoundData(sound));
    else if (isStored(sound)) {
      const bytes = await storedBytes(sound, sounds);
      if (sound.kind === "file" && encodedFormatOf(bytes)) encoded.push({ sound, bytes });
      else data.set(sound.id, readStoredSound(sound, bytes));
    }
  }
  if (encoded.length > 0) await decode(encoded, parts, data, signal);
  return data;
}

/** The stored bytes of a sound. @throws BumbrelError when they are not there */
export async function storedBytes(sound: StoredSound, sounds: SoundStore): Promise<Uint8Array> {
  const found = await sounds.get(sound.storedId);
  if (!found) throw notStored(sound.name);
  return buffer(sounds.bytes(found.blobId, 0, found.byteLength - 1));
}

const notStored = (name: string) =>
  new BumbrelError({
    code: "sound-missing",
    what: "it has not been stored whole",
    where: `the sound "${name}"`,
    remedy: "Add it again in the Sounds view, then deliver",
  });

async function decode(
  encoded: readonly Stored[],
  parts: PageParts,
  data: Map<string, SoundData>,
  signal: AbortSignal | undefined,
): Promise<void> {
  const channels: Float32Array[][] = encoded.map(() => []);
  const task = { names: encoded.map(({ sound }) => sound.name) };
  await inChromium({
    answer: (path) => {
      if (path === "") {
        return onePiece(workPage("Decoding", task, scriptOf(parts.code.decode, [])));
      }
      const [, index] = /^sound\/(\d+)$/.exec(path) ?? [];
      const stored = index === undefined ? undefined : encoded[Number(index)];
      return stored && onePiece(stored.bytes);
    },
    take: async (path, sent) => {
      const bytes = await sent.bytes();
      const [, index] = /^channel\/(\d+)$/.exec(path) ?? [];
      // A copy: what came lies at any address.
      channels[Number(index)]?.push(new Float32Array(Uint8Array.from(bytes).buffer));
    },
    failure: (what) =>
      new BumbrelError({
        code: "sound-no-decoder",
        what,
        where: "sounds that are kept encoded",
        remedy: "Export them as WAV or FLAC and add them again",
      }),
    signal,
  });
  encoded.forEach(({ sound }, i) => {
    data.set(sound.id, { channels: channels[i], mono: mixToMono(channels[i]).samples });
  });
}
