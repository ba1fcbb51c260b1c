import { SAMPLE_RATE_HZ } from "@bumbrel/core/constants";
import { type FilmTask, orderOf } from "@bumbrel/core/document/film/filmPieces";
import { takeFromFile } from "@bumbrel/core/document/take/takeFile";
import type { FilmSource } from "../../film/filmScene";
import { makePieces } from "../../film/makePieces";
import { send } from "../reading/send";

/** Progress is told no more often, ms. */
const TELL_MS = 250;

/**
 * Makes the pieces of a film and sends each to the server that this page came from. There is nobody to watch.
 *
 * @throws the reason why it cannot be made
 */
export async function makeFilmPieces(
  source: Omit<FilmSource, "take">,
  task: FilmTask,
  recorded: Uint8Array | undefined,
): Promise<void> {
  const take = recorded && takeFromFile(JSON.parse(new TextDecoder().decode(recorded)));
  const onTape = source.sounds.filter(({ runs }) => runs === "tape");
  const samples = onTape.reduce((most, { channels }) => Math.max(most, channels?.[0].length ?? 0), 0);
  const order = orderOf(task.request, source.scene, take?.lengthS ?? samples / SAMPLE_RATE_HZ);
  if (typeof order === "string") throw new Error(order);
  await send("order", JSON.stringify(order));
  let toldMs = 0;
  await makePieces({ ...source, take }, order, {
    made: new Set(task.made),
    put: (name, bytes) => send(`piece/${name}`, bytes as Uint8Array<ArrayBuffer>),
    pace: { next: async () => {} },
    onProgress: (progress) => {
      if (performance.now() - toldMs < TELL_MS) return;
      toldMs = performance.now();
      void send("progress", JSON.stringify(progress)).catch(() => {});
    },
  });
  await send("done", "");
}
