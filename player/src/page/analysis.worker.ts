import { analysePlan, type NumbersPlan } from "@bumbrel/core/analyse/planned";
import { type PackedSamples, packSamples } from "@bumbrel/core/dsp/samples";
import type { Sliced } from "@bumbrel/core/dsp/slices";
import { encodedFormatOf } from "@bumbrel/core/format/encoded";
import { loadScripts } from "@bumbrel/core/program/scripts";
import { fileSound } from "@bumbrel/core/sound/fileSound";
import type { Sound } from "@bumbrel/core/sound/kinds";
import type { SoundData } from "@bumbrel/core/sound/signal";
import type { Track } from "@bumbrel/core/strand/track";

/** What the page sends: how its numbers are computed, its sounds, and the bytes of those that are stored, by sound id. */
export interface ToAnalysis {
  plan: NumbersPlan;
  sounds: readonly Sound[];
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

async function run({ plan, sounds, bytes }: ToAnalysis): Promise<void> {
  const read = new Map<string, SoundData>();
  for (const sound of sounds) {
    const data = await readSound(sound, bytes.get(sound.id));
    if (!data) continue;
    read.set(sound.id, data);
    scope.postMessage({
      kind: "sound",
      soundId: sound.id,
      data: { channels: data.channels.map(packSamples), mono: packSamples(data.mono) },
    });
  }
  if (plan.strands.some(({ code }) => code !== undefined)) await loadScripts();
  let sent = 0;
  const work = analysePlan(
    plan,
    (id) => read.get(id),
    (share) => {
      if (share - sent < 0.01) return;
      sent = share;
      scope.postMessage({ kind: "progress", share });
    },
  );
  const { tracks } = await inSlices(work);
  scope.postMessage({ kind: "tracks", tracks });
}

/** Reads a sound by the reader of its kind; pages carry those of their own sounds. */
async function readSound(sound: Sound, bytes: Uint8Array | undefined): Promise<SoundData | undefined> {
  switch (sound.kind) {
    case "tone":
    case "noise":
    case "clock":
      return (await import("@bumbrel/core/sound/made")).madeSoundData(sound);
    case "file":
      if (!bytes) return undefined;
      return encodedFormatOf(bytes)
        ? (await import("../sound/decodeEncoded")).decodeSound(bytes, sound.name)
        : fileSound(bytes, sound.name);
    case "notes":
      return bytes && (await import("@bumbrel/core/sound/noteSound")).noteSound(bytes, sound.name);
    case "table":
      return bytes && (await import("@bumbrel/core/sound/tableSound")).tableSound(bytes, sound.name);
    case "input":
    case "keys":
      return undefined;
  }
}

/** Lets messages in between slices, so that the page can stop the work. */
async function inSlices<T>(work: Sliced<T>): Promise<T> {
  for (let turn = 0; ; turn++) {
    const { done, value } = work.next();
    if (done) return value;
    if (turn % 50 === 0) await new Promise((resolve) => setTimeout(resolve));
  }
}
