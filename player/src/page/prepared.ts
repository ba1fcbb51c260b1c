import { planNumbers } from "@bumbrel/core/analyse/numbersPlan";
import type { PageOptions } from "@bumbrel/core/document/pageSettings";
import type { Scene } from "@bumbrel/core/document/scene";
import { type Samples, unpackSamples } from "@bumbrel/core/dsp/maths/samples";
import type { Tracks } from "@bumbrel/core/evaluate/values";
import { readCurves } from "@bumbrel/core/format/curves";
import { playableSounds } from "../audio/sceneMix";
import type { PlayableSound } from "../audio/transport";
import type { FetchAsset } from "../stage/assets";
import { bytesOf, codeAddress, codeOf, textOf } from "./blocks";
import type { FromAnalysis, ToAnalysis } from "./reading/analysis.worker";

export const readOptions = () => JSON.parse(textOf("options")) as PageOptions;

/** The scene that the page carries. */
export const readScene = () => JSON.parse(textOf("scene")) as Scene;

/** An image, model or panorama of the scene. */
export const fetchAsset: FetchAsset = async ({ id, name }) => {
  const bytes = await bytesOf(`asset-${id}`);
  if (!bytes) throw new Error(`"${name}" is not in this page.`);
  return bytes.buffer as ArrayBuffer;
};

/** The font of the words in the scene. */
export async function letters(): Promise<ArrayBuffer> {
  return (await bytesOf("letters"))!.buffer as ArrayBuffer;
}

/** Everything a scene is played from. */
export interface Prepared {
  sounds: PlayableSound[];
  samples: ReadonlyMap<string, Samples>;
  tracks: Tracks;
}

/** Has a worker read the sounds and compute the strands, unless their numbers are baked in. */
export async function prepare(scene: Scene, onProgress: (share: number) => void): Promise<Prepared> {
  const bytes = new Map<string, Uint8Array>();
  for (const { id } of scene.sounds) {
    const stored = await bytesOf(`sound-${id}`);
    if (!stored) continue;
    bytes.set(id, stored);
    document.getElementById(`sound-${id}`)!.remove();
  }
  const baked = await bytesOf("curves");
  const worker = new Worker(codeAddress(baked ? "reading" : "analysis"));
  const channels = new Map<string, readonly Samples[]>();
  const samples = new Map<string, Samples>();
  const computed = await new Promise<Tracks>((resolve, reject) => {
    worker.onerror = ({ message }) => reject(new Error(message || "Its sounds cannot be read."));
    worker.onmessage = ({ data }: MessageEvent<FromAnalysis>) => {
      if (data.kind === "sound") {
        channels.set(data.soundId, data.data.channels.map(unpackSamples));
        samples.set(data.soundId, unpackSamples(data.data.mono));
      } else if (data.kind === "progress") onProgress(data.share);
      else if (data.kind === "failed") reject(new Error(data.message));
      else resolve(data.tracks);
    };
    const transfer = [...bytes.values()].map(({ buffer }) => buffer as ArrayBuffer);
    const { soundSamples } = readOptions();
    const asked: ToAnalysis = {
      plan: planNumbers(scene),
      sounds: scene.sounds,
      bytes,
      samples: soundSamples,
      scripts: codeOf("scripts"),
    };
    worker.postMessage(asked, transfer);
  });
  worker.terminate();
  const tracks = baked ? new Map(readCurves(baked).curves.map((curve) => [curve.id, curve])) : computed;
  return { sounds: playableSounds(scene, ({ id }) => channels.get(id)), samples, tracks };
}
