import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { ModelSettings } from "@bumbrel/core/document/modelSettings";
import { takeFromFile } from "@bumbrel/core/document/take/takeFile";
import { makeModel } from "../../model/makeModel";
import { QUALITY } from "../../stage/image/quality";
import { LoadedScene } from "../../staged/loadedScene";
import { bytesOf, textOf } from "../blocks";
import { fetchAsset, letters, prepare, readScene } from "../prepared";
import { send } from "../reading/send";

/** Reads the page's scene frame by frame into a model, and sends that to the server that the page came from. */
async function main(): Promise<void> {
  const scene = readScene();
  const settings = JSON.parse(textOf("model")) as ModelSettings;
  const { tracks, samples } = await prepare(scene, () => {});
  const soundsS = Object.fromEntries(
    scene.sounds.map(({ id }) => [id, (samples.get(id)?.length ?? 0) / SAMPLE_RATE_HZ]),
  );
  const isPlayed = scene.takeUse === "demo" && scene.takeId !== null;
  const recorded = isPlayed ? await bytesOf(`asset-${scene.takeId}`) : undefined;
  const take = recorded && takeFromFile(JSON.parse(new TextDecoder().decode(recorded)));
  const lengthS = take?.lengthS ?? Math.max(0, ...Object.values(soundsS));
  const loaded = await LoadedScene.load({
    scene,
    tracks,
    lengthS,
    take,
    soundsS,
    samplesOf: (id) => samples.get(id),
    fetchAsset,
    fetchFont: letters,
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

main().catch((error: Error) => send("failed", error.message));
