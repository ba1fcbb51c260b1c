import { drivingStrands, hasNumberPrograms } from "@bumbrel/core/analyse/needed";
import { analyseScene, trackOf } from "@bumbrel/core/analyse/tracks";
import type { Scene } from "@bumbrel/core/document/scene";
import { type PackedSamples, packSamples } from "@bumbrel/core/dsp/samples";
import type { Sliced } from "@bumbrel/core/dsp/slices";
import { loadScripts } from "@bumbrel/core/program/scripts";
import { isMade, isStored } from "@bumbrel/core/sound/kinds";
import { madeSoundData, readStoredSound } from "@bumbrel/core/sound/make";
import type { SoundData } from "@bumbrel/core/sound/signal";
import type { Track } from "@bumbrel/core/strand/track";
import { decodeSound } from "./decode";

/** What the page sends: the scene and the stored bytes of its sounds, by sound id. */
export interface ToAnalysis {
  scene: Scene;
  bytes: Map<string, Uint8Array>;
}
export type FromAnalysis =
  | { kind: "sound"; soundId: string; data: { channels: PackedSamples[]; mono: PackedSamples } }
  | { kind: "progress"; share: number }
  | { kind: "tracks"; tracks: Map<string, Track> }
  | { kind: "failed"; message: string };

const scope = self as unknown as {
  postMessage(message: FromAnalysis): void;
  onmessage: ((event: MessageEvent<ToAnalysis>) => void) | null;
};
scope.onmessage = ({ data }) => {
  run(data).catch((error: Error) => scope.postMessage({ kind: "failed", message: error.message }));
};

async function run({ scene, bytes }: ToAnalysis): Promise<void> {
  const sounds = new Map<string, SoundData>();
  for (const sound of scene.sounds) {
    const stored = bytes.get(sound.id);
    let data: SoundData | undefined;
    if (isMade(sound)) data = madeSoundData(sound);
    else if (isStored(sound) && stored) {
      data = (await decodeSound(stored, sound.name)) ?? readStoredSound(sound, stored);
    }
    if (!data) continue;
    sounds.set(sound.id, data);
    scope.postMessage({
      kind: "sound",
      soundId: sound.id,
      data: { channels: data.channels.map(packSamples), mono: packSamples(data.mono) },
    });
  }
  if (hasNumberPrograms(drivingStrands(scene))) await loadScripts();
  let sent = 0;
  const work = analyseScene(
    scene,
    ({ id }) => sounds.get(id),
    undefined,
    (share) => {
      if (share - sent < 0.01) return;
      sent = share;
      scope.postMessage({ kind: "progress", share });
    },
  );
  const { numbers } = await inSlices(work);
  scope.postMessage({
    kind: "tracks",
    tracks: new Map([...numbers].map(([id, one]) => [id, trackOf(one)])),
  });
}

/** Lets messages in between slices, so that the page can stop the work. */
async function inSlices<T>(work: Sliced<T>): Promise<T> {
  for (let turn = 0; ; turn++) {
    const { done, value } = work.next();
    if (done) return value;
    if (turn % 50 === 0) await new Promise((resolve) => setTimeout(resolve));
  }
}
