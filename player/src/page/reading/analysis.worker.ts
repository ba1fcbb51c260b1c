import {
  analysePlan,
  type NumbersPlan,
  type ReadProgram,
  type WaitingSlices,
} from "@bumbrel/core/analyse/planned";
import type { Sound } from "@bumbrel/core/sound/kinds";
import { loadLater } from "@bumbrel/core/strand/measures/later/later";
import type { Track } from "@bumbrel/core/strand/track";
import { addressOf, type BlockCode } from "../blocks";
import { readSounds, type SoundMessage } from "./readSound";

/** Message of the page: how its numbers are computed, its sounds, and the bytes of those that are stored, by sound id. */
export interface ToAnalysis {
  plan: NumbersPlan;
  sounds: readonly Sound[];
  bytes: Map<string, Uint8Array>;
  /** How long sounds are that were encoded anew. */
  samples: Readonly<Record<string, number>>;
  /** Code of the thread for scripts, where the scene has programs of numbers. */
  scripts: BlockCode;
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

async function run({ plan, sounds, bytes, samples, scripts }: ToAnalysis): Promise<void> {
  const read = await readSounds(sounds, bytes, samples, (message) => scope.postMessage(message));
  const readProgram = plan.strands.some(({ code }) => code !== undefined)
    ? await programReader(scripts)
    : undefined;
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
    readProgram,
  );
  const { tracks } = await inSlices(work);
  scope.postMessage({ kind: "tracks", tracks });
}

/** Programs are read in a thread that can be ended; scenes without any do not carry what that takes. */
async function programReader(scripts: BlockCode): Promise<ReadProgram> {
  const { ProgramReader, runScriptsIn } = await import("@bumbrel/core/analyse/scripts/reading");
  runScriptsIn(() => new Worker(addressOf(scripts)));
  const programs = new ProgramReader();
  return (signal, tuning) => programs.read(signal, tuning);
}

/** Lets messages in between slices, so that the page can stop the work. */
async function inSlices<T>(work: WaitingSlices<T>): Promise<T> {
  for (let turn = 0; ; turn++) {
    const { done, value } = work.next();
    if (done) return value;
    if (value) await value;
    if (turn % 50 === 0) await new Promise((resolve) => setTimeout(resolve));
  }
}
