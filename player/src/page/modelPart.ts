import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { ModelSettings } from "@bumbrel/core/document/modelSettings";
import { makeModel } from "../model/makeModel";
import { QUALITY } from "../stage/quality";
import { LoadedScene, type SceneSource } from "../staged/loadedScene";
import { send } from "./filmPart";

/** Reads the scene frame by frame into a model, and sends that to the server that this page came from. */
export async function makeModelFile(
  source: Omit<SceneSource, "lengthS" | "fineness" | "soundsS">,
  lengthOf: (soundId: string) => number,
  settings: ModelSettings,
): Promise<void> {
  const { scene } = source;
  const soundsS = Object.fromEntries(scene.sounds.map(({ id }) => [id, lengthOf(id) / SAMPLE_RATE_HZ]));
  const lengthS = Math.max(0, ...scene.sounds.map(({ id }) => soundsS[id]));
  const loaded = await LoadedScene.load({
    ...source,
    lengthS,
    soundsS,
    fineness: QUALITY.desktop.fineness,
  });
  const glb = await makeModel(loaded, {
    settings,
    lengthS,
    name: scene.name,
    sounds: scene.sounds.filter(({ heard }) => heard).map(({ id, name }) => ({ name, soundS: soundsS[id] })),
    // The page gives way, so that it can be told to stop.
    onProgress: () => new Promise((resolve) => setTimeout(resolve)),
  });
  await send("model", glb as Uint8Array<ArrayBuffer>);
  await send("done", "");
}
