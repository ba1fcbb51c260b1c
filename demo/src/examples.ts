import type { ExampleId } from "@bumbrel/api/exampleList";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { Scene } from "@bumbrel/core/document/scene";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { REGATTA_SEED, regattaFiles } from "./files";
import { makeQuaySound, type QuaySound } from "./music/quayMusic";
import { FERRY_CARD_SOUNDS, ferryCardScene } from "./scenes/ferryCardScene";
import { FOG_BELL_SOUNDS, fogBellScene } from "./scenes/fogBellScene";
import { REGATTA_SOUNDS, regattaScene } from "./scenes/regattaScene";
import { SLIPWAY_SOUNDS, slipwayScene } from "./scenes/slipwayScene";
import { tuningShedScene } from "./tuningShed";

/** The parts of a worked example. */
export interface Example {
  /** Sounds of its scene; the bytes of each are the file `<id>.wav`. */
  sounds: readonly { id: string; name: string }[];
  /** Synthesises its files: bytes by file name. */
  files(): Map<string, Uint8Array<ArrayBuffer>>;
  /** Its scene. @param storedIds  where each sound is stored, by its id */
  scene(storedIds: Record<string, string>): Scene;
}

const quayFiles = (sounds: readonly { id: QuaySound }[]) => () =>
  new Map(
    sounds.map(({ id }) => [
      `${id}.wav`,
      writeWav([makeQuaySound(id, REGATTA_SEED)], SAMPLE_RATE_HZ, "pcm16"),
    ]),
  );

/** The worked examples by their ids. */
export const EXAMPLES: Record<ExampleId, Example> = {
  "regatta-night": { sounds: REGATTA_SOUNDS, files: () => regattaFiles(), scene: regattaScene },
  "tuning-shed": { sounds: [], files: () => new Map(), scene: tuningShedScene },
  "fog-bell": { sounds: FOG_BELL_SOUNDS, files: quayFiles(FOG_BELL_SOUNDS), scene: fogBellScene },
  "ferry-card": { sounds: FERRY_CARD_SOUNDS, files: quayFiles(FERRY_CARD_SOUNDS), scene: ferryCardScene },
  slipway: { sounds: SLIPWAY_SOUNDS, files: quayFiles(SLIPWAY_SOUNDS), scene: slipwayScene },
};
