import { analysePlan, type NumbersPlan } from "@bumbrel/core/analyse/planned";
import type { Sliced } from "@bumbrel/core/dsp/slices";
import { loadScripts } from "@bumbrel/core/program/scripts";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { loadLater } from "@bumbrel/core/strand/measures/later";
import type { Track } from "@bumbrel/core/strand/track";
import { readSounds, type SoundMessage } from "./readSound";

/** What the page sends: how its numbers are computed, its sounds, and the bytes of those that are stored, by sound id. */
export interface ToAnalysis {
  plan: NumbersPlan;
  sounds: readonly Sound[];
  bytes: Map<string, Uint8Array>;
  /** How long sounds are that were encoded anew. */
  samples: Readonly<Record<string, number>>;
}
export type FromAnalysis =
  | SoundMessage
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

async function run({ plan, sounds, bytes, samples }: ToAnalysis): Promise<void> {
  const read = await readSounds(sounds, bytes, samples, (message) => scope.postMessage(message));
  if (plan.strands.some(({ code }) => code !== undefined)) await loadScripts();
  await loadLater(plan.strands);
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

/** Lets messages in between slices, so that the page can stop the work. */
async function inSlices<T>(work: Sliced<T>): Promise<T> {
  for (let turn = 0; ; turn++) {
    const { done, value } = work.next();
    if (done) return value;
    if (turn % 50 === 0) await new Promise((resolve) => setTimeout(resolve));
  }
}
