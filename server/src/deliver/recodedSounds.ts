import { neededSounds } from "@bumbrel/core/analyse/needed";
import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import type { PageSettings } from "@bumbrel/core/document/pageSettings";
import { BumbrelError } from "@bumbrel/core/errors";
import { writeWav } from "@bumbrel/core/format/samples/wav";
import { onePiece } from "../archive/zipped";
import { inChromium } from "../chromium/inChromium";
import { scriptOf, workPage } from "./pageCode";
import { soundDataOf } from "./soundData";
import type { WayRoom } from "./wayRoom";

/** A sound as another file than it came as. */
export interface RecodedSound {
  bytes: Uint8Array;
  /** How long it is, at 48 kHz: encoders add some at its ends. */
  samples: number;
}
export type Recoding = Exclude<PageSettings["sounds"], "asTheyCame">;

/**
 * Writes the sounds of a scene that came as files anew: as WAV files here, as Opus or AAC in the installed Chromium, which has
 * encoders.
 *
 * @returns by the ids of the sounds
 * @throws BumbrelError for a sound that cannot be read or encoded
 */
export async function recodedSounds(
  { scene, stores, parts, signal }: WayRoom,
  recoding: Recoding,
): Promise<Map<string, RecodedSound>> {
  const ids = neededSounds(scene).flatMap(({ kind, id }) => (kind === "file" ? [id] : []));
  const data = await soundDataOf(scene, new Set(ids), stores.sounds, parts, signal);
  const channels = ids.map((id) => data.get(id)!.channels as Float32Array[]);
  const files: Uint8Array[] = [];
  if (recoding === "wav") files.push(...channels.map((each) => writeWav(each, SAMPLE_RATE_HZ, "float32")));
  else if (ids.length > 0) {
    const task = { codec: recoding, channels: channels.map(({ length }) => length) };
    await inChromium({
      answer: (path) => {
        if (path === "") return onePiece(workPage("Encoding", task, scriptOf(parts.code.encode, [])));
        const [, i, c] = /^channel\/(\d+)\/(\d+)$/.exec(path) ?? [];
        const channel = channels[Number(i)]?.[Number(c)];
        return channel && onePiece(new Uint8Array(channel.buffer, channel.byteOffset, channel.byteLength));
      },
      take: async (_path, sent) => void files.push(await sent.bytes()),
      failure: (what) =>
        new BumbrelError({
          code: "sound-no-encoder",
          what,
          where: "the sounds of the page",
          remedy: "Deliver them as WAV, or as they came",
        }),
      signal,
    });
  }
  return new Map(ids.map((id, i) => [id, { bytes: files[i], samples: channels[i][0].length }]));
}
